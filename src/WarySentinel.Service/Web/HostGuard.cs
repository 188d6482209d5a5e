using WarySentinel.Core;

namespace WarySentinel.Service.Web;

/// <summary>
/// Turns away, before anything else is made of a request, what no page could be built for: a host that is none (RFC 9110 §7.2), and methods
/// that are for proxies (CONNECT, §9.3.6) or echo what was sent (TRACE, §9.3.8). A request that names no host is meant for ours.
/// </summary>
public sealed class HostGuard(RequestDelegate next, string ownUrl)
{
    private static readonly System.Buffers.SearchValues<char> NotInHosts = System.Buffers.SearchValues.Create("/\\?#@%<>\"{}|^`,;'");
    private readonly HostString own = HostString.FromUriComponent(new Uri(ownUrl));

    /// <summary>The host that was found to be one last: nearly every request names the same.</summary>
    private volatile string? known;

    /// <summary>Runs one request.</summary>
    public Task InvokeAsync(HttpContext http)
    {
        var request = http.Request;
        if (request.Method.Equals("CONNECT", StringComparison.OrdinalIgnoreCase) || request.Method.Equals("TRACE", StringComparison.OrdinalIgnoreCase)
            || request.Method.Equals("TRACK", StringComparison.OrdinalIgnoreCase))
        {
            http.Response.Headers.Allow = "GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS";
            return PlainAsync(http, StatusCodes.Status405MethodNotAllowed, "web.method");
        }

        if (!request.Host.HasValue)
        {
            request.Host = own;
        }
        else if (request.Host.Value != known && !IsHost(request.Host.Value))
        {
            return PlainAsync(http, StatusCodes.Status400BadRequest, "web.host");
        }

        return next(http);
    }

    /// <summary>Answers with one line of plain text: nothing in it depends on what was sent.</summary>
    public static Task PlainAsync(HttpContext http, int status, string word)
    {
        // What follows in the connection cannot be trusted to be a request.
        http.Response.Headers.Connection = "close";
        http.Response.StatusCode = status;
        http.Response.ContentType = "text/plain; charset=utf-8";
        http.Response.Headers.CacheControl = "no-store";
        http.Response.Headers.XContentTypeOptions = "nosniff";
        return HttpMethods.IsHead(http.Request.Method) ? Task.CompletedTask : http.Response.WriteAsync(Words.Of(word) + "\n");
    }

    /// <summary>Whether addresses can be made with the host as it was sent: a name or an address, and a port.</summary>
    private bool IsHost(string host)
    {
        if (!CanBeHost(host))
        {
            return false;
        }

        known = host;
        return true;
    }

    private static bool CanBeHost(string host) =>
        host.Length <= 260 && host.AsSpan().IndexOfAnyExceptInRange('!', '~') < 0 && host.AsSpan().IndexOfAny(NotInHosts) < 0
        && Uri.TryCreate("http://" + host + "/", UriKind.Absolute, out var url) && url.Host.Length > 0 && url.AbsolutePath == "/" && url.UserInfo.Length == 0;
}
