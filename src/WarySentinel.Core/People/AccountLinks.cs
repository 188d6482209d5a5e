using WarySentinel.Core.Access;

namespace WarySentinel.Core.People;

/// <summary>What a link is made with.</summary>
/// <param name="Digest">The SHA-256 of what stands in it.</param>
/// <param name="Code">The SHA-256 of the same with the code that has to be typed; null where following it is enough.</param>
/// <param name="Lately">When links about the same account were made within the last day, newest first, with what they were for.</param>
/// <param name="IsAsked">Whether anybody may ask for it, who knows the address: then one letter a while is written, and no more.</param>
public sealed record LinkMaking(Secret Digest, Secret? Code, IReadOnlyList<(LinkPurpose Purpose, DateTimeOffset At)> Lately, bool IsAsked);

/// <summary>
/// Links in letters that prove who somebody is: to set a password, to confirm an address, to take another, to sign in. Each is good for one account, one
/// purpose and one address, once; and no longer after a newer one, a change of password or address, or a suspension (docs/explanation/links.md).
/// </summary>
public static class AccountLinks
{
    /// <summary>How often a code may be tried.</summary>
    public const int MostTries = 5;

    /// <summary>How long a code lasts.</summary>
    public static readonly TimeSpan CodeLasts = TimeSpan.FromMinutes(15);

    /// <summary>How many letters with links one account is written in a day at most.</summary>
    public const int MostInADay = 20;

    /// <summary>The while between two letters that anybody may ask for.</summary>
    public static readonly TimeSpan Pace = TimeSpan.FromMinutes(5);

    /// <summary>How long a link lasts.</summary>
    public static TimeSpan LastsFor(LinkPurpose purpose) => purpose switch
    {
        LinkPurpose.SetPassword => TimeSpan.FromHours(1),
        LinkPurpose.SignIn => TimeSpan.FromMinutes(15),
        LinkPurpose.NewAddress => TimeSpan.FromDays(1),
        LinkPurpose.Confirm => TimeSpan.FromDays(3),
        LinkPurpose.Application => TimeSpan.FromDays(60),
        _ => TimeSpan.FromDays(14),
    };

    /// <summary>
    /// What somebody who asks for a new password is sent: that link; the invitation again, where they never set one; the same as confirming, where their
    /// address is not proved yet; nothing, where they are kept out.
    /// </summary>
    public static LinkPurpose? InPlaceOfPassword(Member? member) => member?.Status switch
    {
        MemberStatus.Active or MemberStatus.Unverified => LinkPurpose.SetPassword,
        MemberStatus.Invited => LinkPurpose.Invitation,
        _ => null,
    };

    /// <summary>Makes a link in place of earlier ones for the same. The letter that brings it is stored with it.</summary>
    public static Outcome<Edit<SingleUseLink>> Make(Member? member, LinkPurpose purpose, string? address, LinkMaking making, DateTimeOffset now)
    {
        if (member is null)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        if (!IsFor(purpose, member.Status))
        {
            return Problem.Of(ProblemKind.Conflict, "link-status", member.Email);
        }

        var last = making.Lately.FirstOrDefault(l => l.Purpose == purpose).At;
        if (making.Lately.Count >= MostInADay || (making.IsAsked && now - last < Pace))
        {
            return Problem.Of(ProblemKind.TooMany, "link-pace", Pace.TotalMinutes);
        }

        var link = new SingleUseLink(Guid.CreateVersion7(), purpose, making.Digest, member.Id, address ?? member.Email, now,
            now + (making.Code is null ? LastsFor(purpose) : CodeLasts))
        { Code = making.Code };
        IEnumerable<Change> alone = making.IsAsked ? [new NoLinkSince(purpose, member.Id, now - Pace)] : [];
        var edit = new Edit(
            "link." + NameOf(purpose), member.Email, [.. alone, new LinksClosed(purpose, member.Id, null, LinkEnd.Replaced), new LinkAdded(link)],
                null, address);
        return new Edit<SingleUseLink>(edit, link);
    }

    /// <summary>The name of a purpose, as it is told.</summary>
    public static string NameOf(LinkPurpose purpose) => purpose switch
    {
        LinkPurpose.SetPassword => "set-password",
        LinkPurpose.NewAddress => "new-address",
        LinkPurpose.SignIn => "sign-in",
        _ => purpose.ToString().ToLowerInvariant(),
    };

    /// <summary>Asks for another address: free, and not named by a gate, which would let in whoever takes the old one next.</summary>
    public static Outcome<string> NewAddress(Policy policy, Member? member, string? typed)
    {
        if (member is null)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        if (EmailAddress.Normalise(typed) is not { } address)
        {
            return Problem.In("email", "email-form", typed);
        }

        return address == member.Email ? Problem.In("email", "email-same") : AccountCommands.Naming(policy, member) is not null
            ? Problem.In("email", "email-named") : (Outcome<string>)address;
    }

