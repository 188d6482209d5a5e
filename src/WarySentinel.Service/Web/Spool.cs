using Microsoft.AspNetCore.Http.Features;

namespace WarySentinel.Service.Web;

/// <summary>
/// Takes bodies that may be large, without holding them in memory: they stream into a file that only this process has, and that goes with
/// it.
/// </summary>
public static class Spool
{
    /// <summary>The body, from its beginning; null when it is larger than is taken, told by its length before it is read where that is given.</summary>
    /// <param name="http">The request.</param>
    /// <param name="folder">The data folder.</param>
    /// <param name="mostBytes">The bound.</param>
    public static async Task<FileStream?> ReadAsync(HttpContext http, string folder, long mostBytes)
    {
        if (http.Request.ContentLength > mostBytes)
        {
            return null;
        }

        Bound(http, mostBytes);
        try
        {
            return await TakeAsync(http.Request.Body, folder, http.RequestAborted);
        }
        catch (BadHttpRequestException tooLarge) when (tooLarge.StatusCode == StatusCodes.Status413PayloadTooLarge)
        {
            return null;
        }
    }

    /// <summary>Says how long the body of a request may be.</summary>
    public static void Bound(HttpContext http, long mostBytes)
    {
        if (http.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } bound)
        {
            bound.MaxRequestBodySize = mostBytes;
        }
    }

    /// <summary>All that a stream has, from its beginning.</summary>
    public static async Task<FileStream> TakeAsync(Stream from, string folder, CancellationToken stop)
    {
        var file = New(folder);
        try
        {
            await from.CopyToAsync(file, 64 * 1024, stop);
            file.Position = 0;
            return file;
        }
        catch
        {
            await file.DisposeAsync();
            throw;
        }
    }

    /// <summary>A file that only this process has.</summary>
    public static FileStream New(string folder)
    {
        var spool = Path.Combine(folder, "spool");
        Directory.CreateDirectory(spool, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        var path = Path.Combine(spool, Guid.NewGuid().ToString("N"));
        var file = new FileStream(path, new FileStreamOptions
        {
            Mode = FileMode.CreateNew, Access = FileAccess.ReadWrite, Share = FileShare.None, Options = FileOptions.Asynchronous | FileOptions.DeleteOnClose,
            UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
        });
        // Without a name already, so that nothing is left behind by a process that is killed.
        File.Delete(path);
        return file;
    }
}
