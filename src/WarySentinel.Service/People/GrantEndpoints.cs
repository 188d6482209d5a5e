using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using Wire = WarySentinel.Contract.People;

namespace WarySentinel.Service.People;

/// <summary>What members hold: given, ended and dated one by one.</summary>
public static class GrantEndpoints
{
    /// <summary>Maps the endpoints beneath those of members.</summary>
    public static void MapGrants(this RouteGroupBuilder members)
    {
        members.MapPost("/{member}/grants", Give).Requires("people");
        members.MapPut("/{member}/grants/{grant:guid}", SetDates).Requires("people");
        members.MapDelete("/{member}/grants/{grant:guid}", End).Requires("people");
    }

    /// <summary>Gives a fact: 201 where it is new, 200 where the same source had given it before.</summary>
    private static async Task<Results<Created<GrantedView>, Ok<GrantedView>, ProblemHttpResult>> Give(
        string member, Wire.GrantDraft draft, HttpContext http, Granting granting, CancellationToken stop)
    {
        var given = await granting.ChangeAsync(member, Caller.Of(http), (found, policy, now) => GrantCommands.Give(policy, found, draft.ToCore(), now), stop);
        return given.Problem is { } problem ? problem.ToHttp()
            : given.Value.Changed ? TypedResults.Created($"/api/v1/members/{member}", given.Value) : TypedResults.Ok(given.Value);
    }

    /// <summary>Gives a grant other dates.</summary>
    private static async Task<Results<Ok<GrantedView>, ProblemHttpResult>> SetDates(
        string member, Guid grant, GrantDatesDraft draft, HttpContext http, Granting granting, CancellationToken stop) =>
        Answer(await granting.ChangeAsync(
            member, Caller.Of(http), (found, policy, now) => GrantCommands.SetDates(policy, found, grant, draft.From, draft.Until, now), stop));

    /// <summary>Ends a grant now. It stays on record, so that its source gives it no second time.</summary>
    private static async Task<Results<Ok<GrantedView>, ProblemHttpResult>> End(
        string member, Guid grant, HttpContext http, Granting granting, CancellationToken stop) =>
        Answer(await granting.ChangeAsync(member, Caller.Of(http), (found, _, now) => GrantCommands.End(found, grant, now), stop));

    private static Results<Ok<GrantedView>, ProblemHttpResult> Answer(Outcome<GrantedView> outcome) =>
        outcome.Match<Results<Ok<GrantedView>, ProblemHttpResult>>(view => TypedResults.Ok(view), problem => problem.ToHttp());
}

/// <summary>Changes what one member holds.</summary>
public sealed class Granting(MemberService members, PolicyHolder policies, PeopleLane people, TimeProvider time)
{
    /// <summary>Runs a command about one member's grants. What makes somebody staff, or no longer, only an owner does.</summary>
    public async Task<Outcome<GrantedView>> ChangeAsync(
        string member, Caller caller, Func<Member?, Policy, DateTimeOffset, Outcome<Edit<Granted>>> command, CancellationToken stop)
    {
        var changed = await people.ChangeAsync(
            async () =>
            {
                if (await members.FindAsync(member, stop) is not { } found)
                {
                    return Problem.Of(ProblemKind.NotFound, "member-unknown-name", member);
                }

                var outcome = command(found, policies.Current, time.GetUtcNow());
                return !caller.IsOwner && outcome is { IsGood: true, Value.Value.Grant: { Kind: FactKind.Role } grant }
                    && StaffRights.IsStaffRole(policies.Current, grant.Key)
                    ? Problem.Of(ProblemKind.Forbidden, "staff-role") : outcome;
            },
            caller.Name);
        return changed.Problem is { } problem ? problem
            : new GrantedView(changed.Value.Grant.ToWire(time.GetUtcNow()), changed.Value.Changed, changed.Value.Member.Version);
    }
}
