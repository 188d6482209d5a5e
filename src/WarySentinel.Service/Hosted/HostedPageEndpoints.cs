using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Hosted;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Hosted;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using Wire = WarySentinel.Contract.Hosted;

namespace WarySentinel.Service.Hosted;

/// <summary>Pages that are written here.</summary>
public static class HostedPageEndpoints
{
    private const string Name = "/{key}";

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapHostedPages(this RouteGroupBuilder api)
    {
        var pages = api.MapGroup("/pages").WithTags("Pages");
        pages.MapGet("/", ListAsync).Requires("read");
        pages.MapPost("/", AddAsync).Requires("write");
        pages.MapGet("/search", SearchAsync).Requires("read");
        pages.MapGet(Name, ShowAsync).Requires("read");
        pages.MapPut(Name, SetAsync).Requires("write");
        pages.MapDelete(Name, RemoveAsync).Requires("write");
        pages.MapPost(Name + "/publish", PublishAsync).Requires("write");
        pages.MapPost(Name + "/unpublish", UnpublishAsync).Requires("write");
        pages.MapPut(Name + "/gate", GuardAsync).Requires("write");
        pages.MapDelete(Name + "/gate", InheritAsync).Requires("write");
        pages.MapPost(Name + "/preview", PreviewAsync).Requires("read");
        return api.MapHostedTexts().MapPageFiles();
    }

