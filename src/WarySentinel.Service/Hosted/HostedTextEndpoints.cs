using System.Globalization;
using DiffPlex.DiffBuilder;
using DiffPlex.DiffBuilder.Model;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Hosted;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Hosted;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Hosted;

/// <summary>What pages say: drafts, versions, and what differs between them.</summary>
public static class HostedTextEndpoints
{
    private const string Name = "/{key}";

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapHostedTexts(this RouteGroupBuilder api)
    {
        var pages = api.MapGroup("/pages").WithTags("Pages");
        pages.MapGet(Name + "/text", ShowAsync).Requires("read");
        pages.MapPut(Name + "/text", WriteAsync).Requires("write");
        pages.MapDelete(Name + "/text", DiscardAsync).Requires("write");
        pages.MapGet(Name + "/versions", ListAsync).Requires("read");
        pages.MapGet(Name + "/versions/{number}", VersionAsync).Requires("read");
        pages.MapPost(Name + "/restore", RestoreAsync).Requires("write");
        pages.MapGet(Name + "/difference", DifferenceAsync).Requires("read");
        return api;
    }

    private static async Task<Results<Ok<HostedTextView>, ProblemHttpResult>> ShowAsync(
        string key, HttpContext http, PolicyHolder policies, HostedDesk desk, CancellationToken stop)
    {
        if (HostedBook.Of(policies.Current).Page(key) is not { } page)
        {
            return HostedPageEndpoints.Unknown(policies, key);
        }

        var (draft, version) = await desk.WrittenAsync(page, stop);
        http.Response.Headers.ETag = Paging.TagOf(draft?.Version ?? 0);
        return TypedResults.Ok(draft?.ToWire() ?? version?.ToWire("published", 0)
            ?? new HostedTextView(page.Title, null, "", "draft", null, 0, "", SiteDates.Write(DateTimeOffset.UnixEpoch)));
    }

    private static async Task<Results<Ok<HostedTextView>, ProblemHttpResult>> WriteAsync(
        string key, HostedTextDraft draft, HttpContext http, HostedDesk desk, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        var written = version.Problem is { } odd ? odd : await desk.WriteAsync(key, draft.ToCore(), version.Value, Caller.Of(http).Name, stop);
        if (written.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(written.Value.Version);
        return TypedResults.Ok(written.Value.ToWire());
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> DiscardAsync(string key, HttpContext http, PolicyHolder policies, PeopleLane people)
    {
        if (HostedBook.Of(policies.Current).Page(key) is null)
        {
            return HostedPageEndpoints.Unknown(policies, key);
        }

        await people.ChangeAsync(
            () => Task.FromResult<Outcome<Edit<bool>>>(new Edit<bool>(new Edit("page.discard", key, [new PageDraftDropped(key)]), true)), Caller.Of(http).Name);
        return TypedResults.NoContent();
    }

    private static async Task<Results<Ok<PageOf<PageVersionView>>, ProblemHttpResult>> ListAsync(
        string key, string? cursor, int? limit, PolicyHolder policies, Store store, TimeProvider time, CancellationToken stop)
    {
        var (after, size) = (Paging.Read(cursor), Paging.SizeOf(limit));
        if (HostedBook.Of(policies.Current).Page(key) is not { } page)
        {
            return HostedPageEndpoints.Unknown(policies, key);
        }

        if (after.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var before = int.TryParse(after.Value, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : (int?)null;
        var (versions, served) = (await store.PageVersionsAsync(key, before, size + 1, stop), page.At(time.GetUtcNow())?.Number);
        return TypedResults.Ok(Paging.Cut(
            [.. versions.Select(v => new PageVersionView(v.Number, v.Title, v.By, SiteDates.Write(v.At), v.Number == served))], size,
            v => v.Number.ToString(CultureInfo.InvariantCulture)));
    }

    private static async Task<Results<Ok<HostedTextView>, ProblemHttpResult>> VersionAsync(string key, string number, Store store, CancellationToken stop) =>
        await FindAsync(key, number, store, stop) is { } version ? TypedResults.Ok(version.ToWire("version", 0))
            : Problem.Of(ProblemKind.NotFound, "page-version-unknown", number).ToHttp();

    /// <summary>Writes what a version says, for it to be published again; what was being written is written over.</summary>
    private static async Task<Results<Ok<HostedTextView>, ProblemHttpResult>> RestoreAsync(
        string key, RestoreDraft draft, HttpContext http, Store store, HostedDesk desk, CancellationToken stop)
    {
        if (await store.PageVersionAsync(key, draft.Number, stop) is not { } version)
        {
            return Problem.Of(ProblemKind.NotFound, "page-version-unknown", draft.Number).ToHttp();
        }

        var written = await desk.WriteAsync(key, new PageWriting(version.Title, version.Description, version.Text), null, Caller.Of(http).Name, stop);
        return written.Problem is { } problem ? problem.ToHttp() : TypedResults.Ok(written.Value.ToWire());
    }

    private static async Task<Results<Ok<PageDifference>, ProblemHttpResult>> DifferenceAsync(
        string key, string? from, string? to, PolicyHolder policies, Store store, HostedDesk desk, TimeProvider time, CancellationToken stop)
    {
        if (HostedBook.Of(policies.Current).Page(key) is not { } page)
        {
            return HostedPageEndpoints.Unknown(policies, key);
        }

        var (first, second) = (from ?? (page.At(time.GetUtcNow())?.Number ?? 0).ToString(CultureInfo.InvariantCulture), to ?? "draft");
        var (before, after) = (await TextAsync(page, first, store, desk, stop), await TextAsync(page, second, store, desk, stop));
        if (before is null || after is null)
        {
            return Problem.Of(ProblemKind.NotFound, "page-version-unknown", before is null ? first : second).ToHttp();
        }

        var lines = InlineDiffBuilder.Diff(before, after, false).Lines;
        return TypedResults.Ok(new PageDifference(first, second,
            [.. lines.Select(l => new DifferenceLine(l.Type switch { ChangeType.Inserted => "+", ChangeType.Deleted => "-", _ => " " }, l.Text))]));
    }

    /// <summary>A version or the draft as a text; nothing at all before the first version.</summary>
    private static async Task<string?> TextAsync(HostedPage page, string which, Store store, HostedDesk desk, CancellationToken stop)
    {
        if (which == "0")
        {
            return "";
        }

        if (which != "draft")
        {
            return await FindAsync(page.Key, which, store, stop) is { } found ? Whole(found.Title, found.Description, found.Text) : null;
        }

        var (draft, version) = await desk.WrittenAsync(page, stop);
        return draft is not null ? Whole(draft.Title, draft.Description, draft.Text)
            : version is not null ? Whole(version.Title, version.Description, version.Text) : "";
    }

    private static string Whole(string title, string? description, string text) => $"# {title}\n{(description is null ? "" : $"> {description}\n")}\n{text}";

    private static async Task<PageVersion?> FindAsync(string key, string number, Store store, CancellationToken stop) =>
        int.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? await store.PageVersionAsync(key, n, stop) : null;
}
