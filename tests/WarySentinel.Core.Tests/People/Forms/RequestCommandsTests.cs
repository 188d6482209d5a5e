using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using Xunit;

namespace WarySentinel.Core.Tests.People.Forms;

/// <summary>Requests under whatever is done to them, in whatever order: what is given when, and that a decision stays.</summary>
public sealed class RequestCommandsTests
{
    private static readonly int Many = Trials.Of(600, 30000);
    private const int Steps = 8;
    private static readonly DateTimeOffset Start = new(2027, 3, 1, 20, 0, 0, TimeSpan.Zero);

    private static readonly Policy Policy = Policy.Build(
        [], [], [new(FactKind.Role, "dealer", "Dealers"), new(FactKind.Group, "schools", "Schools"), new(FactKind.Plan, "patron", "Patrons")],
        new SiteSettings()).Value;

    [Fact]
    public void Whatever_is_done_nobody_holds_anything_before_they_are_in_and_a_decision_stays()
    {
        for (var seed = 0; seed < Many; seed++)
        {
            var random = new Random(seed);
            var (member, request, now) = Made(random);
            for (var step = 0; step < Steps; step++)
            {
                now += TimeSpan.FromHours(random.Next(1, 40));
                var (before, was) = (member, request);
                var done = Do(random.Next(8), member, request, now);
                if (done.Problem is not null)
                {
                    continue;
                }

                (member, request) = Stored(member, request, done.Value);
                var told = $"seed {seed}, step {step}: {done.Value.Action}";
                if (done.Value.Action == "member.ask-again")
                {
                    // A new request stands beside the old one; nothing is given before staff have said yes to it.
                    (before.Status, was.State, before.Cause!.At).ShouldBe((MemberStatus.Closed, RequestState.Declined, was.DecidedAt!.Value), told);
                    (member.Status, request.State, request.NeedsApproval, request.Id == was.Id).ShouldBe(
                        (MemberStatus.Pending, RequestState.Waiting, true, false), told);
                    member.Grants.ShouldBeEmpty(told);
                    continue;
                }

                if (done.Value.Action == "test.close")
                {
                    continue;
                }

                was.IsOver.ShouldBeFalse(told + ": what is decided stays");
                if (member.Status != MemberStatus.Active)
                {
                    member.Grants.ShouldBeEmpty(told);
                }

                var due = request.Grants.Where(g => !g.AfterApproval || request.State == RequestState.Approved).Select(g => g.Fact).ToList();
                member.Grants.Select(g => g.Fact).ShouldBeSubsetOf(due, told);
                member.Grants.ShouldAllBe(g => g.Source.ToString() == "form:trade" && g.Until == (g.Key == "patron" ? g.From!.Value.AddDays(30) : null));
                if (request.State == RequestState.Declined && before.Status != MemberStatus.Active)
                {
                    member.Status.ShouldBe(MemberStatus.Closed, told);
                }

                if (request.State == RequestState.Approved)
                {
                    member.Status.ShouldBe(MemberStatus.Active, told);
                    member.Grants.Select(g => g.Fact).ShouldBe(request.Grants.Where(g => g.Key != "gone").Select(g => g.Fact), true, told);
                }
            }
        }
    }

    [Fact]
    public void Who_was_held_back_and_is_approved_still_proves_the_address_and_then_needs_no_further_yes()
    {
        var (member, request) = (Someone(MemberStatus.Unverified), Asking(RequestState.Held, true, new RequestGrant(FactKind.Role, "dealer", null, true)));
        var approved = RequestCommands.Approve(Policy, member, request, null, "owner", Start).Value.ToStore;
        (member, request) = Stored(member, request, approved);
        (member.Status, request.State, request.NeedsApproval).ShouldBe((MemberStatus.Unverified, RequestState.Unproved, false));
        approved.Changes.ShouldNotContain(c => c is GrantAdded);
        var proved = Joining.WithRequest(Policy, Proof(member, Joining.Proved(Policy.Settings, request)), request, Start);
        (member, request) = Stored(member, request, proved.ToStore);
        (member.Status, request.State).ShouldBe((MemberStatus.Active, RequestState.Approved));
        member.Grants.Select(g => g.Fact).ShouldBe(["role:dealer"]);
    }

    [Fact]
    public void A_question_has_words_and_comes_after_the_address_is_proved()
    {
        RequestCommands.Ask(Someone(MemberStatus.Pending), Asking(RequestState.Waiting, true), null, "o", Start).Problem!.Code.ShouldBe("request-question");
        RequestCommands.Ask(Someone(MemberStatus.Unverified), Asking(RequestState.Unproved, true), "?", "o", Start).Problem!.Code.ShouldBe("request-unproved");
        RequestCommands.Ask(Someone(MemberStatus.Pending), null, "?", "o", Start).Problem!.Code.ShouldBe("request-unproved");
        RequestCommands.Ask(null, null, "?", "o", Start).Problem!.Code.ShouldBe("member-unknown");
        foreach (var words in new[] { new string('x', 5000), "a\u202eb" })
        {
            RequestCommands.Decline(Someone(MemberStatus.Pending), Asking(RequestState.Waiting, true), words, "o",
                Start).Problem!.Faults[0].Field.ShouldBe("words");
        }
    }

