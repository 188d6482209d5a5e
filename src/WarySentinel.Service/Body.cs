using Microsoft.AspNetCore.Http.Features;

namespace WarySentinel.Service;

/// <summary>Reads whole request bodies within a bound.</summary>
public static class Body
{
    /// <summary>The body; null when it is larger than is taken, told by its length before it is read where that is given.</summary>
    public static async Task<byte[]?> ReadAsync(HttpContext http, long mostBytes)
    {
        if (http.Request.ContentLength > mostBytes)
        {
            return null;
        }

        http.Features.Get<IHttpMaxRequestBodySizeFeature>()!.MaxRequestBodySize = mostBytes;
        try
        {
            using var copy = new MemoryStream((int)Math.Min(http.Request.ContentLength ?? 0, mostBytes));
            await http.Request.Body.CopyToAsync(copy, http.RequestAborted);
            return copy.ToArray();
        }
        catch (BadHttpRequestException tooLarge) when (tooLarge.StatusCode == StatusCodes.Status413PayloadTooLarge)
        {
            return null;
        }
    }
}
