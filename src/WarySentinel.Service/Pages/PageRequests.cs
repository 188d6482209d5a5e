using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Pages;

/// <summary>What the account pages read from a request, and how they send people on.</summary>
internal static class PageRequests
{
    /// <summary>The form that was sent; null when it is none of ours or has grown old.</summary>
    public static async Task<IFormCollection?> FormAsync(this IAntiforgery antiforgery, HttpContext http) =>
        http.Request.HasFormContentType && (IsFromOurPage(http) || await antiforgery.IsRequestValidAsync(http))
            ? await http.Request.ReadFormAsync(http.RequestAborted) : null;

    /// <summary>
    /// Whether the browser itself says that the form stood on a page of this very origin; no other site can make it say so
    /// (Fetch Standard §3.2, Fetch Metadata §2.4). A form inside the site's own pages bears no token.
    /// </summary>
    private static bool IsFromOurPage(HttpContext http)
    {
        var headers = http.Request.Headers;
        return headers["Sec-Fetch-Site"] == "same-origin" && headers.Origin == $"{http.Request.Scheme}://{http.Request.Host}";
    }

    /// <summary>The address to go back to, where it is one on this site.</summary>
    public static string? BackOf(string? returnTo) => ReturnTo.IsOnThisSite(returnTo) ? returnTo : null;

    /// <summary>Says that a form had grown old.</summary>
    public static PageError Stale() => new(PageWords.Of("error.stale"), PageWords.Of("error.stale-more"));

    /// <summary>Sends the browser on to another page (RFC 9110 §15.4.4).</summary>
    public static void See(HttpContext http, string where)
    {
        GuardedHeaders.Set(http.Response.Headers);
        http.Response.StatusCode = StatusCodes.Status303SeeOther;
        http.Response.Headers.Location = where;
    }
}
