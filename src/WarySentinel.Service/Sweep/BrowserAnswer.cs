using System.Net;
using PuppeteerSharp;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>What a browser is given for something that it asked for, and what a sweep reads in it.</summary>
internal sealed record BrowserAnswer(ResponseData Response, Sighting Seen)
{
    private const int MostBytes = 16 << 20;

    private static readonly HashSet<string> NotSent = new(StringComparer.OrdinalIgnoreCase)
    {
        "Host", "Connection", "Content-Length", "Cookie", "Accept-Encoding", "Transfer-Encoding", "Upgrade", "Proxy-Connection", "TE", "Keep-Alive",
    };

    private static readonly HashSet<string> NotPassed = new(StringComparer.OrdinalIgnoreCase)
    {
        "Connection", "Content-Length", "Content-Encoding", "Transfer-Encoding", "Keep-Alive", "Alt-Svc", "Strict-Transport-Security",
    };

    /// <summary>Asks in the place of a browser; null where nothing came back.</summary>
    public static async Task<BrowserAnswer?> ForAsync(HttpClient http, IRequest asked, Uri url, CookieContainer cookies, CancellationToken stop)
    {
        using var request = RequestFor(asked, url, cookies);
        try
        {
            using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop);
            foreach (var cookie in response.Headers.TryGetValues("Set-Cookie", out var set) ? set : [])
            {
                Keep(cookies, url, cookie);
            }

            var body = await ReadAsync(response.Content, stop);
            return new BrowserAnswer(
                new ResponseData
                {
                    Status = response.StatusCode, BodyData = body,
                    Headers = response.Headers.Concat(response.Content.Headers).Where(h => !NotPassed.Contains(h.Key))
                        .ToDictionary(h => h.Key, h => (object)string.Join(IsCookie(h.Key) ? "\n" : ", ", h.Value)),
                },
                SweepProbe.SightingOf(response, await SweepBody.OfAsync(body, response.Content.Headers.ContentType, url.PathAndQuery, stop)));
        }
        catch (Exception fault) when (fault is HttpRequestException or IOException or InvalidDataException or OperationCanceledException)
        {
            return null;
        }
    }

    private static HttpRequestMessage RequestFor(IRequest asked, Uri url, CookieContainer cookies)
    {
        var request = new HttpRequestMessage(new HttpMethod(asked.Method.Method), url);
        if (asked.HasPostData && asked.PostData is { } posted)
        {
            request.Content = new ByteArrayContent(System.Text.Encoding.UTF8.GetBytes(posted.ToString()!));
        }

        foreach (var (name, value) in asked.Headers.Where(h => !NotSent.Contains(h.Key)))
        {
            if (!request.Headers.TryAddWithoutValidation(name, value))
            {
                request.Content?.Headers.TryAddWithoutValidation(name, value);
            }
        }

        if (cookies.GetCookieHeader(url) is { Length: > 0 } kept)
        {
            request.Headers.TryAddWithoutValidation("Cookie", kept);
        }

        return request;
    }

    private static bool IsCookie(string header) => header.Equals("Set-Cookie", StringComparison.OrdinalIgnoreCase);

    private static void Keep(CookieContainer cookies, Uri url, string cookie)
    {
        try
        {
            cookies.SetCookies(url, cookie);
        }
        catch (CookieException)
        {
            // What is no cookie is none.
        }
    }

    private static async Task<byte[]> ReadAsync(HttpContent content, CancellationToken stop)
    {
        await using var stream = await content.ReadAsStreamAsync(stop);
        using var kept = new MemoryStream();
        var buffer = new byte[32 * 1024];
        for (int read; kept.Length < MostBytes && (read = await stream.ReadAsync(buffer, stop)) > 0;)
        {
            kept.Write(buffer, 0, read);
        }

        return kept.ToArray();
    }
}
