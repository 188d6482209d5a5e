using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Audio;
using WarySentinel.Contract.Files;
using WarySentinel.Core;
using WarySentinel.Core.Audio;
using WarySentinel.Service.Access;
using WarySentinel.Service.Files;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Audio;

/// <summary>Shows: what is told of them, their files.</summary>
public static class ShowEndpoints
{
    private const string FilePath = "/{key}/files/{**path}";

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapShows(this RouteGroupBuilder api, ServiceOptions options)
    {
        var shows = api.MapGroup("/shows").WithTags("Audio");
        shows.MapGet("/", List).Requires("read");
        shows.MapGet("/{key}", Show).Requires("read");
        shows.MapPut("/{key}", Put).Requires("write");
        shows.MapDelete("/{key}", Remove).Requires("write");
        shows.MapGet("/{key}/files", Files).Requires("read");
        shows.MapPut(FilePath, PutFileAsync).Requires("write").Takes(options.FileMaxBytes).Accepts<byte[]>("application/octet-stream");
        shows.MapDelete(FilePath, RemoveFileAsync).Requires("write");
        shows.MapSubscribers();
        return api;
    }

    private static async Task<Ok<PageOf<ShowView>>> List(
        PolicyHolder policies, ShowShelf shelf, AreaFolder folder, ServiceOptions options, Store store, TimeProvider time, CancellationToken stop)
    {
        var (policy, counts) = (policies.Current, await store.SubscriberCountsAsync(stop));
        return TypedResults.Ok(new PageOf<ShowView>(
            [.. ShowBook.Of(policy).All.Select(s => s.ToWire(policy, shelf, folder, options, counts.GetValueOrDefault(s.Key), time.GetUtcNow()))], null));
    }

    private static async Task<Results<Ok<ShowView>, ProblemHttpResult>> Show(
        string key, HttpResponse response, PolicyHolder policies, ShowShelf shelf, AreaFolder folder, ServiceOptions options, Store store, TimeProvider time,
        CancellationToken stop) => ShowBook.Of(policies.Current).Find(key) is { } show
        ? await ToldAsync(show, response, policies, shelf, folder, options, store, time, stop) : ShowCommands.Unknown(policies.Current, key).ToHttp();

    private static async Task<Results<Ok<ShowView>, ProblemHttpResult>> Put(
        string key, Contract.Audio.ShowDraft draft, HttpContext http, PolicyHolder policies, ShowShelf shelf, AreaFolder folder, ServiceOptions options,
        Store store, TimeProvider time, CancellationToken stop)
    {
        var (version, now) = (Paging.VersionIn(http.Request), time.GetUtcNow());
        var put = version.Problem is { } missing ? missing : await policies.ChangeAsync(
            policy => ShowCommands.Put(policy, draft.ToCore(key), version.Value, now), Caller.Of(http).Name, stop);
        return put.Problem is { } problem ? problem.ToHttp()
            : await ToldAsync(put.Value, http.Response, policies, shelf, folder, options, store, time, stop);
    }

    private static async Task<Ok<ShowView>> ToldAsync(
        Show show, HttpResponse response, PolicyHolder policies, ShowShelf shelf, AreaFolder folder, ServiceOptions options, Store store, TimeProvider time,
        CancellationToken stop)
    {
        var counts = await store.SubscriberCountsAsync(stop);
        response.Headers.ETag = Paging.TagOf(show.Version);
        return TypedResults.Ok(show.ToWire(policies.Current, shelf, folder, options, counts.GetValueOrDefault(show.Key), time.GetUtcNow()));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => ShowCommands.Remove(policy, key), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static Results<Ok<PageOf<AreaFileView>>, ProblemHttpResult> Files(string key, PolicyHolder policies, AreaFolder folder) =>
        ShowBook.Of(policies.Current).Find(key) is not { } show ? ShowCommands.Unknown(policies.Current, key).ToHttp()
            : TypedResults.Ok(new PageOf<AreaFileView>(
                [
                    .. folder.Find(show.Folder, "") is DirectoryInfo at ? AreaFolder.List(at).Entries.Select(e => new AreaFileView(e.Name, e.Bytes, e.At))
                        : [],
                ],
                null));

    /// <summary>Puts a file into the folder of a show as it comes in: it is there when it is there whole.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> PutFileAsync(
        string key, string path, HttpContext http, PolicyHolder policies, AreaFolder folder, PeopleLane people, CancellationToken stop)
    {
        if (ShowBook.Of(policies.Current).Find(key) is not { } show)
        {
            return ShowCommands.Unknown(policies.Current, key).ToHttp();
        }

        if (MediaType.OfEpisode(path) is null && MediaType.OfPicture(path) is null)
        {
            return Problem.In("path", "show-file", path, $"{MediaType.Endings}, {MediaType.PictureEndings}").ToHttp();
        }

        if (!await folder.PutAsync(show.Folder, AreaEndpoints.Whole(path), http.Request.Body, stop))
        {
            return Problem.In("path", "area-file-name", path).ToHttp();
        }

        await people.ChangeAsync(ShowCommands.Filed(show, AreaEndpoints.Whole(path)), Caller.Of(http).Name);
        return TypedResults.NoContent();
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveFileAsync(
        string key, string path, HttpContext http, PolicyHolder policies, AreaFolder folder, PeopleLane people)
    {
        if (ShowBook.Of(policies.Current).Find(key) is not { } show)
        {
            return ShowCommands.Unknown(policies.Current, key).ToHttp();
        }

        if (!folder.Remove(show.Folder, AreaEndpoints.Whole(path)))
        {
            return Problem.Of(ProblemKind.NotFound, "area-file-unknown", path).ToHttp();
        }

        await people.ChangeAsync(ShowCommands.Unfiled(show, AreaEndpoints.Whole(path)), Caller.Of(http).Name);
        return TypedResults.NoContent();
    }
}
