using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People.Forms;

/// <summary>Decides requests to join, and asks back.</summary>
public static class RequestCommands
{
    /// <summary>What a form gives by these answers, as it is kept with the request.</summary>
    public static IReadOnlyList<RequestGrant> GrantsOf(JoinForm form, FilledForm filled) =>
        [.. filled.GrantsOf(form).Select(g => new RequestGrant(g.Kind, g.Key, g.Days, g.AfterApproval)).Distinct()];

    /// <summary>Says yes. Who has to prove their address yet does so first, and then comes in without a further yes.</summary>
    /// <param name="policy">What is given has to be there still.</param>
    /// <param name="member">Who asked.</param>
    /// <param name="request">What they asked; null for an account that no request is kept of.</param>
    /// <param name="words">What they are told.</param>
    /// <param name="by">Who decides.</param>
    /// <param name="now">Now.</param>
    public static Outcome<Edit<Member>> Approve(Policy policy, Member? member, JoinRequest? request, string? words, string by, DateTimeOffset now)
    {
        if (FaultOf(member, request, words) is { } fault)
        {
            return fault;
        }

        var changes = new List<Change>();
        if (member!.Status == MemberStatus.Unverified)
        {
            var freed = request! with
            {
                NeedsApproval = false,
                Grants = [.. request.Grants.Select(g => g with { AfterApproval = false })],
                State = RequestState.Unproved,
                Words = words,
                DecidedAt = now,
                By = by,
                Version = request.Version + 1,
            };
            return Edited(member, [new RequestSet(freed, request.Version)], words, "approve");
        }

        var after = member.Status == MemberStatus.Active ? member
            : member with { Status = MemberStatus.Active, Cause = new StatusCause(now, by, words) };
        // Who was in already has what needed no yes.
        var due = request?.Grants.Where(g => g.AfterApproval || member.Status != MemberStatus.Active) ?? [];
        after = Given(policy, after, due, request?.Form ?? "", now, changes);
        return Decided(member, after, request, RequestState.Approved, (words, by, now), changes, "approve");
    }

    /// <summary>Says no. They read the words when they sign in, and in the letter. Who is a member already stays one, without what they asked for.</summary>
    public static Outcome<Edit<Member>> Decline(Member? member, JoinRequest? request, string? words, string by, DateTimeOffset now)
    {
        if (FaultOf(member, request, words) is { } fault)
        {
            return fault;
        }

        var after = member!.Status == MemberStatus.Active ? member : member with { Status = MemberStatus.Closed, Cause = new StatusCause(now, by, words) };
        return Decided(member, after, request, RequestState.Declined, (words, by, now), [], "decline");
    }

    /// <summary>Asks back: the applicant may mend their answers.</summary>
    public static Outcome<Edit<Member>> Ask(Member? member, JoinRequest? request, string? words, string by, DateTimeOffset now)
    {
        if (FaultOf(member, request, words) is { } fault)
        {
            return fault;
        }

        if (words is null)
        {
            return Problem.In("words", "request-question");
        }

        if (request is null || member!.Status == MemberStatus.Unverified)
        {
            return Problem.Of(ProblemKind.Conflict, "request-unproved", member!.Email);
        }

        var asked = request with { State = RequestState.Asked, Words = words, DecidedAt = now, By = by, Version = request.Version + 1 };
        return Edited(member, [new RequestSet(asked, request.Version)], words, "ask-back");
    }

    /// <summary>Takes a request that was held back for what it says it is: it goes the way of all others.</summary>
    public static Outcome<Edit<Joined>> LetGo(Policy policy, Member? member, JoinRequest? request, string by, DateTimeOffset now)
    {
        if (member is null || request is not { State: RequestState.Held })
        {
            return Problem.Of(member is null ? ProblemKind.NotFound : ProblemKind.Conflict, member is null ? "member-unknown" : "request-not-held",
                member?.Email);
        }

        var changes = new List<Change>();
        var freed = request with { State = RequestState.Unproved, By = by, Version = request.Version + 1 };
        var after = member.Status == MemberStatus.Pending && !request.NeedsApproval ? member with
        {
            Status = MemberStatus.Active,
            Cause = new StatusCause(now, by, null),
        } : member;
        (after, freed) = member.Status == MemberStatus.Unverified ? (after, freed) : Settled(policy, after, freed, now, changes);
        after = after with { Version = member.Version + 1 };
        return new Edit<Joined>(
            new Edit("member.let-go", member.Email, [new MemberSet(after, member.Version), .. changes, new RequestSet(freed, request.Version)]),
            new Joined(after, freed));
    }

    /// <summary>Takes the answers that an applicant mended.</summary>
    public static Outcome<Edit<Member>> Mend(Member? member, JoinRequest? request, JoinForm? form, FilledForm filled, IReadOnlyList<AnswerFile> files)
    {
        if (member is null || request is null || member.Status != MemberStatus.Pending || request.State is not (RequestState.Asked or RequestState.Waiting))
        {
            return Problem.Of(member is null ? ProblemKind.NotFound : ProblemKind.Conflict, member is null ? "member-unknown" : "request-decided",
                member?.Email);
        }

        var faults = new Faults();
        filled.Tell(faults);
        if (faults.Any)
        {
            return faults.ToProblem();
        }

        var mended = request with
        {
            State = RequestState.Waiting,
            Version = request.Version + 1,
            Grants = form is null ? request.Grants : GrantsOf(form, filled),
        };
        return new Edit<Member>(
            new Edit(
                "member.answer", member.Email,
                [
                    new MemberTouched(member.Id, member.Version), new AnswersSet(member.Id, filled.InPlaceOf(form)),
                    .. files.Select(f => new FileKept(f with { Member = member.Id })), new RequestSet(mended, request.Version),
                ]),
            member with { Version = member.Version + 1 });
    }

