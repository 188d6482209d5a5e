using Microsoft.AspNetCore.Antiforgery;
using WarySentinel.Core.Forms;
using WarySentinel.Service.Access;

namespace WarySentinel.Service.Forms;

/// <summary>What the account pages read from a request, and how they send people on.</summary>
internal static class Asked
{
    /// <summary>The form that was sent; null when it is none of ours or has grown old.</summary>
    public static async Task<IFormCollection?> FormAsync(this IAntiforgery antiforgery, HttpContext http) =>
        http.Request.HasFormContentType && await antiforgery.IsRequestValidAsync(http) ? await http.Request.ReadFormAsync(http.RequestAborted) : null;

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
