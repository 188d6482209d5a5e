using System.Globalization;
using Microsoft.AspNetCore.StaticFiles;
using Microsoft.Net.Http.Headers;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Files;

/// <summary>A file as it is sent: whole or in part (RFC 9110 §14), kept by no cache, and nothing in it runs.</summary>
internal static class FileAnswer
{
    private static readonly FileExtensionContentTypeProvider Types = new();

    /// <summary>Sends a file.</summary>
    /// <param name="http">The request.</param>
    /// <param name="file">The file.</param>
    /// <param name="heard">The media type of what is played or shown where it stands; null for what is kept under its name.</param>
    public static async Task SendAsync(HttpContext http, FileInfo file, string? heard)
    {
        GuardedHeaders.Set(http.Response.Headers);
        http.Response.Headers.XContentTypeOptions = "nosniff";
        http.Response.Headers.ContentSecurityPolicy = "default-src 'none'; sandbox";
        var type = heard ?? (Types.TryGetContentType(file.Name, out var known) ? known : "application/octet-stream");
        var tag = new EntityTagHeaderValue(string.Create(CultureInfo.InvariantCulture, $"\"{file.Length:x}-{file.LastWriteTimeUtc.Ticks:x}\""));
        if (file.Length == 0)
        {
            // Nothing to be had of it, and what looks so may be no file that ends.
            (http.Response.ContentType, http.Response.ContentLength) = (type, 0);
            return;
        }

        LargeReads.Use(http);
        try
        {
            await Results.File(file.FullName, type, heard is null ? file.Name : null, file.LastWriteTimeUtc, tag, true).ExecuteAsync(http);
        }
        catch (FileNotFoundException) when (!http.Response.HasStarted)
        {
            http.Response.StatusCode = StatusCodes.Status404NotFound;
        }
    }
}
