using WarySentinel.Core.Access;

namespace WarySentinel.Core.People;

/// <summary>How people come in who ask by themselves (docs/how-to/joining.md).</summary>
public static class Joining
{
    /// <summary>How long an account waits for its address to be proved, before it goes away.</summary>
    public static readonly TimeSpan UnprovedLasts = TimeSpan.FromDays(7);

    /// <summary>Where an account stands once its address is proved, or need not be.</summary>
    public static MemberStatus Proved(JoinSettings joining) => joining.Way == JoinWay.Open ? MemberStatus.Active : MemberStatus.Pending;

    /// <summary>The account of somebody who asks to join. It holds nothing; it can do nothing before it is active.</summary>
    /// <param name="policy">Says who may.</param>
    /// <param name="draft">Name, address, and the password, which is tried but not kept here.</param>
    /// <param name="hash">The hash of the password.</param>
    /// <param name="id">The new account's own name.</param>
    /// <param name="now">Now.</param>
    /// <param name="rules">Judges the password.</param>
    public static Outcome<Edit<Member>> Register(Policy policy, MemberDraft draft, Secret hash, Guid id, DateTimeOffset now, PasswordRules rules)
    {
        var joining = policy.Settings.Joining;
        if (joining.Way == JoinWay.Closed)
        {
            return Problem.Of(ProblemKind.Forbidden, "join-closed");
        }

        var read = MemberCommands.Read(policy, draft, id, now, rules);
        if (read.Problem is { } problem)
        {
            return problem;
        }

        // Whom a gate names by address is let in there: whoever says that they are it proves it, whatever the site asks of others.
        var isNamed = AccountCommands.Naming(policy, read.Value) is not null;
        var fresh = read.Value with
        {
            PasswordHash = hash,
            Status = joining.Confirm || isNamed ? MemberStatus.Unverified : Proved(joining),
            Cause = new StatusCause(now, read.Value.Email, null),
        };
        return new Edit<Member>(new Edit("member.register", fresh.Email, [new MemberAdded(fresh)], null, fresh.Name), fresh);
    }

    /// <summary>Says yes to somebody who asked.</summary>
    public static Outcome<Edit<Member>> Approve(Member? member, string by, DateTimeOffset now) => Decide(member, MemberStatus.Active, null, by, now, "approve");

    /// <summary>Says no to somebody who asked. They read the words when they sign in, and in the letter.</summary>
    public static Outcome<Edit<Member>> Decline(Member? member, string? words, string by, DateTimeOffset now) =>
        words is { Length: > AccountCommands.LongestWords } || (words is not null && !PlainText.IsClean(words, true))
            ? Problem.In("words", "letter-text", AccountCommands.LongestWords) : Decide(member, MemberStatus.Closed, words, by, now, "decline");

    private static Outcome<Edit<Member>> Decide(Member? member, MemberStatus status, string? words, string by, DateTimeOffset now, string action)
    {
        if (member is null)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        if (member.Status != MemberStatus.Pending)
        {
            return Problem.Of(ProblemKind.Conflict, "request-decided", member.Email);
        }

        var after = member with { Status = status, Cause = new StatusCause(now, by, words), Version = member.Version + 1 };
        return new Edit<Member>(
            new Edit(
                "member." + action, member.Email,
                [new MemberSet(after, member.Version), new LinksClosed(null, member.Id, null, status == MemberStatus.Active ? LinkEnd.Used
                    : LinkEnd.Withdrawn)],
                null, words),
            after);
    }
}
