using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Files;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Files;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Files;

/// <summary>Folders to download from: what they are, where they are found, and their files.</summary>
public static class AreaEndpoints
{
    private const string FilePath = "/{key}/files/{**path}";

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapAreas(this RouteGroupBuilder api, ServiceOptions options)
    {
        var areas = api.MapGroup("/areas").WithTags("Files");
        areas.MapGet("/", (PolicyHolder policies, AreaFolder folder, TimeProvider time) => TypedResults.Ok(new PageOf<AreaView>(
            [.. AreaBook.Of(policies.Current).All.Select(a => a.ToWire(policies.Current, folder, time.GetUtcNow()))], null))).Requires("read");
        areas.MapGet("/{key}", Show).Requires("read");
        areas.MapPut("/{key}", Put).Requires("write");
        areas.MapDelete("/{key}", Remove).Requires("write");
        // The address is a secret: whoever may only read is not told it.
        areas.MapGet("/{key}/address", Address).Requires("write");
        areas.MapPost("/{key}/address", ChangeAddress).Requires("write");
        areas.MapGet("/{key}/files", List).Requires("read");
        areas.MapPut(FilePath, PutFileAsync).Requires("write").Takes(options.FileMaxBytes).Accepts<byte[]>("application/octet-stream");
        areas.MapDelete(FilePath, RemoveFileAsync).Requires("write");
        return api;
    }

    private static Results<Ok<AreaView>, ProblemHttpResult> Show(
        string key, HttpResponse response, PolicyHolder policies, AreaFolder folder, TimeProvider time)
    {
        if (AreaBook.Of(policies.Current).Find(key) is not { } area)
        {
            return AreaCommands.Unknown(policies.Current, key).ToHttp();
        }

        response.Headers.ETag = Paging.TagOf(area.Version);
        return TypedResults.Ok(area.ToWire(policies.Current, folder, time.GetUtcNow()));
    }

