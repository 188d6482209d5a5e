using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>A link that somebody followed, and whose account it is about; null where that is gone.</summary>
public sealed record FollowedAccount(SingleUseLink Link, Member? Member);

/// <summary>What a letter with a link is sent with.</summary>
/// <param name="By">Who sends it.</param>
/// <param name="Words">Words of their own, or null.</param>
/// <param name="IsAsked">Whether anybody may ask for it, who knows the address.</param>
/// <param name="Address">Where it goes, if not to the member's own address.</param>
/// <param name="Browser">What the browser holds that asked for a code; null for a link.</param>
/// <param name="Again">Whether it was sent before.</param>
/// <param name="From">Who sends it, as the reader knows them; null for the site itself.</param>
public sealed record LinkTerms(
    string By, string? Words = null, bool IsAsked = false, string? Address = null, string? Browser = null, bool Again = false, string? From = null);

/// <summary>Sends links in letters, and does what they are for.</summary>
public sealed partial class MemberLinks(
    Store store, PolicyHolder policies, PeopleLane people, PasswordHashing passwords, PasswordRules rules, CallerReader staff, ILetters letters,
    TimeProvider time)
{
    private const int LongestWords = 2000;
    private static readonly TimeSpan Lately = TimeSpan.FromDays(1);

    /// <summary>Makes a link for a member, and stores the letter that brings it.</summary>
    public Task<Outcome<SingleUseLink>> SendAsync(Guid member, LinkPurpose purpose, LinkTerms terms, CancellationToken stop) => people.ChangeAsync(
        async () =>
        {
            var (found, now) = (await store.MemberAsync(member, stop), time.GetUtcNow());
            return await MakeAsync(found, purpose, terms, now, stop);
        },
        terms.By);

    /// <summary>What is wrong with somebody's own words for such a letter, or null.</summary>
    public static Problem? FaultOf(string? words) =>
        words is not null && (words.Length > LongestWords || !PlainText.IsClean(words, true)) ? Problem.In("words", "letter-text", LongestWords) : null;

    /// <summary>
    /// The changes that make a link for a member, who may not be stored yet, with its letter.
    /// </summary>
    public async Task<Outcome<Edit<SingleUseLink>>> MakeAsync(
        Member? member, LinkPurpose purpose, LinkTerms terms, DateTimeOffset now, CancellationToken stop)
    {
        if (FaultOf(terms.Words) is { } fault)
        {
            return fault;
        }

        var secret = terms.Browser ?? LinkSecret.New();
        var code = terms.Browser is null ? null : RandomNumberGenerator.GetInt32(1_000_000).ToString("D6", CultureInfo.InvariantCulture);
        var lately = member is null ? [] : await store.LatelyMadeLinksAsync(member.Id, now - Lately, stop);
        var made = AccountLinks.Make(
            member, purpose, terms.Address, new LinkMaking(Secrets.DigestOf(secret), code is null ? null : CodeOf(secret, code), lately, terms.IsAsked), now);
        if (made.Problem is { } problem)
        {
            return problem;
        }

        var (edit, link) = (made.Value.ToStore, made.Value.Value);
        var letter = code is null ? Letter(member!, link, secret, terms) : CodeLetter(member!, link, code);
        return new Edit<SingleUseLink>(edit with { Changes = [.. edit.Changes, letter] }, link);
    }

    /// <summary>The changes that make a link for a member, who may not be stored yet, and what stands in it; another letter brings it.</summary>
    public async Task<Outcome<(Edit<SingleUseLink> Edit, string Secret)>> MintAsync(
        Member member, LinkPurpose purpose, DateTimeOffset now, CancellationToken stop)
    {
        var secret = LinkSecret.New();
        var lately = await store.LatelyMadeLinksAsync(member.Id, now - Lately, stop);
        var made = AccountLinks.Make(member, purpose, null, new LinkMaking(Secrets.DigestOf(secret), null, lately, false), now);
        return made.Problem is { } problem ? problem : (made.Value, secret);
    }

    /// <summary>
    /// Sends whoever has that address what lets them set a password, if anybody has. Says nothing of what came of it; the caller answers the same always.
    /// </summary>
    public async Task ForgottenAsync(string typed, string? browser, CancellationToken stop)
    {
        if (await FindAsync(typed, stop) is { } member && AccountLinks.InPlaceOfPassword(member) is { } purpose)
        {
            await SendAsync(
                member.Id, purpose, new LinkTerms(member.Email, null, true, null, purpose == LinkPurpose.SetPassword ? browser : null, true), stop);
        }
    }

    /// <summary>Sends whoever has that address a letter to sign in by, if anybody has, and may. Says nothing of what came of it.</summary>
    public async Task SignInLetterAsync(string typed, string? browser, CancellationToken stop)
    {
        if (policies.Current.Settings.Letters.SignIn && await FindAsync(typed, stop) is { Status: MemberStatus.Active } member && !staff.IsStaff(member))
        {
            await SendAsync(member.Id, LinkPurpose.SignIn, new LinkTerms(member.Email, null, true, null, browser), stop);
        }
    }

    /// <summary>What a link leads to, open or closed; null where there is no such link for any of these purposes.</summary>
    public async Task<FollowedAccount?> FollowAsync(string? secret, CancellationToken stop, params LinkPurpose[] purposes) =>
        await LinkAsync(secret, stop) is { Code: null } link && purposes.Contains(link.Purpose)
            ? new FollowedAccount(link, await store.MemberAsync(link.Subject, stop)) : null;

    /// <summary>
    /// Tries a code with what the browser holds that asked for it: the account that it is about, or null. There are few tries, and each counts, whoever makes
    /// it.
    /// </summary>
    public async Task<FollowedAccount?> FollowCodeAsync(string? browser, string typed, LinkPurpose purpose, CancellationToken stop)
    {
        typed = new string([.. typed.Where(char.IsAsciiDigit)]);
        foreach (var half in BrowserHalf.Lately(browser))
        {
            if (await store.LinkAsync(Secrets.DigestOf(half), stop) is { Code: { } code } link && link.Purpose == purpose && link.IsOpen(time.GetUtcNow())
                && await store.CountTryAsync(link.Id, stop)
                && CryptographicOperations.FixedTimeEquals(Encoding.ASCII.GetBytes(code.Reveal()), Encoding.ASCII.GetBytes(CodeOf(half, typed).Reveal())))
            {
                return new FollowedAccount(link, await store.MemberAsync(link.Subject, stop));
            }
        }

        return null;
    }

    /// <summary>A link in place of a code that was typed right: what stands in it.</summary>
    public async Task<Outcome<string>> InPlaceOfCodeAsync(FollowedAccount proved)
    {
        var (secret, old) = (LinkSecret.New(), proved.Link);
        var now = time.GetUtcNow();
        var link = old with
        {
            Id = Guid.CreateVersion7(),
            Digest = Secrets.DigestOf(secret),
            Code = null,
            CreatedAt = now,
            Until = now + AccountLinks.CodeLasts
        };
        var done = await people.ChangeAsync(
            new Edit<int>(new Edit("link.code", old.Address, [new LinkUsed(old.Id), new LinkAdded(link)]), 0), old.Address);
        return done.Problem is { } problem ? problem : secret;
    }

    /// <summary>Sets a password by a link, with a name where they give one.</summary>
    /// <param name="secret">What stands in the link.</param>
    /// <param name="name">How they are called; null to leave that.</param>
    /// <param name="password">The password.</param>
    /// <param name="device">The browser, as people know it.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<Outcome<Member>> SetPasswordAsync(string? secret, string? name, string password, string? device, CancellationToken stop)
    {
        var asked = await FollowAsync(secret, stop, LinkPurpose.SetPassword, LinkPurpose.Invitation);
        if (asked?.Member is not { } whose || !asked.Link.IsOpen(time.GetUtcNow()))
        {
            return Closed;
        }

        if (name is not null && (name.Trim().Length is 0 or > MemberCommands.LongestName || !PlainText.IsClean(name)))
        {
            return Problem.In("name", "name-length", MemberCommands.LongestName);
        }

        var hash = await HashAsync(whose, password, name, stop);
        return hash.Problem ?? await people.ChangeAsync<Member>(
            async () =>
            {
                var followed = await FollowAsync(secret, stop, LinkPurpose.SetPassword, LinkPurpose.Invitation);
                var request = followed?.Member is { Status: MemberStatus.Unverified } unproved ? await store.RequestAsync(unproved.Id, stop) : null;
                var set = followed is null ? Closed : AccountLinks.SetPassword(
                    followed.Member, followed.Link, hash.Value, name?.Trim(), Joining.Proved(policies.Current.Settings, request), time.GetUtcNow());
                return set.Problem is not null ? set : await ProvedAsync(
                    set.Value, request, followed!.Link.Purpose == LinkPurpose.Invitation ? null : Changed(set.Value.Value, device), stop);
            },
            whose.Email);
    }

    /// <summary>Changes the password of somebody who is signed in. The one they have was proved before.</summary>
    public async Task<Outcome<Member>> ChangePasswordAsync(Guid member, string password, Guid? session, string? device, CancellationToken stop)
    {
        if (await store.MemberAsync(member, stop) is not { } whose)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        var hash = await HashAsync(whose, password, null, stop);
        return hash.Problem ?? await people.ChangeAsync<Member>(
            async () => await store.MemberAsync(member, stop) is { Status: MemberStatus.Active } found
                && found.PasswordHash?.Reveal() == whose.PasswordHash?.Reveal()
                ? With(AccountLinks.ChangePassword(found, hash.Value, session), Changed(found, device)) : Closed,
            whose.Email);
    }

    /// <summary>Makes up a password for somebody; gives it, to be told once.</summary>
    public async Task<Outcome<(Member Member, string Password)>> GenerateAsync(Guid member, string by, CancellationToken stop)
    {
        var password = Passphrase.Draw(policies.Current.Settings.Language, RandomNumberGenerator.GetInt32);
        var hash = await passwords.TryHashAsync(password, stop);
        if (hash.Problem is { } busy)
        {
            return busy;
        }

        var done = await people.ChangeAsync(
            async () => AccountLinks.Generated(await store.MemberAsync(member, stop), hash.Value, by, time.GetUtcNow()), by);
        return done.Problem is { } problem ? problem : (done.Value, password);
    }

    /// <summary>Asks for another address: the letter that proves it goes there. Says the same whether somebody has it.</summary>
    public async Task<Outcome<string>> AskAddressAsync(Guid member, string? typed, CancellationToken stop)
    {
        var found = await store.MemberAsync(member, stop);
        var address = AccountLinks.NewAddress(policies.Current, found, typed);
        if (address.Problem is not null || await store.MemberByNameAsync(address.Value, stop) is not null)
        {
            return address;
        }

        var sent = await SendAsync(member, LinkPurpose.NewAddress, new LinkTerms(found!.Email, null, true, address.Value), stop);
        return sent.Problem is { Code: not "link-pace" } problem ? problem : address;
    }

    /// <summary>Takes another address by the link that was sent there; both addresses are told.</summary>
    public Task<Outcome<Member>> TakeAddressAsync(string? secret, CancellationToken stop) => ByLinkAsync(
        secret, LinkPurpose.NewAddress, (followed, now) => AccountLinks.TakeAddress(policies.Current, followed.Member, followed.Link, now),
        (member, followed) =>
        {
            var (old, at) = (followed.Member!.Email, letters.Day(time.GetUtcNow(), member.Language));
            return
            [
                .. new[] { old, member.Email }.Select(to => letters.Write(
                    "address-changed", new LetterReader(to, member.Name, member.Language), ("address", member.Email), ("old", old), ("at", at))),
            ];
        },
        stop);

    /// <summary>Proves the address of an account.</summary>
    public Task<Outcome<Member>> ConfirmAsync(string? secret, CancellationToken stop) => people.ChangeAsync<Member>(
        async () =>
        {
            if (await FollowAsync(secret, stop, LinkPurpose.Confirm) is not { Member: { } member, Link: var link })
            {
                return Closed;
            }

            var request = await store.RequestAsync(member.Id, stop);
            var done = AccountLinks.Confirm(member, link, Joining.Proved(policies.Current.Settings, request), time.GetUtcNow());
            return done.Problem is not null ? done : await ProvedAsync(done.Value, request, null, stop);
        },
        "link");

    /// <summary>Signs in by a link.</summary>
    public Task<Outcome<Member>> SignInAsync(string? secret, CancellationToken stop) => ByLinkAsync(
        secret, LinkPurpose.SignIn, SignInBy, (_, _) => [], stop);

    /// <summary>Signs in by a code that was typed right.</summary>
    public Task<Outcome<Member>> SignInAsync(FollowedAccount proved, CancellationToken stop) => people.ChangeAsync(
        async () => SignInBy(proved with { Member = await store.MemberAsync(proved.Link.Subject, stop) }, time.GetUtcNow()), proved.Link.Address);

    /// <summary>Sends another letter in place of one that came too late or was used. Says nothing of what came of it.</summary>
    public async Task AgainAsync(string? secret, CancellationToken stop)
    {
        if (await LinkAsync(secret, stop) is not { } link || await store.MemberAsync(link.Subject, stop) is not { } member)
        {
            return;
        }

        var purpose = link.Purpose is LinkPurpose.SetPassword or LinkPurpose.Invitation ? AccountLinks.InPlaceOfPassword(member) : link.Purpose;
        if (purpose is LinkPurpose.NewAddress or LinkPurpose.Organisation or null || link.Address != member.Email)
        {
            return;
        }

        await (purpose == LinkPurpose.SignIn ? SignInLetterAsync(member.Email, null, stop)
            : SendAsync(member.Id, purpose.Value, new LinkTerms(member.Email, null, true, Again: true), stop));
    }

    /// <summary>The account that somebody means by what they typed; null where there is none.</summary>
    private async Task<Member?> FindAsync(string typed, CancellationToken stop)
    {
        var name = EmailAddress.Normalise(typed) ?? typed.Trim().ToLowerInvariant();
        return name.Length is 0 or > 254 || !PlainText.IsClean(name) ? null : await store.MemberByNameAsync(name, stop);
    }

    private Outcome<Edit<Member>> SignInBy(FollowedAccount followed, DateTimeOffset now) => !policies.Current.Settings.Letters.SignIn ? Closed
        : AccountLinks.SignIn(followed.Member, followed.Link, followed.Member is { } member && staff.IsStaff(member), now);

    private Task<Outcome<Member>> ByLinkAsync(
        string? secret, LinkPurpose purpose, Func<FollowedAccount, DateTimeOffset, Outcome<Edit<Member>>> command,
        Func<Member, FollowedAccount, IReadOnlyList<Change>> tell, CancellationToken stop) => people.ChangeAsync(
        async () =>
        {
            if (await FollowAsync(secret, stop, purpose) is not { } followed)
            {
                return Closed;
            }

            var done = command(followed, time.GetUtcNow());
            return done.Problem is not null ? done : With(done.Value, [.. tell(done.Value.Value, followed)]);
        },
        "link");

    private async Task<SingleUseLink?> LinkAsync(string? secret, CancellationToken stop) =>
        LinkSecret.IsOne(secret) ? await store.LinkAsync(Secrets.DigestOf(secret), stop) : null;

    private async Task<Outcome<Secret>> HashAsync(Member whose, string password, string? name, CancellationToken stop) =>
        rules.FaultOf(password, whose.Email, name ?? whose.Name, whose.UserName, policies.Current.Settings.SiteName)
        ?? await passwords.TryHashAsync(password, stop);

    private Change Changed(Member member, string? device) => letters.Write(
        "password-changed", LetterReader.Of(member), ("at", letters.Day(time.GetUtcNow(), member.Language)), ("device", device),
        ("link", letters.PageAt("/password/forgotten")));

    private Change Letter(Member member, SingleUseLink link, string secret, LinkTerms terms)
    {
        var (kind, path) = link.Purpose switch
        {
            LinkPurpose.Invitation => (terms.Again ? "invitation-reminder" : "invitation", "/password/set"),
            LinkPurpose.Confirm => ("confirm", "/confirm"),
            LinkPurpose.NewAddress => ("confirm-address", "/address/confirm"),
            LinkPurpose.SignIn => ("sign-in-link", "/sign-in/link"),
            _ => ("set-password", "/password/set"),
        };
        return letters.Write(
            kind, LetterReader.Of(member) with { Address = link.Address }, ("link", letters.LinkTo(path, secret)),
            ("until", letters.Day(link.Until, member.Language)), ("minutes", Minutes(link)), ("by", terms.From),
            ("words", terms.Words), ("address", link.Address), ("member.email", member.Email));
    }

    private Change CodeLetter(Member member, SingleUseLink link, string code) => letters.Write(
        "sign-in-code", LetterReader.Of(member), ("code", $"{code[..3]} {code[3..]}"), ("minutes", Minutes(link)));

    private static string Minutes(SingleUseLink link) =>
        Math.Round((link.Until - link.CreatedAt).TotalMinutes).ToString(CultureInfo.InvariantCulture);

    private static Secret CodeOf(string browser, string code) => Secrets.DigestOf($"{browser}:{code}");

    private static Edit<Member> With(Edit<Member> edit, params IReadOnlyList<Change> more) =>
        new(edit.ToStore with { Changes = [.. edit.ToStore.Changes, .. more] }, edit.Value);

    private static Problem Closed => Problem.Of(ProblemKind.Conflict, "link-closed");
}