    /// <summary>Sets a password by a link, and with it proves the address. Whoever was signed in elsewhere is so no longer.</summary>
    public static Outcome<Edit<Member>> SetPassword(
        Member? member, SingleUseLink link, Secret hash, string? name, MemberStatus proved, DateTimeOffset now)
    {
        if (member is null || !link.IsOpen(now) || link.Purpose is not (LinkPurpose.SetPassword or LinkPurpose.Invitation)
            || !IsFor(link.Purpose, member.Status)
            || link.Subject != member.Id || link.Address != member.Email)
        {
            return Closed;
        }

        var after = member with { PasswordHash = hash, Name = name ?? member.Name, Version = member.Version + 1 };
        after = member.Status == MemberStatus.Active ? after
            : after with
            {
                // Whoever was invited is wanted already.
                Status = member.Status == MemberStatus.Unverified ? proved : MemberStatus.Active,
                Cause = new StatusCause(now, member.Email, null),
            };
        return new Edit<Member>(
            new Edit(
                link.Purpose == LinkPurpose.Invitation ? "member.join" : "password.set", member.Email,
                [new LinkUsed(link.Id), new MemberSet(after, member.Version), new SessionsEnded(member.Id), Others(member)]), after);
    }

    /// <summary>Changes the password of somebody who is signed in, and knows the one they have. Other sessions end.</summary>
    public static Edit<Member> ChangePassword(Member member, Secret hash, Guid? session)
    {
        var after = member with { PasswordHash = hash, Version = member.Version + 1 };
        return new Edit<Member>(
            new Edit(
                "password.change", member.Email, [new MemberSet(after, member.Version), new SessionsEnded(member.Id, session), Others(member)]), after);
    }

    /// <summary>Sets a password that was made up for somebody; it is told to whoever asked, once.</summary>
    public static Outcome<Edit<Member>> Generated(Member? member, Secret hash, string by, DateTimeOffset now)
    {
        if (member is null)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        if (member.Status is MemberStatus.Closed or MemberStatus.Suspended or MemberStatus.Pending)
        {
            return Problem.Of(ProblemKind.Conflict, "link-status", member.Email);
        }

        var after = member with { PasswordHash = hash, Version = member.Version + 1 };
        after = member.Status == MemberStatus.Active ? after : after with { Status = MemberStatus.Active, Cause = new StatusCause(now, by, null) };
        return new Edit<Member>(
            new Edit("password.generate", member.Email, [new MemberSet(after, member.Version), new SessionsEnded(member.Id), Others(member)]), after);
    }

    /// <summary>Proves the address of an account by a link.</summary>
    /// <param name="member">Whose it is.</param>
    /// <param name="link">The link.</param>
    /// <param name="proved">Where an account stands once its address is proved.</param>
    /// <param name="now">Now.</param>
    public static Outcome<Edit<Member>> Confirm(Member? member, SingleUseLink link, MemberStatus proved, DateTimeOffset now)
    {
        if (member is null || !link.IsOpen(now) || link.Purpose != LinkPurpose.Confirm || !IsFor(link.Purpose, member.Status) || link.Subject != member.Id
            || link.Address != member.Email)
        {
            return Closed;
        }

        // Who has no password yet sets one next.
        var status = member.PasswordHash is null ? MemberStatus.Invited : proved;
        var after = member with { Status = status, Cause = new StatusCause(now, member.Email, null), Version = member.Version + 1 };
        return new Edit<Member>(new Edit("member.confirm", member.Email, [new LinkUsed(link.Id), new MemberSet(after, member.Version)]), after);
    }

    /// <summary>Takes another address by the link that was sent to it. What other links there are, to the old one, count no longer.</summary>
    public static Outcome<Edit<Member>> TakeAddress(Policy policy, Member? member, SingleUseLink link, DateTimeOffset now)
    {
        if (member is null || !link.IsOpen(now) || link.Purpose != LinkPurpose.NewAddress || !IsFor(link.Purpose, member.Status) || link.Subject != member.Id)
        {
            return Closed;
        }

        if (AccountCommands.Naming(policy, member) is not null)
        {
            return Problem.In("email", "email-named");
        }

        var after = member with { Email = link.Address, Version = member.Version + 1 };
        return new Edit<Member>(
            new Edit("member.address", member.Email, [new LinkUsed(link.Id), new MemberSet(after, member.Version), Others(member)], member.Email, after.Email)
            { Notes = [new Edit("member.address", after.Email, [], member.Email, after.Email)] },
            after);
    }

    /// <summary>Signs in by a link. Staff never do: their password is asked for.</summary>
    public static Outcome<Edit<Member>> SignIn(Member? member, SingleUseLink link, bool isStaff, DateTimeOffset now) =>
        member is null || isStaff || !link.IsOpen(now) || link.Purpose != LinkPurpose.SignIn || !IsFor(link.Purpose, member.Status) || link.Subject != member.Id
            || link.Address != member.Email ? Closed
        : new Edit<Member>(new Edit("member.sign-in", member.Email, [new LinkUsed(link.Id), new MemberTouched(member.Id, member.Version)]),
            member with { Version = member.Version + 1 });

    private static bool IsFor(LinkPurpose purpose, MemberStatus status) => purpose switch
    {
        LinkPurpose.SetPassword => status is MemberStatus.Active or MemberStatus.Unverified,
        LinkPurpose.Invitation => status is MemberStatus.Invited,
        LinkPurpose.Confirm => status is MemberStatus.Unverified,
        LinkPurpose.Approval or LinkPurpose.Application => status is MemberStatus.Pending,
        LinkPurpose.NewAddress or LinkPurpose.SignIn => status is MemberStatus.Active,
        _ => false,
    };

    private static LinksClosed Others(Member member) => new(null, member.Id, null, LinkEnd.Replaced);

    private static Problem Closed => Problem.Of(ProblemKind.Conflict, "link-closed");
}
