using System.IO.Compression;
using WarySentinel.Core;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Catalogue;

/// <summary>A source could not be read; says why, for people.</summary>
public sealed class SourceException(Wording said) : Exception(said.ToString())
{
    /// <summary>Why, still to be worded.</summary>
    public Wording Said => said;
}

/// <summary>What came back from one address.</summary>
/// <param name="Address">The address in the end, after redirects on the same host.</param>
/// <param name="Status">The HTTP status.</param>
/// <param name="Type">The media type.</param>
/// <param name="Body">The body, unpacked.</param>
public sealed record Fetched(Uri Address, int Status, string Type, byte[] Body);

/// <summary>
/// Fetches pages of the site: one at a time, bounded in size and in time as a whole, on one host only, and only where the service may fetch
/// from.
/// </summary>
public sealed class Fetcher(Outbound outbound, IHttpClientFactory clients, TimeSpan deadline) : IDisposable
{
    private const int MostBytes = 50 << 20;
    private const int MostRedirects = 5;
    private readonly HttpClient http = clients.CreateClient(OwnRequests.Walk);

    /// <summary>The name under which it asks.</summary>
    public const string Agent = "wary-walk";

    /// <summary>Fetches an address. Throws <see cref="SourceException"/> when nothing comes.</summary>
    public async Task<Fetched> GetAsync(Uri address, CancellationToken stop)
    {
        var at = address;
        using var whole = CancellationTokenSource.CreateLinkedTokenSource(stop);
        whole.CancelAfter(deadline);
        for (var hop = 0; ; hop++)
        {
            if (outbound.Refuses(at) is { } refused)
            {
                throw new SourceException(refused.Detail);
            }

            using var request = new HttpRequestMessage(HttpMethod.Get, at);
            request.Headers.TryAddWithoutValidation("User-Agent", Agent);
            request.Headers.TryAddWithoutValidation("Accept", "text/html,application/xml;q=0.9,*/*;q=0.5");
            try
            {
                using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, whole.Token);
                if ((int)response.StatusCode is >= 300 and < 400 && response.Headers.Location is { } to && hop < MostRedirects)
                {
                    var next = new Uri(at, to);
                    if (next.Authority != address.Authority)
                    {
                        return new Fetched(at, (int)response.StatusCode, "", []);
                    }

                    at = next;
                    continue;
                }

                var body = await ReadAsync(await response.Content.ReadAsStreamAsync(whole.Token), whole.Token);
                // A sitemap may be packed as a file, whatever the headers say (RFC 1952).
                body = body is [0x1f, 0x8b, ..] ? await ReadAsync(new GZipStream(new MemoryStream(body), CompressionMode.Decompress), whole.Token) : body;
                return new Fetched(at, (int)response.StatusCode, response.Content.Headers.ContentType?.MediaType ?? "", body);
            }
            catch (OperationCanceledException) when (!stop.IsCancellationRequested)
            {
                throw new SourceException(Wording.Of("discover.slow", at, deadline.TotalSeconds));
            }
            catch (Exception fault) when (fault is HttpRequestException or IOException or InvalidDataException)
            {
                throw new SourceException(Wording.Of("discover.unreachable", at, fault.Message));
            }
        }
    }

    /// <summary>Unpacks a file where it is packed. Throws <see cref="SourceException"/> when it is too large or broken.</summary>
    public static async Task<Stream> UnpackAsync(Stream body, CancellationToken stop)
    {
        var head = new byte[2];
        var isPacked = await body.ReadAtLeastAsync(head, 2, false, stop) == 2 && head is [0x1f, 0x8b];
        body.Position = 0;
        try
        {
            return isPacked ? new MemoryStream(await ReadAsync(new GZipStream(body, CompressionMode.Decompress, true), stop)) : body;
        }
        catch (InvalidDataException fault)
        {
            throw new SourceException(Wording.Of("discover.broken", fault.Message));
        }
    }

    /// <inheritdoc/>
    public void Dispose() => http.Dispose();

    private static async Task<byte[]> ReadAsync(Stream from, CancellationToken stop)
    {
        await using (from)
        {
            using var kept = new MemoryStream();
            var buffer = new byte[64 * 1024];
            int read;
            while ((read = await from.ReadAsync(buffer, stop)) > 0)
            {
                kept.Write(buffer, 0, read);
                if (kept.Length > MostBytes)
                {
                    throw new SourceException(Wording.Of("discover.too-large", MostBytes >> 20));
                }
            }

            return kept.ToArray();
        }
    }
}
