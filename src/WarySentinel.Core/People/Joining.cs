using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Core.People;

/// <summary>What somebody sent who asks to join.</summary>
/// <param name="Person">Name, address and password.</param>
/// <param name="Form">The form.</param>
/// <param name="Filled">What they answered.</param>
public sealed record JoinAttempt(MemberDraft Person, JoinForm Form, FilledForm Filled)
{
    /// <summary>The files among the answers.</summary>
    public IReadOnlyList<AnswerFile> Files { get; init; } = [];

    /// <summary>For each terms by key, the version that they saw and whether they agreed.</summary>
    public IReadOnlyDictionary<string, (int Number, bool Agreed)> Said { get; init; } = new Dictionary<string, (int, bool)>();

    /// <summary>The language of the page (RFC 5646 tag).</summary>
    public string Language { get; init; } = "";

    /// <summary>Why it looks like a sham.</summary>
    public IReadOnlyList<Sign> Signs { get; init; } = [];

    /// <summary>The network that it came from, such as <c>192.0.2.0/24</c>.</summary>
    public string? Network { get; init; }
}

/// <summary>Somebody who asks to join: the account, and the request.</summary>
public sealed record Joined(Member Member, JoinRequest Request);

/// <summary>How people come in who ask by themselves (docs/how-to/joining.md).</summary>
public static class Joining
{
    /// <summary>How long an account waits for its address to be proved, before it goes away.</summary>
    public static readonly TimeSpan UnprovedLasts = TimeSpan.FromDays(7);

    /// <summary>How long one that was held back waits for staff, before it goes away.</summary>
    public static readonly TimeSpan HeldLasts = TimeSpan.FromDays(30);

    /// <summary>Where an account stands once its address is proved, or need not be.</summary>
    /// <param name="settings">The site's way, for an account that no request is kept of.</param>
    /// <param name="request">The request that it came by.</param>
    public static MemberStatus Proved(SiteSettings settings, JoinRequest? request) =>
        request?.NeedsApproval ?? settings.Joining.Way != JoinWay.Open ? MemberStatus.Pending : MemberStatus.Active;

    /// <summary>The account of somebody who asks to join. It holds nothing; it can do nothing before it is active.</summary>
    /// <param name="policy">Says who may.</param>
    /// <param name="attempt">What they sent; the password is tried but not kept here.</param>
    /// <param name="hash">The hash of the password.</param>
    /// <param name="id">The new account's own name.</param>
    /// <param name="now">Now.</param>
    /// <param name="rules">Judges the password.</param>
    public static Outcome<Edit<Joined>> Register(Policy policy, JoinAttempt attempt, Secret hash, Guid id, DateTimeOffset now, PasswordRules rules)
    {
        var joining = attempt.Form.JoiningOn(policy.Settings);
        if (joining.Way == JoinWay.Invitation)
        {
            return Problem.Of(ProblemKind.Forbidden, "join-invitation");
        }

        if (joining.Way == JoinWay.Closed || TermsBook.Of(policy).OfForm(attempt.Form.Draft.Terms, now) is not { } terms)
        {
            return Problem.Of(ProblemKind.Forbidden, "join-closed");
        }

        var (read, faults) = (MemberCommands.Read(policy, attempt.Person, id, now, rules), new Faults());
        if (read.Problem is { } problem)
        {
            faults.Take(problem);
        }

        attempt.Filled.Tell(faults);
        var consents = ConsentCommands.ByForm(terms, attempt, policy.Settings.Language, id, now, faults);
        if (faults.Any)
        {
            return faults.ToProblem();
        }

        // Whom a gate names by address is let in there: whoever says that they are it proves it, whatever the site asks of others.
        var mustProve = joining.Confirm || AccountCommands.Naming(policy, read.Value) is not null;
        var needsApproval = joining.Way == JoinWay.Approval && !attempt.Form.Approves(read.Value.Email, mustProve, attempt.Filled);
        var request = new JoinRequest(Guid.CreateVersion7(), id, attempt.Form.Key, now, RequestState.Unproved)
        {
            Grants = RequestCommands.GrantsOf(attempt.Form, attempt.Filled), Signs = attempt.Signs, NeedsApproval = needsApproval, Network = attempt.Network,
            Domain = read.Value.Email[(read.Value.Email.LastIndexOf('@') + 1)..],
        };
        var isHeld = Suspicion.IsHeld(attempt.Signs);
        var fresh = ConsentCommands.With(read.Value, consents) with
        {
            PasswordHash = hash,
            Status = mustProve ? MemberStatus.Unverified : isHeld || needsApproval ? MemberStatus.Pending : MemberStatus.Active,
            Cause = new StatusCause(now, read.Value.Email, null),
        };
        var changes = new List<Change>();
        (fresh, request) = isHeld ? (fresh, request with { State = RequestState.Held })
            : mustProve ? (fresh, request) : RequestCommands.Settled(policy, fresh, request, now, changes);
        return new Edit<Joined>(
            new Edit(
                "member.register", fresh.Email,
                [
                    new MemberAdded(fresh), new AnswersSet(id, attempt.Filled.Answers), .. attempt.Files.Select(f => new FileKept(f with { Member = id })),
                    .. consents.Select(c => new ConsentGiven(c)), new RequestAdded(request),
                ],
                null, fresh.Name),
            new Joined(fresh, request));
    }