    [Fact]
    public void An_account_of_before_without_a_request_is_decided_as_it_was()
    {
        RequestCommands.Approve(Policy, Someone(MemberStatus.Pending), null, null, "o", Start).Value.Value.Status.ShouldBe(MemberStatus.Active);
        RequestCommands.Decline(Someone(MemberStatus.Pending), null, "No.", "o", Start).Value.Value.Cause!.Words.ShouldBe("No.");
        foreach (var status in Enum.GetValues<MemberStatus>().Where(s => s != MemberStatus.Pending))
        {
            RequestCommands.Approve(Policy, Someone(status), null, null, "o", Start).Problem!.Code.ShouldBe("request-decided");
        }
    }

    private static Outcome<Edit> Do(int act, Member member, JoinRequest request, DateTimeOffset now) => act switch
    {
        0 => Edit(RequestCommands.Approve(Policy, member, request, null, "owner", now)),
        1 => Edit(RequestCommands.Decline(member, request, "No.", "owner", now)),
        2 => Edit(RequestCommands.Ask(member, request, "Who?", "owner", now)),
        3 => Edit(RequestCommands.LetGo(Policy, member, request, "owner", now)),
        4 => Edit(RequestCommands.Mend(member, request, null, FilledForm.Of(JoinForm.Plain, _ => []), [])),
        5 => Edit(RequestCommands.AskAgain(member, request, null, FilledForm.Of(JoinForm.Plain, _ => []), [], now)),
        // Staff end an account that was declined, as if for another reason: nobody asks again from there.
        6 => request.State != RequestState.Declined || member.Status != MemberStatus.Closed ? Problem.Of(ProblemKind.Conflict, "x")
            : new Edit("test.close", member.Email, [new MemberSet(
                member with { Cause = new StatusCause(now, "owner", null), Version = member.Version + 1 }, member.Version)]),
        _ => member.Status != MemberStatus.Unverified ? Problem.Of(ProblemKind.Conflict, "link-closed") : Edit<Member>(
            Joining.WithRequest(Policy, Proof(member, request.State == RequestState.Held ? MemberStatus.Unverified : Joining.Proved(Policy.Settings, request)),
                request, now)),
    };

    private static Outcome<Edit> Edit<T>(Outcome<Edit<T>> made) => made.Problem is { } problem ? problem : made.Value.ToStore;

    private static Edit<Member> Proof(Member member, MemberStatus status)
    {
        var after = member with { Status = status, Version = member.Version + 1 };
        return new Edit<Member>(new Edit("member.confirm", member.Email, [new MemberSet(after, member.Version)]), after);
    }

    /// <summary>What is there once an edit is stored, by its changes alone.</summary>
    private static (Member, JoinRequest) Stored(Member member, JoinRequest request, Edit edit)
    {
        foreach (var change in edit.Changes)
        {
            (member, request) = change switch
            {
                MemberSet set when set.Was == member.Version => (set.Member with { Grants = member.Grants }, request),
                MemberTouched touched when touched.Was == member.Version => (member with { Version = member.Version + 1 }, request),
                GrantAdded added => (member with { Grants = [.. member.Grants, added.Grant] }, request),
                RequestAdded added => (member, added.Request),
                RequestSet set when set.Was == request.Version && set.Request.Version == request.Version + 1 => (member, set.Request),
                LinksClosed => (member, request),
                AnswersSet => (member, request),
                _ => throw new InvalidOperationException($"{edit.Action}: {change}"),
            };
        }

        return (member, request);
    }

    private static (Member, JoinRequest, DateTimeOffset) Made(Random random)
    {
        RequestGrant[] all =
        [
            new(FactKind.Role, "dealer", null, random.Next(2) == 0), new(FactKind.Group, "schools", null, random.Next(2) == 0),
            new(FactKind.Plan, "patron", 30, random.Next(2) == 0), new(FactKind.Group, "gone", null, random.Next(2) == 0),
        ];
        var state = random.Next(3) switch { 0 => RequestState.Held, 1 => RequestState.Unproved, _ => RequestState.Waiting };
        var needs = random.Next(2) == 0;
        var status = state == RequestState.Unproved || (state == RequestState.Held && random.Next(2) == 0) ? MemberStatus.Unverified : MemberStatus.Pending;
        return (Someone(status), Asking(state, needs || state == RequestState.Waiting, [.. all.Where(_ => random.Next(2) == 0)]), Start);
    }

    private static Member Someone(MemberStatus status) => new(Guid.NewGuid(), "a@x.example", "A", null, "hash", status, [], Start);

    private static JoinRequest Asking(RequestState state, bool needsApproval, params RequestGrant[] grants) =>
        new(Guid.NewGuid(), Guid.NewGuid(), "trade", Start, state) { NeedsApproval = needsApproval, Grants = grants };
}
