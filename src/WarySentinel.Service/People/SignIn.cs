using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>What came of a try with a password.</summary>
/// <param name="Member">Who it was, if it was right.</param>
/// <param name="Wait">How long to wait before the next try.</param>
/// <param name="Left">How many tries are left before a wait.</param>
/// <param name="Busy">Whether the queue of slow hashes was full.</param>
public sealed record SignInResult(Member? Member, TimeSpan Wait, int Left, bool Busy = false)
{
    /// <summary>What was said to somebody who is kept out; only who has proved to be them reads it.</summary>
    public string? Words { get; init; }

    /// <summary>The pass that it was, where it was one.</summary>
    public HeldPass? Pass { get; init; }

    /// <summary>Until when that password of the pass counts; null for as long as the pass does.</summary>
    public DateTimeOffset? PassUntil { get; init; }
}

/// <summary>From where a try comes.</summary>
/// <param name="Network">The network.</param>
/// <param name="Browser">The browser, and the members who have signed in with it before.</param>
public sealed record TryFrom(string Network, KnownBrowser Browser);

/// <summary>
/// Signs members in: same answer and same work whether the account exists or not, slower with every wrong try.
/// A member is one name, however they are called; many networks against one member meet a brake of its own, which spares the browsers that the
/// member has used before, so that nobody can lock somebody else out of their own.
/// </summary>
public sealed class SignIn(
    Store store, PasswordHashing passwords, IPasses passes, SharedTries tries, PeopleLane people, ILetters letters, TimeProvider time, ILogger<SignIn> log)
{
    private static readonly TimeSpan ToldOnceIn = TimeSpan.FromDays(1);
    private readonly Throttle byNetwork = new(time, 10, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
    private readonly Throttle byName = new(time, 5, TimeSpan.FromMinutes(5), TimeSpan.FromMinutes(15));
    private readonly Throttle byMember = new(time, 20, TimeSpan.FromMinutes(2), TimeSpan.FromHours(2));

    /// <summary>Tries a name and password from a network.</summary>
    /// <param name="name">As it was typed.</param>
    /// <param name="password">As it was typed.</param>
    /// <param name="from">From where.</param>
    /// <param name="stop">Cancels.</param>
    /// <param name="alsoPasses">Whether they may be those of a pass.</param>
    public async Task<SignInResult> TryAsync(string name, string password, TryFrom from, CancellationToken stop, bool alsoPasses = false)
    {
        name = EmailAddress.Normalise(name) ?? name.Trim().ToLowerInvariant();
        // No account has a name that long, or with what no text may hold.
        var member = name.Length is 0 or > 254 || !Core.PlainText.IsClean(name) ? null : await store.MemberByNameAsync(name, stop);
        var who = member?.Id.ToString() ?? (name.Length > 254 ? name[..254] : name);
        var spared = member is not null && from.Browser.Knows(member.Id);
        var attempt = await tries.AttemptAsync(
            Steps(from, who, spared),
            async () => alsoPasses && await passes.ProveAsync(name, password, from.Network, stop) is { } pass ? new Proved(null, pass)
                : await passwords.ProvesAsync(password.Length > PasswordRules.Longest ? "" : password, member?.PasswordHash?.Reveal(), stop)
                && (member is { Status: MemberStatus.Active } || WordsTo(member) is not null) ? new Proved(member, null) : null,
            stop);
        if (attempt.Right is { Pass: { } proved })
        {
            return new SignInResult(null, TimeSpan.Zero, 0) { Pass = proved.Pass, PassUntil = proved.Until, Words = proved.Words };
        }

        if (attempt.Right?.Member is { Status: not MemberStatus.Active } keptOut)
        {
            log.LogInformation("Kept a member out who is {Status}", keptOut.Status);
            return new SignInResult(null, TimeSpan.Zero, 0) { Words = WordsTo(keptOut) };
        }

        if (attempt.Right?.Member is { PasswordHash: { } hash } known && !PasswordHashing.IsOurs(hash.Reveal()))
        {
            await RenewAsync(known, hash, password, stop);
        }

        if (attempt is { Right: null, Busy: false })
        {
            if (member is { Status: MemberStatus.Active } && !spared && byMember.WaitOf(who) is { Ticks: > 0 } wait)
            {
                // Whoever tries learns by no answer, and by no time that it takes, that there is such a member.
                _ = TellOfLockAsync(member, wait);
            }

            log.LogInformation("Refused a sign-in from {Network}", from.Network);
        }

        return new SignInResult(attempt.Right?.Member, attempt.Wait, attempt.Left, attempt.Busy);
    }

    /// <summary>Tells a member that so many tries failed that browsers they have not used before have to wait; once a day at most.</summary>
    private async Task TellOfLockAsync(Member member, TimeSpan wait)
    {
        try
        {
            await Task.Yield();
            if (!await store.TakeTurnAsync($"locked:{member.Id:N}", time.GetUtcNow() - ToldOnceIn))
            {
                return;
            }

            var letter = letters.Write(
                "locked", LetterReader.Of(member), ("minutes", Math.Ceiling(wait.TotalMinutes).ToString(System.Globalization.CultureInfo.InvariantCulture)),
                ("link", letters.PageAt("/password/forgotten")));
            await people.ChangeAsync(new Edit<int>(new Edit("member.locked", member.Email, [letter]), 0), "sign-in");
        }
        catch (Exception fault)
        {
            log.LogWarning("A member was not told of failed sign-ins: {Reason}", fault.Message);
        }
    }

    /// <summary>
    /// Puts a hash of our own in the place of one that was brought along, now that the password is known. Where it cannot be done at present, the next
    /// sign-in does.
    /// </summary>
    private async Task RenewAsync(Member known, Secret old, string password, CancellationToken stop)
    {
        try
        {
            var fresh = await passwords.HashAsync(password, stop);
            await people.ChangeAsync<Member>(
                async () => await store.MemberAsync(known.Id, stop) is { } now && now.PasswordHash?.Reveal() == old.Reveal()
                    ? MemberCommands.RenewHash(now, fresh) : new Edit<Member>(new Edit("password.renew", known.Email, []), known), known.Email);
        }
        catch (BusyException)
        {
            log.LogDebug("A brought hash is renewed another time: too many sign-ins wait");
        }
    }

    /// <summary>By network, by who it is and from where, and by who it is wherever from: always in this order, so that no two wait for each other.</summary>
    private List<TryStep> Steps(TryFrom from, string who, bool spared)
    {
        List<TryStep> steps =
            [new(byNetwork, "network", from.Network), new(byName, "name", spared ? $"{from.Browser.Id} {who}" : $"{from.Network} {who}")];
        return spared ? steps : [.. steps, new TryStep(byMember, "member", who)];
    }

    /// <summary>Whose name and password were right.</summary>
    private sealed record Proved(Member? Member, ProvedPass? Pass);

    private static string? WordsTo(Member? member) => member?.Status switch
    {
        MemberStatus.Suspended or MemberStatus.Closed => member.Cause?.Words,
        MemberStatus.Pending => PageWords.Of("request.waits"),
        MemberStatus.Unverified => PageWords.Of("request.unproved"),
        _ => null,
    };
}
