using System.IO.Compression;
using System.Text;
using UglyToad.PdfPig;

namespace WarySentinel.Service.Sweep;

/// <summary>
/// The text of documents that are no text themselves: PDF, and what is packed as ZIP (word processing, sheets, e-books, archives) or laid
/// together as TAR. What cannot be read says nothing; a file made to swell is read up to a bound.
/// </summary>
internal static class DocumentText
{
    /// <summary>Most bytes of a document that are worth reading.</summary>
    public const int MostBytes = 16 << 20;

    private const int MostPages = 400;
    private const int MostFiles = 400;
    private const int MostText = 4 << 20;
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(10);

    private static readonly HashSet<string> Texts = new(StringComparer.OrdinalIgnoreCase)
    {
        ".xml", ".html", ".htm", ".xhtml", ".txt", ".md", ".rst", ".json", ".csv", ".js", ".css", ".svg", ".ncx", ".opf", ".rels", ".yaml", ".yml", ".sql",
    };

    /// <summary>Whether bytes begin as such a document does.</summary>
    public static bool IsOne(ReadOnlySpan<byte> start) => IsPdf(start) || IsZip(start) || IsTar(start);

    /// <summary>What it says, or null where it says nothing that can be read.</summary>
    public static async Task<string?> OfAsync(byte[] document, CancellationToken stop = default)
    {
        try
        {
            // Whoever wrote the document may have meant it to take for ever.
            return await Task.Run(() => IsPdf(document) ? OfPdf(document) : IsZip(document) ? OfZip(document) : OfTar(document), stop).WaitAsync(Longest, stop);
        }
        catch (Exception fault) when (fault is not OperationCanceledException || !stop.IsCancellationRequested)
        {
            // Broken, locked by a password, or no such document after all: whatever a reader makes of it.
            return null;
        }
    }

    private static bool IsPdf(ReadOnlySpan<byte> start) => start.StartsWith("%PDF-"u8);

    private static bool IsZip(ReadOnlySpan<byte> start) => start.StartsWith("PK\x03\x04"u8);

    private static bool IsTar(ReadOnlySpan<byte> start) => start.Length > 262 && start.Slice(257, 5).SequenceEqual("ustar"u8);

    /// <summary>The files stand in it as they are, with what is said of them between.</summary>
    private static string OfTar(byte[] document) => Encoding.UTF8.GetString(document, 0, Math.Min(document.Length, MostText)).Replace('\0', ' ');

    private static string OfPdf(byte[] document)
    {
        using var pdf = PdfDocument.Open(document);
        var text = new StringBuilder();
        for (var page = 1; page <= Math.Min(pdf.NumberOfPages, MostPages) && text.Length < MostText; page++)
        {
            text.AppendJoin(' ', pdf.GetPage(page).GetWords().Select(w => w.Text)).Append('\n');
        }

        return text.ToString();
    }

    private static string OfZip(byte[] document)
    {
        using var packed = new ZipArchive(new MemoryStream(document, false), ZipArchiveMode.Read);
        var text = new StringBuilder();
        var buffer = new char[32 * 1024];
        foreach (var file in packed.Entries.Take(MostFiles))
        {
            text.Append(file.FullName).Append('\n');
            if (!Texts.Contains(Path.GetExtension(file.Name)))
            {
                continue;
            }

            using var reader = new StreamReader(file.Open(), Encoding.UTF8);
            for (int read; text.Length < MostText && (read = reader.Read(buffer)) > 0;)
            {
                text.Append(buffer, 0, read);
            }

            text.Append('\n');
        }

        return text.ToString();
    }
}