    private static async Task<Results<Ok<PageOf<HostedPageView>>, ProblemHttpResult>> ListAsync(
        string? section, string? cursor, int? limit, PolicyHolder policies, Store store, ServiceOptions options, TimeProvider time, CancellationToken stop)
    {
        var (after, size, policy) = (Paging.Read(cursor), Paging.SizeOf(limit), policies.Current);
        if (after.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var (drafts, all) = (await store.PageDraftsAsync(stop), HostedBook.Of(policy).Pages.Where(p => string.IsNullOrEmpty(section) || p.Section == section)
            .OrderBy(p => p.Section, StringComparer.Ordinal).ThenBy(p => p.Position).ThenBy(p => p.Key, StringComparer.Ordinal).ToList());
        var from = after.Value.Length == 0 ? 0 : all.FindIndex(p => p.Key == after.Value) + 1;
        return TypedResults.Ok(Paging.Cut(
            [.. all.Skip(from).Take(size + 1).Select(p => p.ToWire(policy, drafts.GetValueOrDefault(p.Key)?.Version ?? 0, options, time.GetUtcNow()))], size,
            p => p.Key));
    }

    private static async Task<Results<Created<HostedPageView>, ProblemHttpResult>> AddAsync(
        HostedPageNew draft, HttpContext http, PolicyHolder policies, Store store, HostedDesk desk, PeopleLane people, ServiceOptions options,
            TimeProvider time,
        CancellationToken stop)
    {
        var (by, book) = (Caller.Of(http).Name, HostedBook.Of(policies.Current));
        var writing = new PageWriting(draft.Title, draft.Description, draft.Text);
        if (draft.CopyOf is { Length: > 0 } source)
        {
            if (book.Page(source) is not { } original)
            {
                return Problem.In("copyOf", "page-unknown-hosted", source).ToHttp();
            }

            var (written, version) = await desk.WrittenAsync(original, stop);
            writing = new(draft.Title, written?.Description ?? version?.Description, draft.Text ?? written?.Text ?? version?.Text);
        }

        var added = await policies.ChangeAsync(
            policy => HostedCommands.Add(policy, new(draft.Key, draft.Section, draft.Title, draft.Address), writing, desk.Around(by)), by, stop);
        if (added.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var from = draft.CopyOf ?? "";
        foreach (var file in from.Length > 0 ? await store.PageFilesAsync(from, stop) : [])
        {
            if (await store.PageFileAsync(from, file.Name, stop) is { } kept)
            {
                await people.ChangeAsync(
                    () => Task.FromResult(PageFiles.Put(policies.Current, added.Value.Key, kept.Name, kept.Content, desk.Around(by))), by);
            }
        }

        return TypedResults.Created($"/api/v1/pages/{added.Value.Key}", added.Value.ToWire(policies.Current, 1, options, time.GetUtcNow()));
    }

    private static async Task<Results<Ok<HostedPageView>, ProblemHttpResult>> ShowAsync(
        string key, HttpContext http, PolicyHolder policies, Store store, ServiceOptions options, TimeProvider time, CancellationToken stop) =>
        HostedBook.Of(policies.Current).Page(key) is { } page ? await ViewAsync(page, http, policies, store, options, time, stop) : Unknown(policies, key);

    private static async Task<Results<Ok<HostedPageView>, ProblemHttpResult>> SetAsync(
        string key, Wire.HostedPageDraft draft, HttpContext http, PolicyHolder policies, Store store, HostedDesk desk, ServiceOptions options,
            TimeProvider time,
        CancellationToken stop)
    {
        var (version, by) = (Paging.VersionIn(http.Request), Caller.Of(http).Name);
        var set = version.Problem is { } odd ? odd : await policies.ChangeAsync(policy => HostedCommands.Set(
            policy, key, new(key, draft.Section, draft.Title, draft.Address, draft.Position), version.Value, desk.Around(by)), by, stop);
        return set.Problem is { } problem ? problem.ToHttp() : await ViewAsync(set.Value, http, policies, store, options, time, stop);
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => HostedCommands.Remove(policy, key, policy.GateNaming), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static async Task<Results<Ok<HostedPageView>, ProblemHttpResult>> PublishAsync(
        string key, PublishDraft draft, HttpContext http, PolicyHolder policies, Store store, HostedDesk desk, ServiceOptions options, TimeProvider time,
        CancellationToken stop)
    {
        var published = await desk.PublishAsync(key, draft.Writing?.ToCore(), draft.At, draft.Was, Caller.Of(http).Name, stop);
        return published.Problem is { } problem ? problem.ToHttp() : await ViewAsync(published.Value, http, policies, store, options, time, stop);
    }

    private static async Task<Results<Ok<HostedPageView>, ProblemHttpResult>> UnpublishAsync(
        string key, HttpContext http, PolicyHolder policies, Store store, ServiceOptions options, TimeProvider time, CancellationToken stop)
    {
        var taken = await policies.ChangeAsync(policy => HostedCommands.Unpublish(policy, key), Caller.Of(http).Name, stop);
        return taken.Problem is { } problem ? problem.ToHttp() : await ViewAsync(taken.Value, http, policies, store, options, time, stop);
    }

    private static Task<Results<Ok<GuardingView>, ProblemHttpResult>> GuardAsync(
        string key, GuardingDraft draft, HttpContext http, OwnGates gates, CancellationToken stop) =>
            gates.SetAsync(new ItemId(ItemKind.Page, key), draft, http, stop);

    private static Task<Results<Ok<GuardingView>, ProblemHttpResult>> InheritAsync(string key, HttpContext http, OwnGates gates, CancellationToken stop) =>
        gates.InheritAsync(new ItemId(ItemKind.Page, key), http, stop);

    private static async Task<Results<Ok<PagePreviewView>, ProblemHttpResult>> PreviewAsync(
        string key, PagePreviewDraft draft, PolicyHolder policies, HostedDesk desk, Previews previews, ServiceOptions options, CancellationToken stop)
    {
        if (HostedBook.Of(policies.Current).Page(key) is null)
        {
            return Unknown(policies, key);
        }

        var (text, viewpoint) = (await desk.ReadAsync(draft.Text ?? "", stop), Viewpoint.Find(policies.Current, draft.As ?? "guest"));
        if ((text.Problem ?? viewpoint.Problem) is { } problem)
        {
            return problem.ToHttp();
        }

        var name = previews.Keep(new PagePreview(key, draft.Title ?? "", draft.Description, text.Value, viewpoint.Value));
        return TypedResults.Ok(new PagePreviewView($"{options.SiteUrl.TrimEnd('/')}{options.AccountPrefix}/page-preview?draft={name}"));
    }

    private static async Task<Results<Ok<PageOf<PageHit>>, ProblemHttpResult>> SearchAsync(
        string? q, string? @as, PolicyHolder policies, HostedSearch search, TimeProvider time, CancellationToken stop)
    {
        var viewpoint = Viewpoint.Find(policies.Current, @as ?? "guest");
        if (viewpoint.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var hits = await search.FindAsync(policies.Current, viewpoint.Value.Visitor, q ?? "", time.GetUtcNow(), stop);
        return TypedResults.Ok(new PageOf<PageHit>([.. hits.Select(h => new PageHit(h.Page.Key, h.Title, h.Address, h.Before, h.Word, h.After))], null));
    }

    private static async Task<Results<Ok<HostedPageView>, ProblemHttpResult>> ViewAsync(
        HostedPage page, HttpContext http, PolicyHolder policies, Store store, ServiceOptions options, TimeProvider time, CancellationToken stop)
    {
        http.Response.Headers.ETag = Paging.TagOf(page.Version);
        return TypedResults.Ok(page.ToWire(policies.Current, (await store.PageDraftAsync(page.Key, stop))?.Version ?? 0, options, time.GetUtcNow()));
    }

    internal static ProblemHttpResult Unknown(PolicyHolder policies, string key) => Problem.Of(
        ProblemKind.NotFound, "page-unknown-hosted", key, Nearest.To(key, HostedBook.Of(policies.Current).Pages.Select(p => p.Key)) ?? "").ToHttp();
}
