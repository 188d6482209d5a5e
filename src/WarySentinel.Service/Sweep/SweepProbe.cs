using System.Text;
using WarySentinel.Core.Sweep;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Sweep;

/// <summary>One way in which a sweep asks: through what, where, as whom.</summary>
internal sealed record SweepProbe(SweepVia Via, Uri Base, SeenAs As, string? Cookie)
{
    private const int MostTextBytes = 4 << 20;

    /// <summary>Asks for an address. Status 0 where nothing came back.</summary>
    public async Task<Sighting> AskAsync(HttpClient http, string address, CancellationToken stop)
    {
        using var request = RequestFor(address);
        try
        {
            using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop);
            var text = IsText(response.Content) && response.IsSuccessStatusCode ? await ReadAsync(response.Content, stop) : null;
            var control = response.Headers.TryGetValues("Cache-Control", out var values) ? string.Join(", ", values) : "";
            return new Sighting((int)response.StatusCode, control, response.Headers.Location?.OriginalString, text);
        }
        catch (Exception fault) when (fault is HttpRequestException or IOException or InvalidDataException
            || (fault is OperationCanceledException && !stop.IsCancellationRequested))
        {
            return new Sighting(0);
        }
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

    private static bool IsText(HttpContent content)
    {
        var type = content.Headers.ContentType?.MediaType ?? "";
        return type.StartsWith("text/", StringComparison.Ordinal) || type.Contains("json", StringComparison.Ordinal)
            || type.Contains("xml", StringComparison.Ordinal) || type.Contains("javascript", StringComparison.Ordinal);
    }

    private static async Task<string> ReadAsync(HttpContent content, CancellationToken stop)
    {
        await using var stream = await content.ReadAsStreamAsync(stop);
        using var kept = new MemoryStream();
        var buffer = new byte[64 * 1024];
        int read;
        while (kept.Length < MostTextBytes && (read = await stream.ReadAsync(buffer, stop)) > 0)
        {
            kept.Write(buffer, 0, read);
        }

        return Encoding.UTF8.GetString(kept.GetBuffer(), 0, (int)kept.Length);
    }
}
