using System.Security.Cryptography;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Passwords;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Passwords;

/// <summary>A pass just made, with its password, which is told once.</summary>
/// <param name="Pass">What is kept of it.</param>
/// <param name="Password">The password itself.</param>
/// <param name="Text">Words that are ready to send.</param>
public sealed record MadePass(Pass Pass, Secret Password, Secret Text);

/// <summary>What is drawn for a pass: what is kept of it, and its password.</summary>
public sealed record DrawnPass(FreshPass Fresh, string Password);

/// <summary>Makes, changes, renews, replaces and withdraws passes.</summary>
public sealed class PassDesk(Store store, PassKeeper keeper, PolicyHolder policies, PeopleLane people, ILetters letters, TimeProvider time)
{
    /// <summary>Tells a pass to whoever is given it.</summary>
    public const string LetterOfPass = "pass";

    private const string LetterOfRotation = "pass-rotated";

    /// <summary>Draws what a pass needs.</summary>
    public DrawnPass Draw()
    {
        var password = Passphrase.Draw(policies.Current.Settings.Language, RandomNumberGenerator.GetInt32);
        return new DrawnPass(
            new FreshPass(Guid.CreateVersion7(), Passphrase.DrawEnding(RandomNumberGenerator.GetInt32), keeper.DigestOf(password)), password);
    }

    /// <summary>Makes one, and sends it where that is wanted.</summary>
    public async Task<Outcome<MadePass>> AddAsync(PassTerms terms, bool send, string by, CancellationToken stop)
    {
        var drawn = Draw();
        var made = await people.ChangeAsync<Pass>(
            async () =>
            {
                if (await FaultOfAsync(terms, stop) is { } taken)
                {
                    return taken;
                }

                var added = PassCommands.Add(policies.Current, terms, drawn.Fresh, time.GetUtcNow());
                return added.Problem is not null ? added : Sent(added.Value, LetterOfPass, drawn.Password, send, null);
            },
            by);
        return made.Problem is { } wrong ? wrong : Made(made.Value, drawn.Password);
    }

    /// <summary>Makes many at once, all or none of them.</summary>
    public async Task<Outcome<List<MadePass>>> AddManyAsync(IReadOnlyList<(PassTerms Terms, bool Send)> all, string by)
    {
        var drawn = all.Select(a => (a.Terms, a.Send, Drawn: Draw())).ToList();
        var made = await people.ChangeAsync<List<Pass>>(
            () =>
            {
                var (passes, changes) = (new List<Pass>(), new List<Change>());
                foreach (var (terms, send, fresh) in drawn)
                {
                    var one = PassCommands.Add(policies.Current, terms, fresh.Fresh, time.GetUtcNow());
                    if (one.Problem is { } problem)
                    {
                        return Task.FromResult<Outcome<Edit<List<Pass>>>>(problem);
                    }

                    passes.Add(one.Value.Value);
                    changes.AddRange(Sent(one.Value, LetterOfPass, fresh.Password, send, null).ToStore.Changes);
                }

                return Task.FromResult<Outcome<Edit<List<Pass>>>>(new Edit<List<Pass>>(
                    new Edit("pass.import", $"{passes.Count}", changes, null, string.Join(", ", passes.Take(20).Select(p => p.Name))), passes));
            },
            by);
        return made.Problem is { } wrong ? wrong : made.Value.Zip(drawn, (p, d) => Made(p, d.Drawn.Password)).ToList();
    }

    /// <summary>Changes whose one is, its dates and its bounds.</summary>
    public Task<Outcome<Pass>> SetAsync(Guid id, PassTerms terms, int? version, string by, CancellationToken stop) => people.ChangeAsync(
        async () => PassCommands.Set(policies.Current, await store.PassAsync(id, stop), terms, version), by);

    /// <summary>Gives one another end.</summary>
    public Task<Outcome<Pass>> RenewAsync(Guid id, string? until, string by, CancellationToken stop) => people.ChangeAsync(
        async () => PassCommands.Renew(policies.Current, await store.PassAsync(id, stop), until), by);

    /// <summary>Withdraws one.</summary>
    public Task<Outcome<Pass>> WithdrawAsync(Guid id, string by, CancellationToken stop) => people.ChangeAsync(
        async () => PassCommands.Withdraw(await store.PassAsync(id, stop), time.GetUtcNow()), by);

    /// <summary>Gives one another password; the one before works on for the overlap.</summary>
    public async Task<Outcome<MadePass>> RotateAsync(Guid id, TimeSpan overlap, bool send, string by, CancellationToken stop)
    {
        var password = Draw().Password;
        var made = await people.ChangeAsync<Pass>(
            async () =>
            {
                var now = time.GetUtcNow();
                var rotated = PassCommands.Rotate(await store.PassAsync(id, stop), keeper.DigestOf(password), overlap, now);
                return rotated.Problem is not null ? rotated
                    : Sent(rotated.Value, LetterOfRotation, password, send, overlap > TimeSpan.Zero ? letters.Day(now + overlap, null) : null);
            },
            by);
        return made.Problem is { } wrong ? wrong : Made(made.Value, password);
    }

    /// <summary>What is wrong with a sign-in name: another pass has it, or a member. Null where nothing is.</summary>
    public async Task<Problem?> FaultOfAsync(PassTerms terms, CancellationToken stop)
    {
        var name = Pass.NormaliseName(terms.Name ?? "");
        return name.Length > 0 && PlainText.IsClean(name) && (await store.PassByNameAsync(name, stop) is not null
            || await store.MemberByNameAsync(name, stop) is not null) ? Problem.In("name", "pass-exists", name) : null;
    }

    private MadePass Made(Pass pass, string password) => new(pass, password, TextOf(pass, password));

    private Edit<Pass> Sent(Edit<Pass> edit, string kind, string password, bool send, string? overlap) => !send || edit.Value.Email is null ? edit
        : new Edit<Pass>(edit.ToStore with { Changes = [.. edit.ToStore.Changes, Written(edit.Value, kind, password, null, overlap)] }, edit.Value);

    /// <summary>The letter that tells a pass to whoever is given it.</summary>
    public Change Letter(Pass pass, string password, string? language) => Written(pass, LetterOfPass, password, language, null);

    private Change Written(Pass pass, string kind, string password, string? language, string? overlap) => letters.Write(
        kind, new LetterReader(pass.Email!, pass.Holder, language), ("thing", TitleOf(pass.Kind)), ("name", pass.Name), ("password", password),
        ("link", letters.PageAt("/sign-in")), ("until", DayOf(pass)), ("overlap", overlap));

    private string? DayOf(Pass pass)
    {
        var dates = new SiteDates(policies.Current.Settings.TimeZone);
        return pass.Until is { } until ? letters.Day(dates.StartOf(dates.DayOf(until.AddTicks(-1))), null) : null;
    }

    private string TitleOf(string kind) => policies.Current.FindDefinition(FactKind.Pass, kind)?.Title ?? kind;

    /// <summary>What the owner can send: where to go and what to type.</summary>
    private string TextOf(Pass pass, string password)
    {
        var lines = new List<string>
        {
            PageWords.Of("mail.pass-lead", TitleOf(pass.Kind), policies.Current.Settings.SiteName), "", letters.PageAt("/sign-in"),
            PageWords.Of("mail.pass-name", pass.Name), PageWords.Of("mail.password-is", password),
        };
        if (DayOf(pass) is { } until)
        {
            lines.Add(PageWords.Of("mail.password-until", until));
        }

        return string.Join('\n', lines);
    }
}
