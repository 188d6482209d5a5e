using Microsoft.Extensions.FileProviders;

namespace WarySentinel.Service.Pages;

/// <summary>Style, script and typefaces of the visitor's pages, which stand in the program itself.</summary>
public static class PageAssets
{
    private static readonly EmbeddedFileProvider Files = new(typeof(PageAssets).Assembly, "WarySentinel.Service.Assets");

    /// <summary>Serves them under a prefix, with validators (RFC 9110 §8.8).</summary>
    public static IApplicationBuilder UsePageAssets(this IApplicationBuilder site, string prefix) => site.UseStaticFiles(new StaticFileOptions
    {
        FileProvider = Files,
        RequestPath = prefix,
        OnPrepareResponse = served =>
        {
            served.Context.Response.Headers.CacheControl = "public, max-age=3600";
            served.Context.Response.Headers.XContentTypeOptions = "nosniff";
        },
    });

    /// <summary>The script that fills the parts of pages.</summary>
    public static IResult Script(HttpContext http)
    {
        var file = Files.GetFileInfo("parts.js");
        http.Response.Headers.CacheControl = "public, max-age=3600";
        http.Response.Headers.XContentTypeOptions = "nosniff";
        return Results.File(file.CreateReadStream(), "text/javascript; charset=utf-8", lastModified: file.LastModified);
    }
}