    /// <summary>
    /// Whether somebody who was told no may ask again: their account stands closed by that very decision, and by nothing since. Their letter leads to where
    /// they do.
    /// </summary>
    public static bool MayAskAgain(Member? member, JoinRequest? request) =>
        member is { Status: MemberStatus.Closed } && request is { State: RequestState.Declined } && member.Cause?.At == request.DecidedAt;

    /// <summary>Asks again, after a no, with other answers: a new request beside the old one, which staff decide whatever the form's way is.</summary>
    public static Outcome<Edit<Member>> AskAgain(
        Member? member, JoinRequest? request, JoinForm? form, FilledForm filled, IReadOnlyList<AnswerFile> files, DateTimeOffset now)
    {
        if (!MayAskAgain(member, request))
        {
            return Problem.Of(member is null ? ProblemKind.NotFound : ProblemKind.Conflict, member is null ? "member-unknown" : "request-decided",
                member?.Email);
        }

        var faults = new Faults();
        filled.Tell(faults);
        if (faults.Any)
        {
            return faults.ToProblem();
        }

        var after = member! with { Status = MemberStatus.Pending, Cause = new StatusCause(now, member.Email, null), Version = member.Version + 1 };
        var again = new JoinRequest(Guid.CreateVersion7(), member.Id, request!.Form, now, RequestState.Waiting)
        {
            NeedsApproval = true, Grants = form is null ? request.Grants : GrantsOf(form, filled), Network = request.Network, Domain = request.Domain,
        };
        return new Edit<Member>(
            new Edit(
                "member.ask-again", member.Email,
                [
                    new MemberSet(after, member.Version), new AnswersSet(member.Id, filled.InPlaceOf(form)),
                    .. files.Select(f => new FileKept(f with { Member = member.Id })), new RequestAdded(again),
                    new LinksClosed(LinkPurpose.Application, member.Id, null, LinkEnd.Used),
                ]),
            after);
    }

    /// <summary>A request whose address is proved or need not be: it waits for staff, or is over; what it gives at once is given to who is active.</summary>
    internal static (Member Member, JoinRequest Request) Settled(
        Policy policy, Member member, JoinRequest request, DateTimeOffset now, List<Change> changes)
    {
        var waits = request.NeedsApproval || request.Grants.Any(g => g.AfterApproval);
        var settled = request with { State = waits ? RequestState.Waiting : RequestState.Approved, DecidedAt = waits ? request.DecidedAt : now };
        return (member.Status != MemberStatus.Active ? member
            : Given(policy, member, request.Grants.Where(g => !g.AfterApproval), request.Form, now, changes), settled);
    }

    /// <summary>What is there no more is given to nobody.</summary>
    private static Member Given(
        Policy policy, Member member, IEnumerable<RequestGrant> grants, string form, DateTimeOffset now, List<Change> changes) =>
        grants.Where(g => policy.FindDefinition(g.Kind, g.Key) is not null).Aggregate(member, (m, g) => GrantCommands.Giving(
            m,
            PlanRun.Lasting(policy, m.Grants, new Grant(g.Kind, g.Key, now, g.Days is { } days ? now.AddDays(days) : null)
            {
                Id = Guid.CreateVersion7(), Source = GrantSource.Stored("form", form),
            }, now),
            changes));

    private static Problem? FaultOf(Member? member, JoinRequest? request, string? words)
    {
        if (member is null)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        // Somebody whose account stands otherwise by now, or whose request is over, was decided about already.
        var isOpen = request is null ? member.Status == MemberStatus.Pending
            : !request.IsOver && member.Status is MemberStatus.Pending or MemberStatus.Unverified or MemberStatus.Active;
        return !isOpen ? Problem.Of(ProblemKind.Conflict, "request-decided", member.Email)
            : words is { Length: > AccountCommands.LongestWords } || (words is not null && !PlainText.IsClean(words, true))
                ? Problem.In("words", "letter-text", AccountCommands.LongestWords) : null;
    }

    private static Edit<Member> Decided(
        Member member, Member after, JoinRequest? request, RequestState state, (string? Words, string By, DateTimeOffset At) said, List<Change> changes,
        string action)
    {
        // Who is a member already keeps what links there are about other things.
        var end = state == RequestState.Approved ? LinkEnd.Used : LinkEnd.Withdrawn;
        LinkPurpose?[] closed = member.Status == MemberStatus.Active ? [LinkPurpose.Approval, LinkPurpose.Application] : [null];
        List<Change> more = [.. changes, .. closed.Select(purpose => new LinksClosed(purpose, member.Id, null, end))];
        if (request is not null)
        {
            more.Add(new RequestSet(
                request with { State = state, Words = said.Words, By = said.By, DecidedAt = said.At, Version = request.Version + 1 }, request.Version));
        }

        after = after with { Version = member.Version + 1 };
        return new Edit<Member>(new Edit("member." + action, member.Email, [new MemberSet(after, member.Version), .. more], null, said.Words), after);
    }

    private static Edit<Member> Edited(Member member, IReadOnlyList<Change> changes, string? words, string action) => new(
        new Edit("member." + action, member.Email, [new MemberTouched(member.Id, member.Version), .. changes], null, words),
        member with { Version = member.Version + 1 });
}