    private static async Task<Results<Ok<AreaView>, ProblemHttpResult>> Put(
        string key, Contract.Files.AreaDraft draft, HttpContext http, PolicyHolder policies, AreaFolder folder, TimeProvider time, CancellationToken stop)
    {
        var (version, now) = (Paging.VersionIn(http.Request), time.GetUtcNow());
        var put = version.Problem is { } missing ? missing : await policies.ChangeAsync(
            policy => AreaCommands.Put(policy, draft.ToCore(key), version.Value, Guid.CreateVersion7(), now), Caller.Of(http).Name, stop);
        if (put.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(put.Value.Version);
        return TypedResults.Ok(put.Value.ToWire(policies.Current, folder, now));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => AreaCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static Results<Ok<AreaAddressView>, ProblemHttpResult> Address(
        string key, HttpResponse response, PolicyHolder policies, AreaShelf shelf, ServiceOptions options, TimeProvider time)
    {
        response.Headers.CacheControl = "no-store";
        return AreaBook.Of(policies.Current).Find(key) is { } area
            ? TypedResults.Ok(area.ToWire(policies.Current, shelf, options, time.GetUtcNow())) : AreaCommands.Unknown(policies.Current, key).ToHttp();
    }

    private static async Task<Results<Ok<AreaAddressView>, ProblemHttpResult>> ChangeAddress(
        string key, HttpContext http, PolicyHolder policies, AreaShelf shelf, ServiceOptions options, TimeProvider time, CancellationToken stop)
    {
        http.Response.Headers.CacheControl = "no-store";
        var now = time.GetUtcNow();
        return (await policies.ChangeAsync(policy => AreaCommands.Change(policy, key, Guid.CreateVersion7(), now), Caller.Of(http).Name, stop))
            .Match<Results<Ok<AreaAddressView>, ProblemHttpResult>>(
                area => TypedResults.Ok(area.ToWire(policies.Current, shelf, options, now)), problem => problem.ToHttp());
    }

    private static Results<Ok<PageOf<AreaFileView>>, ProblemHttpResult> List(string key, string? within, PolicyHolder policies, AreaFolder folder)
    {
        if (AreaBook.Of(policies.Current).Find(key) is not { } area)
        {
            return AreaCommands.Unknown(policies.Current, key).ToHttp();
        }

        var found = folder.Find(area.Folder, within ?? "");
        return found is not DirectoryInfo there && (within ?? "").Length > 0
            ? Problem.Of(ProblemKind.NotFound, "area-file-unknown", within).ToHttp()
            : TypedResults.Ok(new PageOf<AreaFileView>(
                [.. found is DirectoryInfo at ? AreaFolder.List(at).Entries.Select(e => new AreaFileView(e.Name, e.Bytes, e.At)) : []], null));
    }

    /// <summary>Puts a file into an area as it comes in: it is there when it is there whole.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> PutFileAsync(
        string key, string path, HttpContext http, PolicyHolder policies, AreaFolder folder, PeopleLane people, CancellationToken stop)
    {
        if (AreaBook.Of(policies.Current).Find(key) is not { } area)
        {
            return AreaCommands.Unknown(policies.Current, key).ToHttp();
        }

        if (!await folder.PutAsync(area.Folder, Whole(path), http.Request.Body, stop))
        {
            return Problem.In("path", "area-file-name", path).ToHttp();
        }

        await people.ChangeAsync(AreaCommands.Filed(area, Whole(path)), Caller.Of(http).Name);
        return TypedResults.NoContent();
    }

    /// <summary>A way whose slashes were encoded, as clients do that take it for one name; the server leaves just them as they are.</summary>
    internal static string Whole(string path) => path.Replace("%2F", "/", StringComparison.OrdinalIgnoreCase);

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveFileAsync(
        string key, string path, HttpContext http, PolicyHolder policies, AreaFolder folder, PeopleLane people)
    {
        if (AreaBook.Of(policies.Current).Find(key) is not { } area)
        {
            return AreaCommands.Unknown(policies.Current, key).ToHttp();
        }

        if (!folder.Remove(area.Folder, Whole(path)))
        {
            return Problem.Of(ProblemKind.NotFound, "area-file-unknown", path).ToHttp();
        }

        await people.ChangeAsync(AreaCommands.Unfiled(area, Whole(path)), Caller.Of(http).Name);
        return TypedResults.NoContent();
    }

}

/// <summary>Areas as the API has them.</summary>
internal static class AreaWire
{
    public static AreaView ToWire(this Area area, Policy policy, AreaFolder folder, DateTimeOffset now)
    {
        var (term, tally, draft) = (area.TermAt(new SiteDates(policy.Settings.TimeZone), now), folder.Tally(area.Folder), Core.Files.AreaDraft.Of(area));
        return new AreaView(
            area.Key, area.Title, draft.Item!, area.Folder, folder.PathOf(area.Folder), draft.Opens!, policy.Guards(area, now), draft.Every, draft.Overlap,
            term.From, term.Until, tally?.Files, tally?.Bytes, area.Version);
    }

    public static AreaAddressView ToWire(this Area area, Policy policy, AreaShelf shelf, ServiceOptions options, DateTimeOffset now)
    {
        var pages = options.SiteUrl.TrimEnd('/') + options.AccountPrefix;
        return new AreaAddressView(
            pages + Folders.PathOf(shelf.TokenOf(policy, area, now)),
            area.Opens == AreaOpens.Gate || policy.Guards(area, now) ? pages + Folders.StandingPath(area) : null,
            area.WorksUntil(new SiteDates(policy.Settings.TimeZone), now));
    }

    public static Core.Files.AreaDraft ToCore(this Contract.Files.AreaDraft draft, string key) => new()
    {
        Key = key, Title = draft.Title, Item = draft.Item, Folder = draft.Folder, Opens = draft.Opens, Every = draft.Every, Overlap = draft.Overlap,
    };
}
