using System.Text;
using WarySentinel.Core.Sweep;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Sweep;

/// <summary>One way in which a sweep asks: through what, where, as whom.</summary>
internal sealed record SweepProbe(SweepVia Via, Uri Base, SeenAs As, string? Cookie)
{
    private static readonly (string Name, string Value)[] Usual = [("Accept", "text/html,application/xhtml+xml,*/*;q=0.8"), ("User-Agent", "wary-sweep")];

    /// <summary>Headers by which some sites let the address of a request be another than its own.</summary>
    private static readonly string[] Steering = ["X-Original-URL", "X-Rewrite-URL", "X-Override-URL"];

    private static readonly HashSet<string> Protocol = new(StringComparer.OrdinalIgnoreCase)
    {
        "Date", "Server", "Vary", "Cache-Control", "Content-Type", "Content-Length", "Content-Encoding", "ETag", "Last-Modified", "Expires", "Age",
        "Transfer-Encoding", "Connection", "Set-Cookie", "Accept-Ranges", "Strict-Transport-Security", "Location", "WWW-Authenticate",
        "Content-Security-Policy", "X-Content-Type-Options", "X-Frame-Options", "Referrer-Policy", "Permissions-Policy",
    };

    /// <summary>Asks for an address. Status 0 where nothing came back.</summary>
    /// <param name="http">What asks.</param>
    /// <param name="address">The address.</param>
    /// <param name="stop">Cancels it.</param>
    /// <param name="way">How, where not as a browser does.</param>
    public async Task<Sighting> AskAsync(HttpClient http, string address, CancellationToken stop, SweepWay? way = null)
    {
        using var request = RequestFor(address, way);
        try
        {
            using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop);
            return SightingOf(response, await SweepBody.ReadAsync(response.Content, address, stop));
        }
        catch (Exception fault) when (fault is HttpRequestException or IOException or InvalidDataException
            || (fault is OperationCanceledException && !stop.IsCancellationRequested))
        {
            return new Sighting(0);
        }
    }

    /// <summary>What came back.</summary>
    public static Sighting SightingOf(HttpResponseMessage response, SweepBody body)
    {
        var control = response.Headers.TryGetValues("Cache-Control", out var values) ? string.Join(", ", values) : "";
        return new Sighting(
            (int)response.StatusCode, control, response.Headers.Location?.OriginalString, body.Text, HeadersOf(response), body.Print, body.Within)
        {
            Unread = body.Unread,
        };
    }

    /// <summary>Headers that can name an address or say something; not those of the protocol.</summary>
    private static string HeadersOf(HttpResponseMessage response)
    {
        var said = new StringBuilder();
        foreach (var (name, values) in response.Headers.Concat(response.Content.Headers).Where(h => !Protocol.Contains(h.Key)))
        {
            said.Append(name).Append(": ").AppendJoin(", ", values).Append('\n');
        }

        return said.ToString();
    }

    /// <summary>The whole of an address.</summary>
    public Uri UrlOf(string address) =>
        new(Base.GetLeftPart(UriPartial.Authority) + address, new UriCreationOptions { DangerousDisablePathAndQueryCanonicalization = true });

    private HttpRequestMessage RequestFor(string address, SweepWay? way)
    {
        var request = new HttpRequestMessage(way?.Method ?? HttpMethod.Get, UrlOf(way?.IsSteered == true ? "/" : address));
        request.Headers.Host = way?.Host;
        var steered = way?.IsSteered == true ? Steering.Select(name => (name, address)) : [];
        foreach (var (name, value) in Usual.Where(u => way?.Headers.Any(h => h.Name == u.Name) != true).Concat(way?.Headers ?? []).Concat(steered))
        {
            request.Headers.TryAddWithoutValidation(name, value);
        }

        if (Cookie is not null)
        {
            request.Headers.TryAddWithoutValidation("Cookie", Cookie);
        }

        return request;
    }
}
