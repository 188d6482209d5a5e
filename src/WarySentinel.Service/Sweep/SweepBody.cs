using System.Buffers;
using System.IO.Compression;
using System.IO.Hashing;
using System.Net.Http.Headers;

namespace WarySentinel.Service.Sweep;

/// <summary>What an answer holds, as a sweep reads it.</summary>
/// <param name="Text">What it says, whatever it calls itself; null where it says nothing that can be read.</param>
/// <param name="Print">What its bytes come to where it is no text, so that the same file is known again; else 0.</param>
/// <param name="Within">Words that stand in a file that is no text: in a database, a program, beside a picture; null where it is one.</param>
internal sealed record SweepBody(string? Text, ulong Print, string? Within = null)
{
    private const int MostTextBytes = 4 << 20;
    private const int LookedAt = 4096;
    private const int PrintBytes = 64 * 1024;
    private const int LeastPrintBytes = 512;

    /// <summary>Reads an answer: text to a bound, documents whole, of pictures and sound the beginning.</summary>
    /// <param name="content">The answer.</param>
    /// <param name="address">Where it was got; its ending may say how it is packed.</param>
    /// <param name="stop">Cancels it.</param>
    public static async Task<SweepBody> ReadAsync(HttpContent content, string address, CancellationToken stop)
    {
        await using var stream = await content.ReadAsStreamAsync(stop);
        var type = content.Headers.ContentType;
        return await OfAsync(await BytesAsync(stream, IsMedia(type) ? PrintBytes : MostTextBytes, stop), type, address, stop);
    }

    /// <summary>Reads bytes. Packed text is unpacked.</summary>
    public static async Task<SweepBody> OfAsync(byte[] bytes, MediaTypeHeaderValue? type, string address, CancellationToken stop)
    {
        var raw = bytes;
        bytes = bytes is [0x1F, 0x8B, ..] ? await UnpackedAsync(bytes, s => new GZipStream(s, CompressionMode.Decompress), stop)
            : address.Split('?')[0].EndsWith(".br", StringComparison.OrdinalIgnoreCase)
                ? await UnpackedAsync(bytes, s => new BrotliStream(s, CompressionMode.Decompress), stop) : bytes;
        var looked = bytes.AsSpan(0, Math.Min(bytes.Length, LookedAt));
        var isDocument = DocumentText.IsOne(looked);
        if (!isDocument && SweepCharset.Read(bytes, type?.CharSet) is { } text)
        {
            return new SweepBody(text, 0);
        }

        var print = raw.Length < LeastPrintBytes ? 0 : XxHash3.HashToUInt64(raw.AsSpan(0, Math.Min(raw.Length, PrintBytes))) | 1;
        return isDocument ? new SweepBody(await DocumentText.OfAsync(bytes, stop), print) : new SweepBody(null, print, SweepCharset.Within(bytes));
    }

    private static bool IsMedia(MediaTypeHeaderValue? type) => type?.MediaType is { } name && name.IndexOf('/', StringComparison.Ordinal) is > 0 and var slash
        && name[..slash].ToLowerInvariant() is "image" or "audio" or "video" or "font" && !name.Contains("svg", StringComparison.OrdinalIgnoreCase);

    /// <summary>What bytes hold packed, or the bytes themselves where they are not.</summary>
    private static async Task<byte[]> UnpackedAsync(byte[] bytes, Func<Stream, Stream> unpack, CancellationToken stop)
    {
        await using var packed = unpack(new MemoryStream(bytes, false));
        try
        {
            return await BytesAsync(packed, MostTextBytes, stop) is { Length: > 0 } inside ? inside : bytes;
        }
        catch (Exception fault) when (fault is InvalidDataException or InvalidOperationException or IOException)
        {
            return bytes;
        }
    }

    private static async Task<byte[]> BytesAsync(Stream stream, int most, CancellationToken stop)
    {
        using var kept = new MemoryStream();
        var buffer = ArrayPool<byte>.Shared.Rent(PrintBytes);
        try
        {
            for (int read; kept.Length < most && (read = await stream.ReadAsync(buffer.AsMemory(0, PrintBytes), stop)) > 0;)
            {
                most = kept.Length == 0 && DocumentText.IsOne(buffer.AsSpan(0, read)) ? DocumentText.MostBytes : most;
                kept.Write(buffer, 0, read);
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }

        return kept.ToArray();
    }
}
