using System.IO.Compression;
using SharpCompress.Compressors.BZip2;
using SharpCompress.Compressors.Xz;
using ZstdSharp;

namespace WarySentinel.Service.Sweep;

/// <summary>
/// What lies packed on a server as it is, a back-up for the most part: gzip (RFC 1952), Brotli (RFC 7932; it has no mark, its ending tells), Zstandard
/// (RFC 8878), xz and bzip2.
/// </summary>
internal static class Packing
{
    /// <summary>Whether bytes begin as something packed does.</summary>
    public static bool IsPacked(ReadOnlySpan<byte> start, string address) => Opener(start, address) is not null;

    /// <summary>What opens it, as a stream of what is in it; null where it is not packed.</summary>
    public static Func<Stream, Stream>? Opener(ReadOnlySpan<byte> start, string address) => start switch
    {
        [0x1F, 0x8B, ..] => s => new GZipStream(s, CompressionMode.Decompress),
        [0x28, 0xB5, 0x2F, 0xFD, ..] => s => new DecompressionStream(s),
        [0xFD, (byte)'7', (byte)'z', (byte)'X', (byte)'Z', 0, ..] => s => new XZStream(s),
        [(byte)'B', (byte)'Z', (byte)'h', >= (byte)'1' and <= (byte)'9', 0x31, 0x41, 0x59, 0x26, ..] =>
            s => BZip2Stream.Create(s, SharpCompress.Compressors.CompressionMode.Decompress, true, false, false),
        _ => address.Split('?')[0].EndsWith(".br", StringComparison.OrdinalIgnoreCase) ? s => new BrotliStream(s, CompressionMode.Decompress) : null,
    };
}
