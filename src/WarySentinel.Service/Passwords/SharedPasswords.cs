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

/// <summary>A shared password just made, with its secret where it was generated: told once.</summary>
/// <param name="Password">What is kept of it.</param>
/// <param name="Secret">The password itself, where it was generated.</param>
/// <param name="Text">Words that are ready to send, where it was generated.</param>
public sealed record MadePassword(SharedPassword Password, Secret? Secret, Secret? Text);

/// <summary>Adds, tries, replaces and withdraws shared passwords. A typed one is found by keyed digest and proved by slow hash.</summary>
public sealed class SharedPasswords(
    Store store, PasswordHashing passwords, SharedTries tries, Secrets secrets, PolicyHolder policies, ILetters letters, ServiceOptions options,
    TimeProvider time, ILogger<SharedPasswords> log)
{
    private static readonly TimeSpan PassingLasts = TimeSpan.FromHours(24);
    private readonly Throttle byNetwork = new(time, 5, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));

    /// <summary>Adds one to a gate; generated where none is given.</summary>
    /// <param name="terms">What it opens, for whom and how long.</param>
    /// <param name="typed">The password; null to generate one.</param>
    /// <param name="tell">E-mail addresses that are sent it; sealed until they are sent.</param>
    /// <param name="by">Who does it.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<Outcome<MadePassword>> AddAsync(
        SharedPasswordTerms terms, string? typed, IReadOnlyList<string> tell, string by, CancellationToken stop)
    {
        var secret = typed ?? Generate();
        var known = await policies.KnownKeysAsync(policies.Current, [terms.Asked ?? ""], stop);
        if (SharedPasswordCommands.Check(policies.Current, terms, secret, known) is { } problem)
        {
            return problem;
        }

        var fresh = await MakeAsync(terms, secret, null, stop);
        var messages = LettersOf("shared-password", fresh, secret, tell, null);
        var added = await policies.ChangeAsync(
            async policy => SharedPasswordCommands.Check(policy, terms, secret, null) is { } late
                ? late
                : SharedPasswordCommands.Add(fresh, await store.SharedPasswordsByDigestAsync(fresh.Digest.Reveal(), stop), messages, time.GetUtcNow()),
            by, stop);
        return added.Problem is { } refused ? refused
            : new MadePassword(added.Value, typed is null ? secret : null, typed is null ? TextOf(fresh, secret) : null);
    }

    /// <summary>Puts a generated one in the place of another.</summary>
    /// <param name="id">The one to be replaced.</param>
    /// <param name="overlap">How long both work.</param>
    /// <param name="tell">E-mail addresses that are sent the new one; sealed until they are sent.</param>
    /// <param name="by">Who does it.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="unless">Asked where it is stored; a problem that it gives keeps the old one.</param>
    public async Task<Outcome<MadePassword>> RotateAsync(
        Guid id, TimeSpan overlap, IReadOnlyList<string> tell, string by, CancellationToken stop, Func<Task<Problem?>>? unless = null)
    {
        if (await store.SharedPasswordAsync(id, stop) is not { } old)
        {
            return Problem.Of(ProblemKind.NotFound, "shared-password-unknown");
        }

        var secret = Generate();
        var fresh = await MakeAsync(new SharedPasswordTerms(old.Gate, old.Label, null, null, old.MostUses, old.Asked?.ToString())
        { ForOrders = old.Sealed is not null }, secret, id, stop);
        var text = TextOf(fresh, secret);
        var messages = LettersOf(
            "shared-password-rotated", fresh, secret, tell, overlap > TimeSpan.Zero ? letters.Day(time.GetUtcNow() + overlap, null) : null);
        var rotated = await policies.ChangeAsync(
            async _ => unless is not null && await unless() is { } kept ? kept
                : SharedPasswordCommands.Rotate(await store.SharedPasswordAsync(id, stop), fresh, overlap, messages, time.GetUtcNow()), by, stop);
        return rotated.Problem is { } refused ? refused : new MadePassword(rotated.Value, secret, text);
    }

    private List<Change> LettersOf(string kind, SharedPassword fresh, string secret, IReadOnlyList<string> tell, string? overlap) =>
    [
        .. tell.Select(to => letters.Write(
            kind, new LetterReader(to), ("gate", policies.Current.FindGate(fresh.Gate)?.Title ?? fresh.Gate), ("password", secret),
            ("link", letters.PageAt("/unlock")), ("until", fresh.Until is { } end ? letters.Day(end, null) : null), ("overlap", overlap))),
    ];

    /// <summary>Whether a password is to be replaced.</summary>
    public async Task<bool> IsRotationDueAsync(CancellationToken stop) => (await DueAsync(stop)).Count > 0;

    /// <summary>Replaces every password whose gate's rotation says it is time; gives how many.</summary>
    public async Task<int> RotateDueAsync(CancellationToken stop)
    {
        var done = 0;
        foreach (var (gate, due) in await DueAsync(stop))
        {
            // Another machine may have replaced it since.
            async Task<Problem?> DoneAsync() => SharedPasswordCommands.Due(gate, await store.SharedPasswordsAsync(gate.Key, stop), time.GetUtcNow())
                .Any(d => d.Id == due.Id) ? null : Problem.Of(ProblemKind.Conflict, "shared-password-over", due.Label);
            var rotated = await RotateAsync(due.Id, gate.Rotation!.Overlap, gate.Rotation.Tell, "rotation", stop, DoneAsync);
            done += rotated.IsGood ? 1 : 0;
        }

        return done;
    }

    private async Task<List<(Gate Gate, SharedPassword Due)>> DueAsync(CancellationToken stop)
    {
        var rotating = policies.Current.Gates.Where(g => g.Rotation is not null).ToList();
        var all = rotating.Count == 0 ? [] : await store.SharedPasswordsAsync(null, stop);
        return [.. rotating.SelectMany(gate => SharedPasswordCommands.Due(gate, all, time.GetUtcNow()).Select(due => (gate, due)))];
    }

    /// <summary>Withdraws one.</summary>
    public Task<Outcome<SharedPassword>> WithdrawAsync(Guid id, string by, CancellationToken stop) =>
        policies.ChangeAsync(async _ => SharedPasswordCommands.Withdraw(await store.SharedPasswordAsync(id, stop), time.GetUtcNow()), by, stop);

    /// <summary>Tries a typed password; what it opens, if anything.</summary>
    public async Task<(IReadOnlyList<Opened> Opened, SignInResult Try)> TryAsync(string typed, Visitor visitor, string network, CancellationToken stop)
    {
        var attempt = await tries.AttemptAsync([new TryStep(byNetwork, "password", network)], () => ProveAsync(typed, visitor, stop), stop);
        var opened = attempt.Right is null ? [] : await UseAsync(attempt.Right, network, stop);
        if (opened.Count == 0 && !attempt.Busy)
        {
            log.LogInformation("Refused a shared password from {Network}", network);
        }

        return (opened, new SignInResult(null, attempt.Wait, attempt.Right is null ? attempt.Left : byNetwork.FreeLeft(network), attempt.Busy));
    }

    /// <summary>The passwords that were typed right; null where there is none.</summary>
    private async Task<List<SharedPassword>?> ProveAsync(string typed, Visitor visitor, CancellationToken stop)
    {
        var now = time.GetUtcNow();
        typed = typed.Length > SharedPassword.Longest ? "" : typed.Trim();
        var found = new List<SharedPassword>();
        foreach (var spelling in SharedPassword.Spellings(typed))
        {
            found.AddRange((await store.SharedPasswordsByDigestAsync(secrets.IndexOf(spelling), stop)).Where(p => p.IsInForce(now) && p.Asks(visitor, now)));
        }

        return await passwords.ProvesAsync(typed, found.FirstOrDefault()?.Hash.Reveal(), stop) && found.Count > 0 ? found : null;
    }

    /// <summary>What they open. A use is counted in the store itself, so that the last one cannot be had twice.</summary>
    private async Task<List<Opened>> UseAsync(List<SharedPassword> found, string network, CancellationToken stop)
    {
        var now = time.GetUtcNow();
        var usable = await store.UseAsync([.. found.Select(p => p.Id)], secrets.IndexOf("network " + network)[..16], stop);
        var opened = new List<Opened>();
        foreach (var password in found.Where(p => usable.Contains(p.Id)))
        {
            if (policies.Current.FindGate(password.Gate) is { } gate)
            {
                var until = now + (gate.UnlockFor == TimeSpan.Zero ? PassingLasts : gate.UnlockFor);
                opened.Add(new Opened(new StoredUnlock(gate.Key, password.Id, password.Until is { } end && end < until ? end : until), gate));
            }
        }

        return opened;
    }

    private string Generate() => Passphrase.Draw(policies.Current.Settings.Language, RandomNumberGenerator.GetInt32);

    private async Task<SharedPassword> MakeAsync(SharedPasswordTerms terms, string secret, Guid? replaces, CancellationToken stop)
    {
        var plain = SharedPassword.Normalise(secret);
        var asked = string.IsNullOrWhiteSpace(terms.Asked) ? null : AudienceParser.Parse(terms.Asked).Value;
        return new SharedPassword(
            Guid.CreateVersion7(), terms.Gate!, terms.Label!.Trim(), secrets.IndexOf(plain), await passwords.HashAsync(plain, stop), time.GetUtcNow(),
            terms.From?.ToUniversalTime(), terms.Until?.ToUniversalTime(), null, 0, null, terms.MostUses, asked == Audience.Anyone ? null : asked, replaces)
        { Sealed = terms.ForOrders ? new Secret(Convert.ToBase64String(secrets.Seal(System.Text.Encoding.UTF8.GetBytes(plain)))) : null };
    }

    /// <summary>The shared password that letters to buyers tell of a gate: the newest of those that are kept for that; null where there is none.</summary>
    public async Task<string?> ForOrdersAsync(string gate, CancellationToken stop)
    {
        var now = time.GetUtcNow();
        var kept = (await store.SharedPasswordsAsync(gate, stop)).Where(p => p.Sealed is not null && p.IsInForce(now));
        foreach (var one in kept.OrderByDescending(p => p.CreatedAt))
        {
            try
            {
                return System.Text.Encoding.UTF8.GetString(secrets.Unseal(Convert.FromBase64String(one.Sealed!.Reveal())));
            }
            catch (Exception fault) when (fault is CryptographicException or FormatException)
            {
                // Sealed under another secret of the service: it opens the gate still, and nobody can tell it any more.
                log.LogWarning("The shared password {Label} of {Gate} cannot be told any more: it was sealed under another secret", one.Label, gate);
            }
        }

        return null;
    }

    /// <summary>What the owner can send: where to go and what to type.</summary>
    private string TextOf(SharedPassword password, string secret)
    {
        var policy = policies.Current;
        var gate = policy.FindGate(password.Gate)!;
        var lines = new List<string>
        {
            PageWords.Of("mail.password-lead", gate.Title, policy.Settings.SiteName), "", options.SiteUrl.TrimEnd('/') + options.AccountPrefix + "/unlock",
                PageWords.Of("mail.password-is", secret),
        };
        if (password.Until is { } until)
        {
            lines.Add(PageWords.Of("mail.password-until", until.ToString("d MMMM yyyy", System.Globalization.CultureInfo.InvariantCulture)));
        }

        return string.Join('\n', lines);
    }
}
