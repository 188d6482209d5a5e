using System.IO.Compression;
using System.Text;
using SharpCompress.Archives;
using SharpCompress.Readers;
using UglyToad.PdfPig;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>
/// The text of documents that are no text themselves: PDF, and what is packed as ZIP (word processing, sheets, e-books, archives), 7z
/// or RAR or laid together as TAR. What cannot be read says nothing; a file made to swell is read up to a bound.
/// </summary>
internal static class DocumentText
{
    /// <summary>Most bytes of a document that are worth reading.</summary>
    public const int MostBytes = 16 << 20;

    private const int MostPages = 400;
    private const int MostFiles = 400;
    private const int MostText = 4 << 20;
    private const int MostOfFile = 1 << 20;
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(10);

    // What has no words in it, whatever its bytes happen to look like.
    private static readonly HashSet<string> Media = new(StringComparer.OrdinalIgnoreCase)
    {
        ".png", ".jpg", ".jpeg", ".gif", ".webp", ".avif", ".ico", ".mp3", ".m4a", ".ogg", ".opus", ".wav", ".flac", ".mp4", ".webm", ".mov", ".woff",
        ".woff2", ".ttf", ".otf", ".eot",
    };

    /// <summary>Whether bytes begin as such a document does.</summary>
    public static bool IsOne(ReadOnlySpan<byte> start) => IsPdf(start) || IsZip(start) || IsTar(start) || IsArchive(start);

    /// <summary>What it says, or null where it says nothing that can be read; and why not, or not to its end.</summary>
    public static async Task<(string? Text, SweepUnread Unread)> OfAsync(byte[] document, CancellationToken stop = default)
    {
        try
        {
            // Whoever wrote the document may have meant it to take for ever.
            return await Task.Run(() => IsPdf(document) ? OfPdf(document) : IsZip(document) ? OfZip(document) : IsTar(document) ? OfTar(document)
                : OfArchive(document), stop).WaitAsync(Longest, stop);
        }
        catch (TimeoutException)
        {
            return (null, SweepUnread.Slow);
        }
        catch (Exception fault) when (fault is not OperationCanceledException || !stop.IsCancellationRequested)
        {
            // Broken, locked by a password, or no such document after all: whatever a reader makes of it.
            return (null, SweepUnread.Locked);
        }
    }

    private static bool IsPdf(ReadOnlySpan<byte> start) => start.StartsWith("%PDF-"u8);

    private static bool IsZip(ReadOnlySpan<byte> start) => start.StartsWith("PK\x03\x04"u8);

    private static bool IsTar(ReadOnlySpan<byte> start) => start.Length > 262 && start.Slice(257, 5).SequenceEqual("ustar"u8);

    /// <summary>7z or RAR.</summary>
    private static bool IsArchive(ReadOnlySpan<byte> start) =>
        start is [(byte)'7', (byte)'z', 0xBC, 0xAF, 0x27, 0x1C, ..] || start.StartsWith("Rar!\x1A\x07"u8);

    /// <summary>The files stand in it as they are, with what is said of them between.</summary>
    private static (string, SweepUnread) OfTar(byte[] document) => (
        Encoding.UTF8.GetString(document, 0, Math.Min(document.Length, MostText)).Replace('\0', ' '),
        document.Length > MostText ? SweepUnread.Long : SweepUnread.None);

    private static (string, SweepUnread) OfPdf(byte[] document)
    {
        using var pdf = PdfDocument.Open(document);
        var text = new StringBuilder();
        var page = 1;
        for (; page <= Math.Min(pdf.NumberOfPages, MostPages) && text.Length < MostText; page++)
        {
            text.AppendJoin(' ', pdf.GetPage(page).GetWords().Select(w => w.Text)).Append('\n');
        }

        return (text.ToString(), page <= pdf.NumberOfPages ? SweepUnread.Long : SweepUnread.None);
    }

    private static (string, SweepUnread) OfZip(byte[] document)
    {
        using var packed = new ZipArchive(new ImpatientStream(document, Longest), ZipArchiveMode.Read);
        return OfFiles(packed.Entries.Where(f => f.Length > 0).Select(f => (f.FullName, (Func<Stream>)f.Open)));
    }

    private static (string, SweepUnread) OfArchive(byte[] document)
    {
        using var packed = ArchiveFactory.OpenArchive(new ImpatientStream(document, Longest), new ReaderOptions());
        return OfFiles(packed.Entries.Where(f => !f.IsDirectory).Select(f => (f.Key ?? "", (Func<Stream>)f.OpenEntryStream)));
    }

    private static (string, SweepUnread) OfFiles(IEnumerable<(string Name, Func<Stream> Open)> files)
    {
        var (text, unread, many) = (new StringBuilder(), SweepUnread.None, 0);
        var buffer = new byte[MostOfFile];
        foreach (var (name, open) in files)
        {
            if (++many > MostFiles || text.Length >= MostText)
            {
                return (text.ToString(), SweepUnread.Long);
            }

            text.Append(name).Append('\n');
            if (!Media.Contains(Path.GetExtension(name)))
            {
                var left = Read(open, buffer, text);
                unread = left > unread ? left : unread;
            }
        }

        return (text.ToString(), unread);
    }

    private static SweepUnread Read(Func<Stream> open, byte[] buffer, StringBuilder text)
    {
        try
        {
            using var stream = open();
            var many = stream.ReadAtLeast(buffer, buffer.Length, false);
            var bytes = buffer[..many];
            text.Append(SweepCharset.Read(bytes, null) ?? SweepCharset.Within(bytes)).Append('\n');
            return many == buffer.Length && stream.ReadByte() >= 0 ? SweepUnread.Long : SweepUnread.None;
        }
        catch (Exception fault) when (fault is not (OutOfMemoryException or TimeoutException))
        {
            // This file is locked or broken; the others need not be.
            return SweepUnread.Locked;
        }
    }
}
