using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Hosted;
using WarySentinel.Core;
using WarySentinel.Core.Hosted;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Hosted;

/// <summary>Pictures and files of pages.</summary>
public static class PageFileEndpoints
{
    private const string Name = "/{key}/files";

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapPageFiles(this RouteGroupBuilder api)
    {
        var pages = api.MapGroup("/pages").WithTags("Pages");
        pages.MapGet(Name, ListAsync).Requires("read");
        pages.MapGet(Name + "/{name}", ShowAsync).Requires("read");
        pages.MapPut(Name + "/{name}", PutAsync).Requires("write").Takes(PageFiles.MostBytes).Accepts<byte[]>("application/octet-stream");
        pages.MapDelete(Name + "/{name}", RemoveAsync).Requires("write");
        return api;
    }

    private static async Task<Results<Ok<PageOf<PageFileView>>, ProblemHttpResult>> ListAsync(
        string key, PolicyHolder policies, Store store, CancellationToken stop) => HostedBook.Of(policies.Current).Page(key) is null
        ? HostedPageEndpoints.Unknown(policies, key)
        : TypedResults.Ok(new PageOf<PageFileView>([.. (await store.PageFilesAsync(key, stop)).Select(f => f.ToWire())], null));

    private static async Task<IResult> ShowAsync(string key, string name, HttpContext http, Store store, CancellationToken stop)
    {
        if (await store.PageFileAsync(key, name, stop) is not { } file)
        {
            return Problem.Of(ProblemKind.NotFound, "page-file-unknown", name).ToHttp();
        }

        http.Response.Headers.XContentTypeOptions = "nosniff";
        http.Response.Headers.ContentSecurityPolicy = "default-src 'none'; sandbox";
        http.Response.Headers.CacheControl = "no-store";
        return Results.Bytes(file.Content, file.Type, file.Name);
    }

    private static async Task<Results<Ok<PageFileView>, ProblemHttpResult>> PutAsync(
        string key, string name, HttpContext http, PolicyHolder policies, Store store, HostedDesk desk, PeopleLane people, CancellationToken stop)
    {
        using var content = new MemoryStream();
        await http.Request.Body.CopyToAsync(content, stop);
        var by = Caller.Of(http).Name;
        var put = await people.ChangeAsync(async () =>
        {
            var (files, bytes) = (await store.PageFilesAsync(key, stop), await store.PageFileBytesAsync(stop));
            var isNew = files.All(f => f.Name != name);
            return (isNew && files.Count >= PageFiles.MostOfPage) || bytes + content.Length > PageFiles.MostOfAll
                ? Problem.Of(ProblemKind.Conflict, "page-files-many", PageFiles.MostOfPage, PageFiles.MostOfAll >> 30)
                : PageFiles.Put(policies.Current, key, name, content.ToArray(), desk.Around(by));
        }, by);
        return put.Match<Results<Ok<PageFileView>, ProblemHttpResult>>(
            file => TypedResults.Ok(new PageFileNamed(file.Name, file.Type, file.Content.Length,
                Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(file.Content)), file.By,
                file.At).ToWire()), problem => problem.ToHttp());
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(
        string key, string name, HttpContext http, Store store, PeopleLane people, CancellationToken stop)
    {
        if ((await store.PageFilesAsync(key, stop)).All(f => f.Name != name))
        {
            return Problem.Of(ProblemKind.NotFound, "page-file-unknown", name).ToHttp();
        }

        await people.ChangeAsync(() => Task.FromResult(PageFiles.Drop(key, name)), Caller.Of(http).Name);
        return TypedResults.NoContent();
    }
}
