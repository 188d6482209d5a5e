using System.IO.Compression;
using ZstdSharp;

namespace WarySentinel.Service.Gateway;

/// <summary>The codings of bodies that the gateway reads and writes (RFC 9110 §8.4.1, RFC 7932, RFC 8878).</summary>
internal static class Codings
{
    private static readonly string[] Read = ["gzip", "br", "zstd", "deflate"];

    /// <summary>What was asked last: browsers of a kind all want the same.</summary>
    private static volatile Wish? last;

    /// <summary>Those of the wanted codings that are read, to be asked for (RFC 9110 §12.5.3).</summary>
    public static string Among(string wanted)
    {
        var known = last;
        if (known?.Wanted != wanted)
        {
            var read = Read.Where(c => wanted.Contains(c, StringComparison.OrdinalIgnoreCase)).DefaultIfEmpty("identity");
            last = known = new Wish(wanted, string.Join(", ", read));
        }

        return known.Asked;
    }

    private sealed record Wish(string Wanted, string Asked);

    /// <summary>The body behind its codings; null where one of them is not read.</summary>
    public static async Task<Stream?> DecodedAsync(HttpContent content, CancellationToken stop)
    {
        var stream = await content.ReadAsStreamAsync(stop);
        foreach (var coding in content.Headers.ContentEncoding.Reverse())
        {
            if (Decoded(stream, coding.ToLowerInvariant()) is not { } decoded)
            {
                return null;
            }

            stream = decoded;
        }

        return stream;
    }

    /// <summary>A stream that writes in a coding; null for none.</summary>
    public static Stream? Coded(Stream to, string? coding) => coding switch
    {
        "gzip" or "x-gzip" => new GZipStream(to, CompressionLevel.Fastest),
        "br" => new BrotliStream(to, CompressionLevel.Fastest),
        "zstd" => new CompressionStream(to, 1),
        "deflate" => new ZLibStream(to, CompressionLevel.Fastest),
        _ => null,
    };

    /// <summary>The stream behind a coding; null behind one that we do not read.</summary>
    private static Stream? Decoded(Stream coded, string coding) => coding switch
    {
        "identity" => coded,
        "gzip" or "x-gzip" => new GZipStream(coded, CompressionMode.Decompress),
        "br" => new BrotliStream(coded, CompressionMode.Decompress),
        "zstd" => new DecompressionStream(coded),
        "deflate" => new ZLibStream(coded, CompressionMode.Decompress),
        _ => null,
    };
}
