using System.IO.Compression;
using System.Text;
using WarySentinel.Core.Sweep;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Sweep;

/// <summary>One way in which a sweep asks: through what, where, as whom.</summary>
internal sealed record SweepProbe(SweepVia Via, Uri Base, SeenAs As, string? Cookie)
{
    private const int MostTextBytes = 4 << 20;
    private const int LookedAt = 4096;

    private static readonly HashSet<string> Usual = new(StringComparer.OrdinalIgnoreCase)
    {
        "Date", "Server", "Vary", "Cache-Control", "Content-Type", "Content-Length", "Content-Encoding", "ETag", "Last-Modified", "Expires", "Age",
        "Transfer-Encoding", "Connection", "Set-Cookie", "Accept-Ranges", "Strict-Transport-Security", "Location", "WWW-Authenticate",
        "Content-Security-Policy", "X-Content-Type-Options", "X-Frame-Options", "Referrer-Policy", "Permissions-Policy",
    };

    /// <summary>Asks for an address. Status 0 where nothing came back.</summary>
    public async Task<Sighting> AskAsync(HttpClient http, string address, CancellationToken stop)
    {
        using var request = RequestFor(address);
        try
        {
            using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop);
            var text = response.IsSuccessStatusCode ? await ReadAsync(response.Content, stop) : null;
            var control = response.Headers.TryGetValues("Cache-Control", out var values) ? string.Join(", ", values) : "";
            return new Sighting((int)response.StatusCode, control, response.Headers.Location?.OriginalString, text, HeadersOf(response));
        }
        catch (Exception fault) when (fault is HttpRequestException or IOException or InvalidDataException
            || (fault is OperationCanceledException && !stop.IsCancellationRequested))
        {
            return new Sighting(0);
        }
    }

    /// <summary>Headers that can name an address or say something; not those of the protocol.</summary>
    private static string HeadersOf(HttpResponseMessage response)
    {
        var said = new StringBuilder();
        foreach (var (name, values) in response.Headers.Concat(response.Content.Headers).Where(h => !Usual.Contains(h.Key)))
        {
            said.Append(name).Append(": ").AppendJoin(", ", values).Append('\n');
        }

        return said.ToString();
    }

    private HttpRequestMessage RequestFor(string address)
    {
        var url = new Uri(Base.GetLeftPart(UriPartial.Authority) + address, new UriCreationOptions { DangerousDisablePathAndQueryCanonicalization = true });
        var request = new HttpRequestMessage(HttpMethod.Get, url);
        request.Headers.TryAddWithoutValidation("Accept", "text/html,application/xhtml+xml,*/*;q=0.8");
        request.Headers.TryAddWithoutValidation("User-Agent", "wary-sweep");
        if (Cookie is not null)
        {
            request.Headers.TryAddWithoutValidation("Cookie", Cookie);
        }

        return request;
    }

    /// <summary>The body as text, whatever the answer calls it; null where it is none. Packed text is unpacked.</summary>
    private static async Task<string?> ReadAsync(HttpContent content, CancellationToken stop)
    {
        await using var stream = await content.ReadAsStreamAsync(stop);
        var bytes = await ReadAsync(stream, stop);
        if (bytes is [0x1F, 0x8B, ..])
        {
            await using var packed = new GZipStream(new MemoryStream(bytes, false), CompressionMode.Decompress);
            bytes = await ReadAsync(packed, stop);
        }

        var looked = bytes.AsSpan(0, Math.Min(bytes.Length, LookedAt));
        return looked.Contains((byte)0) ? null : Encoding.UTF8.GetString(bytes);
    }

    private static async Task<byte[]> ReadAsync(Stream stream, CancellationToken stop)
    {
        using var kept = new MemoryStream();
        var buffer = new byte[64 * 1024];
        int read;
        while (kept.Length < MostTextBytes && (read = await stream.ReadAsync(buffer, stop)) > 0)
        {
            kept.Write(buffer, 0, read);
            if (kept.Length == read && buffer.AsSpan(0, Math.Min(read, LookedAt)).Contains((byte)0) && buffer is not [0x1F, 0x8B, ..])
            {
                break;
            }
        }

        return kept.ToArray();
    }
}
