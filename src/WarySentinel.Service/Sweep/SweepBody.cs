using System.Buffers;
using System.IO.Compression;
using System.IO.Hashing;
using System.Text;

namespace WarySentinel.Service.Sweep;

/// <summary>What an answer holds, as a sweep reads it.</summary>
/// <param name="Text">What it says, whatever it calls itself; null where it says nothing that can be read.</param>
/// <param name="Print">What its bytes come to where it is no text, so that the same file is known again; else 0.</param>
internal sealed record SweepBody(string? Text, ulong Print)
{
    private const int MostTextBytes = 4 << 20;
    private const int LookedAt = 4096;
    private const int PrintBytes = 64 * 1024;
    private const int LeastPrintBytes = 512;

    /// <summary>Reads an answer: text to a bound, documents whole, of anything else the beginning.</summary>
    public static async Task<SweepBody> ReadAsync(HttpContent content, CancellationToken stop)
    {
        await using var stream = await content.ReadAsStreamAsync(stop);
        return await OfAsync(await BytesAsync(stream, stop), stop);
    }

    /// <summary>Reads bytes. Packed text is unpacked.</summary>
    public static async Task<SweepBody> OfAsync(byte[] bytes, CancellationToken stop)
    {
        var raw = bytes;
        if (bytes is [0x1F, 0x8B, ..])
        {
            await using var packed = new GZipStream(new MemoryStream(bytes, false), CompressionMode.Decompress);
            try
            {
                bytes = await BytesAsync(packed, stop);
            }
            catch (InvalidDataException)
            {
                bytes = raw;
            }
        }

        var looked = bytes.AsSpan(0, Math.Min(bytes.Length, LookedAt));
        if (!looked.Contains((byte)0) && !DocumentText.IsOne(looked))
        {
            return new SweepBody(Encoding.UTF8.GetString(bytes), 0);
        }

        var print = raw.Length < LeastPrintBytes ? 0 : XxHash3.HashToUInt64(raw.AsSpan(0, Math.Min(raw.Length, PrintBytes))) | 1;
        return new SweepBody(DocumentText.IsOne(looked) ? await DocumentText.OfAsync(bytes, stop) : null, print);
    }

    private static async Task<byte[]> BytesAsync(Stream stream, CancellationToken stop)
    {
        using var kept = new MemoryStream();
        var buffer = ArrayPool<byte>.Shared.Rent(PrintBytes);
        try
        {
            var most = MostTextBytes;
            for (int read; kept.Length < most && (read = await stream.ReadAsync(buffer.AsMemory(0, PrintBytes), stop)) > 0;)
            {
                var isFirst = kept.Length == 0;
                kept.Write(buffer, 0, read);
                if (isFirst && buffer is not [0x1F, 0x8B, ..])
                {
                    most = DocumentText.IsOne(buffer.AsSpan(0, read)) ? DocumentText.MostBytes
                        : buffer.AsSpan(0, Math.Min(read, LookedAt)).Contains((byte)0) ? PrintBytes : MostTextBytes;
                }
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }

        return kept.ToArray();
    }
}
