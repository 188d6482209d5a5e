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

        if (http.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } bound)
        {
            bound.MaxRequestBodySize = mostBytes;
        }

        var file = New(folder);
        try
        {
            await http.Request.Body.CopyToAsync(file, 64 * 1024, http.RequestAborted);
            file.Position = 0;
            return file;
        }
        catch (BadHttpRequestException tooLarge) when (tooLarge.StatusCode == StatusCodes.Status413PayloadTooLarge)
        {
            await file.DisposeAsync();
            return null;
        }
        catch
        {
            await file.DisposeAsync();
            throw;
        }
    }

    private static FileStream New(string folder)
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
