using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.People;

/// <summary>Those who ask to join: let in, or declined. Who they are is the list of members whose status is <c>pending</c>.</summary>
public static class RequestEndpoints
{
    /// <summary>Maps the endpoints beneath those of members.</summary>
    public static void MapRequests(this RouteGroupBuilder members)
    {
        members.MapPost("/{member}/approve", Approve).Requires("people");
        members.MapPost("/{member}/decline", Decline).Requires("people");
    }

    private static Task<Results<Ok<MemberView>, ProblemHttpResult>> Approve(
        string member, RequestDecision decision, HttpContext http, MemberService members, MemberLinks links, CallerReader callers, TimeProvider time,
        CancellationToken stop) => DecideAsync(member, decision, links.ApproveAsync, http, members, callers, time, stop);

    private static Task<Results<Ok<MemberView>, ProblemHttpResult>> Decline(
        string member, RequestDecision decision, HttpContext http, MemberService members, MemberLinks links, CallerReader callers, TimeProvider time,
        CancellationToken stop) => DecideAsync(member, decision, links.DeclineAsync, http, members, callers, time, stop);

    private static async Task<Results<Ok<MemberView>, ProblemHttpResult>> DecideAsync(
        string member, RequestDecision decision, Func<Guid, string?, string, CancellationToken, Task<Outcome<Core.People.Member>>> decide, HttpContext http,
        MemberService members, CallerReader callers, TimeProvider time, CancellationToken stop)
    {
        var caller = Caller.Of(http);
        var found = await MemberAccountEndpoints.FindAsync(member, caller, members, callers, stop);
        return found.Problem is { } unknown ? unknown.ToHttp()
            : MemberEndpoints.Changed(await decide(found.Value.Id, PlainText.OrNull(decision.Words), caller.Name, stop), http, time);
    }
}
