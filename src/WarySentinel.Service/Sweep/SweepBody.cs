using System.Buffers;
using System.IO.Hashing;
using System.Net.Http.Headers;
using WarySentinel.Core.Sweep;

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

    /// <summary>Why it could not be read, or not to its end.</summary>
    public SweepUnread Unread { get; init; }

    /// <summary>Reads an answer: text to a bound, documents whole, of pictures and sound the beginning.</summary>
    /// <param name="content">The answer.</param>
    /// <param name="address">Where it was got; its ending may say how it is packed.</param>
    /// <param name="stop">Cancels it.</param>
    public static async Task<SweepBody> ReadAsync(HttpContent content, string address, CancellationToken stop)
    {
        await using var stream = await content.ReadAsStreamAsync(stop);
        var (type, isMedia) = (content.Headers.ContentType, IsMedia(content.Headers.ContentType));
        var (bytes, isCut) = await BytesAsync(stream, isMedia ? PrintBytes : MostTextBytes, address, stop);
        var body = await OfAsync(bytes, type, address, stop);
        return body with { Unread = body.Unread == SweepUnread.None && isCut && !isMedia ? SweepUnread.Long : body.Unread };
    }

    /// <summary>Reads bytes. What is packed is unpacked.</summary>
    public static async Task<SweepBody> OfAsync(byte[] bytes, MediaTypeHeaderValue? type, string address, CancellationToken stop)
    {
        var (raw, unread) = (bytes, SweepUnread.None);
        if (Packing.Opener(bytes, address) is { } unpack)
        {
            (bytes, unread) = await UnpackedAsync(bytes, unpack, stop);
        }

        var print = raw.Length < LeastPrintBytes ? 0 : XxHash3.HashToUInt64(raw.AsSpan(0, Math.Min(raw.Length, PrintBytes))) | 1;
        if (DocumentText.IsOne(bytes.AsSpan(0, Math.Min(bytes.Length, LookedAt))))
        {
            var (said, left) = await DocumentText.OfAsync(bytes, stop);
            return new SweepBody(said, print) { Unread = left == SweepUnread.None ? unread : left };
        }

        return SweepCharset.Read(bytes, type?.CharSet) is { } text ? new SweepBody(text, 0) { Unread = unread }
            : new SweepBody(null, print, SweepCharset.Within(bytes)) { Unread = unread };
    }

    private static bool IsMedia(MediaTypeHeaderValue? type) => type?.MediaType is { } name && name.IndexOf('/', StringComparison.Ordinal) is > 0 and var slash
        && name[..slash].ToLowerInvariant() is "image" or "audio" or "video" or "font" && !name.Contains("svg", StringComparison.OrdinalIgnoreCase);

    /// <summary>What bytes hold packed, or the bytes themselves where they cannot be unpacked.</summary>
    private static async Task<(byte[] Bytes, SweepUnread Unread)> UnpackedAsync(byte[] bytes, Func<Stream, Stream> unpack, CancellationToken stop)
    {
        try
        {
            await using var packed = unpack(new MemoryStream(bytes, false));
            var (inside, isCut) = await BytesAsync(packed, MostTextBytes, "", stop);
            return inside.Length > 0 ? (inside, isCut ? SweepUnread.Long : SweepUnread.None) : (bytes, SweepUnread.Locked);
        }
        catch (Exception fault) when (fault is not OperationCanceledException)
        {
            // Broken, or not packed after all: each library has a fault of its own for it.
            return (bytes, SweepUnread.Locked);
        }
    }

    /// <summary>Bytes to a bound, and whether there were more.</summary>
    private static async Task<(byte[] Bytes, bool IsCut)> BytesAsync(Stream stream, int most, string address, CancellationToken stop)
    {
        using var kept = new MemoryStream();
        var buffer = ArrayPool<byte>.Shared.Rent(PrintBytes);
        try
        {
            int read;
            while ((read = await stream.ReadAsync(buffer.AsMemory(0, PrintBytes), stop)) > 0 && kept.Length < most)
            {
                var isWhole = kept.Length == 0 && (DocumentText.IsOne(buffer.AsSpan(0, read)) || Packing.IsPacked(buffer.AsSpan(0, read), address));
                most = isWhole ? DocumentText.MostBytes : most;
                kept.Write(buffer, 0, read);
            }

            return (kept.ToArray(), read > 0);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }
}
