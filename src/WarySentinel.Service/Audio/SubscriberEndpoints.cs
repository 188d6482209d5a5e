using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Audio;
using WarySentinel.Core;
using WarySentinel.Core.Audio;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Audio;

/// <summary>Who has a feed of a show, and its address.</summary>
internal static class SubscriberEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapSubscribers(this RouteGroupBuilder shows)
    {
        shows.MapGet("/{key}/subscribers", List).Requires("read");
        // The address is a secret that opens what the member may hear: whoever may only read is not told it.
        shows.MapPut("/{key}/subscribers/{member}", Open).Requires("people");
        shows.MapPost("/{key}/subscribers/{member}/address", Change).Requires("people");
        return shows;
    }

    private static async Task<Results<Ok<PageOf<SubscriberView>>, ProblemHttpResult>> List(
        string key, string? cursor, int? limit, PolicyHolder policies, Store store, CancellationToken stop)
    {
        var after = Paging.Read(cursor);
        if (after.Problem is { } odd)
        {
            return odd.ToHttp();
        }

        if (ShowBook.Of(policies.Current).Find(key) is not { } show)
        {
            return ShowCommands.Unknown(policies.Current, key).ToHttp();
        }

        var size = Paging.SizeOf(limit);
        var found = await store.SubscribersAsync(show.Key, Paging.PlaceIn(after.Value), size + 1, stop);
        var page = Paging.Cut(found, size, s => Paging.PlaceOf(s.Subscriber.Since, s.Subscriber.Id));
        return TypedResults.Ok(new PageOf<SubscriberView>(
            [.. page.Items.Select(s => new SubscriberView(s.Subscriber.Member, s.Name, s.Email, s.Subscriber.Since, s.Subscriber.ReadAt, s.Subscriber.ReadBy))],
            page.Next));
    }

    /// <summary>The feed of a member, made where they have none yet.</summary>
    private static Task<Results<Ok<FeedView>, ProblemHttpResult>> Open(
        string key, string member, HttpContext http, MemberService desk, PolicyHolder policies, ShowShelf shelf, Store store, PeopleLane people,
        TimeProvider time, CancellationToken stop) => GiveAsync(key, member, false, http, desk, policies, shelf, store, people, time, stop);

    /// <summary>Gives a member another feed address; the one before leads nowhere from now on.</summary>
    private static Task<Results<Ok<FeedView>, ProblemHttpResult>> Change(
        string key, string member, HttpContext http, MemberService desk, PolicyHolder policies, ShowShelf shelf, Store store, PeopleLane people,
        TimeProvider time, CancellationToken stop) => GiveAsync(key, member, true, http, desk, policies, shelf, store, people, time, stop);

    private static async Task<Results<Ok<FeedView>, ProblemHttpResult>> GiveAsync(
        string key, string member, bool another, HttpContext http, MemberService desk, PolicyHolder policies, ShowShelf shelf, Store store, PeopleLane people,
        TimeProvider time, CancellationToken stop)
    {
        if (ShowBook.Of(policies.Current).Find(key) is not { } show)
        {
            return ShowCommands.Unknown(policies.Current, key).ToHttp();
        }

        if (await desk.FindAsync(member, stop) is not { } who)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp();
        }

        http.Response.Headers.CacheControl = "no-store";
        return (await FeedDesk.GiveAsync(store, people, who.Id, who.Email, show, another, Caller.Of(http).Name, time.GetUtcNow(), stop))
            .Match<Results<Ok<FeedView>, ProblemHttpResult>>(
                one => TypedResults.Ok(new FeedView(shelf.FeedOf(one), one.Since, one.ReadAt, one.ReadBy)), problem => problem.ToHttp());
    }
}
