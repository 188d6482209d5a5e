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

    private static async Task<Results<Ok<MemberView>, ProblemHttpResult>> Approve(
        string member, RequestDecision decision, HttpContext http, MemberService members, MemberLinks links, TimeProvider time, CancellationToken stop) =>
        await members.FindAsync(member, stop) is not { } found ? Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp()
        : MemberEndpoints.Changed(await links.ApproveAsync(found.Id, PlainText.OrNull(decision.Words), Caller.Of(http).Name, stop), http, time);

    private static async Task<Results<Ok<MemberView>, ProblemHttpResult>> Decline(
        string member, RequestDecision decision, HttpContext http, MemberService members, MemberLinks links, TimeProvider time, CancellationToken stop) =>
        await members.FindAsync(member, stop) is not { } found ? Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp()
        : MemberEndpoints.Changed(await links.DeclineAsync(found.Id, PlainText.OrNull(decision.Words), Caller.Of(http).Name, stop), http, time);
}