    /// <summary>
    /// Takes in whom staff invited, by the form that they were asked to fill in: the link proves the address, and staff have said yes by it. What the form
    /// gives after approval still waits for them.
    /// </summary>
    /// <param name="policy">What is given has to be there.</param>
    /// <param name="attempt">What they sent; the address is the one that was invited.</param>
    /// <param name="invited">Who was invited, by which link and to which form.</param>
    /// <param name="hash">The hash of the password, which was judged before.</param>
    /// <param name="now">Now.</param>
    public static Outcome<Edit<Joined>> Accept(
        Policy policy, JoinAttempt attempt, (Member Member, SingleUseLink Link, JoinRequest Request) invited, Secret hash, DateTimeOffset now)
    {
        var (member, link, request) = invited;
        if (request.State != RequestState.Invited || TermsBook.Of(policy).OfForm(attempt.Form.Draft.Terms, now) is not { } terms)
        {
            return Problem.Of(ProblemKind.Conflict, "link-closed");
        }

        var (faults, name) = (new Faults(), attempt.Person.Name?.Trim() ?? "");
        faults.Unless(name.Length is > 0 and <= MemberCommands.LongestName && PlainText.IsClean(name), "name", "name-length", MemberCommands.LongestName);
        attempt.Filled.Tell(faults);
        var consents = ConsentCommands.ByForm(terms, attempt, policy.Settings.Language, member.Id, now, faults);
        if (faults.Any)
        {
            return faults.ToProblem();
        }

        var set = AccountLinks.SetPassword(ConsentCommands.With(member, consents), link, hash, name, MemberStatus.Active, now);
        if (set.Problem is { } closed)
        {
            return closed;
        }

        var changes = new List<Change>();
        var filled = request with { At = now, Grants = RequestCommands.GrantsOf(attempt.Form, attempt.Filled), Version = request.Version + 1 };
        (var after, filled) = RequestCommands.Settled(policy, set.Value.Value, filled, now, changes);
        return new Edit<Joined>(
            set.Value.ToStore with
            {
                Changes =
                [
                    .. set.Value.ToStore.Changes, new AnswersSet(member.Id, attempt.Filled.Answers),
                    .. attempt.Files.Select(f => new FileKept(f with { Member = member.Id })), .. consents.Select(c => new ConsentGiven(c)), .. changes,
                    new RequestSet(filled, request.Version),
                ],
            },
            new Joined(after, filled));
    }

    /// <summary>What becomes of a request as the address of its account is proved: what it gives at once is given.</summary>
    /// <param name="policy">What is given has to be there still.</param>
    /// <param name="proved">The edit that proves it.</param>
    /// <param name="request">The request; null where none is kept.</param>
    /// <param name="now">Now.</param>
    public static Edit<Member> WithRequest(Policy policy, Edit<Member> proved, JoinRequest? request, DateTimeOffset now)
    {
        if (request is not { State: RequestState.Unproved } || proved.Value.Status is not (MemberStatus.Pending or MemberStatus.Active))
        {
            return proved;
        }

        var changes = new List<Change>();
        var (after, settled) = RequestCommands.Settled(policy, proved.Value, request, now, changes);
        return new Edit<Member>(
            proved.ToStore with
            {
                Changes = [.. proved.ToStore.Changes, .. changes, new RequestSet(settled with { Version = request.Version + 1 },
                request.Version)]
            },
            after);
    }
}
