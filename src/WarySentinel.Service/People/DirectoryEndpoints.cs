using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People.Directory;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using Rules = WarySentinel.Core.People.Directory;
using Wire = WarySentinel.Contract.People;

namespace WarySentinel.Service.People;

/// <summary>The directory of members, and who stands in it. Staff can take somebody out; only members put themselves in.</summary>
public static class DirectoryEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/directory", Show).WithTags("Directory").Requires("read");
        api.MapPut("/directory", Put).WithTags("Directory").Requires("write");
        api.MapGet("/members/{member}/listing", Listing).WithTags("Directory").Requires("read");
        api.MapDelete("/members/{member}/listing", Unlist).WithTags("Directory").Requires("people");
    }

    private static async Task<Ok<DirectoryView>> Show(
        HttpContext http, PolicyHolder policies, Store store, ServiceOptions options, CancellationToken stop)
    {
        var directory = MemberDirectory.Of(policies.Current);
        http.Response.Headers.ETag = Paging.TagOf(directory.Version);
        return TypedResults.Ok(await ViewAsync(policies.Current, directory, store, options, stop));
    }

    private static async Task<Results<Ok<DirectoryView>, ProblemHttpResult>> Put(
        Wire.DirectoryDraft draft, HttpContext http, PolicyHolder policies, Store store, ServiceOptions options, CancellationToken stop)
    {
        var version = FormEndpoints.VersionIn(http);
        var put = version.Problem is { } odd ? odd : await policies.ChangeAsync(
            async policy => DirectoryCommands.Put(
                policy, new Rules.DirectoryDraft(draft.Audience, draft.Title, draft.Lead, draft.Fields?.Select(f => f ?? "").ToList()),
                await policies.KnownKeysAsync(policy, [draft.Audience ?? ""], stop), version.Value),
            Caller.Of(http).Name, stop);
        if (put.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(put.Value.Version);
        return TypedResults.Ok(await ViewAsync(policies.Current, put.Value, store, options, stop));
    }

    private static async Task<Results<Ok<ListingView>, ProblemHttpResult>> Listing(
        string member, MemberService members, Store store, CancellationToken stop) => await members.FindAsync(member, stop) is not { } found
        ? Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp()
        : await store.ListingAsync(found.Id, stop) is { } shown ? TypedResults.Ok(new ListingView(true, shown)) : TypedResults.Ok(new ListingView(false, []));

    private static async Task<Results<NoContent, ProblemHttpResult>> Unlist(
        string member, HttpContext http, MemberService members, CallerReader callers, PeopleLane people, PolicyHolder policies, Store store,
        CancellationToken stop)
    {
        var caller = Caller.Of(http);
        var found = await MemberAccountEndpoints.FindAsync(member, caller, members, callers, stop);
        var gone = found.Problem is { } problem ? problem : await people.ChangeAsync(
            async () => DirectoryCommands.List(policies.Current, found.Value, await store.ListingAsync(found.Value.Id, stop), null), caller.Name);
        return gone.Problem is { } fault ? fault.ToHttp() : TypedResults.NoContent();
    }

    private static async Task<DirectoryView> ViewAsync(
        Policy policy, MemberDirectory directory, Store store, ServiceOptions options, CancellationToken stop) => new(
        new Wire.DirectoryDraft(directory.Audience?.ToString(), directory.Title, directory.Lead, directory.Fields),
        directory.Audience is { } audience ? GateWords.OfAudience(audience, policy) : null,
        $"{options.SiteUrl.TrimEnd('/')}{options.AccountPrefix}/directory", await store.ListedCountAsync(stop), directory.Version);
}
