using System.Collections.Concurrent;
using System.Text;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Markup;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Gateway;

/// <summary>How an answer of the origin is read.</summary>
internal enum Reading
{
    /// <summary>It is no list of pages: it passes as it is.</summary>
    AsItIs,
    /// <summary>HTML.</summary>
    Html,
    /// <summary>HTML in the syntax of XML.</summary>
    Xhtml,
    /// <summary>XML, such as a sitemap or feed.</summary>
    Xml,
    /// <summary>An address on each line (sitemaps.org, “text file”).</summary>
    Lines,
    /// <summary>JSON, where the owner said what an entry is.</summary>
    Json,
    /// <summary>A script in which such data stands.</summary>
    Script,
}

/// <summary>What an answer is, as browsers tell it: by its type, by the lack of one, and by its first bytes.</summary>
/// <param name="Reading">How it is read.</param>
/// <param name="Encoding">The encoding that it says; UTF-8 where it says none that is known.</param>
/// <param name="IsZipped">Whether it is a file that holds the list packed (RFC 1952), such as <c>sitemap.xml.gz</c>.</param>
internal sealed record AnswerKind(Reading Reading, Encoding Encoding, bool IsZipped)
{
    private static readonly string[] Sniffed = ["", "unknown/unknown", "application/unknown", "*/*"];
    private static readonly string[] Packed = ["application/gzip", "application/x-gzip", "application/octet-stream", "application/xml", "text/xml", ""];

    private const int MostKept = 256;
    private static readonly ConcurrentDictionary<string, AnswerKind> Lately = new(StringComparer.Ordinal);

    /// <summary>Encodings in which bytes of ASCII may stand for other letters; they are written anew.</summary>
    private static readonly HashSet<int> Shifting = [1200, 1201, 12000, 12001, 50220, 50221, 50222, 50225, 52936, 65000];

    /// <summary>Whether ASCII keeps its place in it, so that it is filtered as it is.</summary>
    public bool IsPlain => !Shifting.Contains(Encoding.CodePage);

    /// <summary>What an answer is.</summary>
    /// <param name="content">The answer.</param>
    /// <param name="path">The path that was asked for.</param>
    /// <param name="rules">What the owner taught of it.</param>
    public static AnswerKind Of(HttpContent content, string path, IReadOnlyList<EntryRule> rules)
    {
        // On the path of every answer: nearly all say one of a few types, and neither rule nor ending has a say in what they are.
        if (rules.Count > 0 || HasTellingEnd(path) || !content.Headers.NonValidated.TryGetValues("Content-Type", out var said) || said.Count != 1
            || said.ToString() is not { Length: <= 100 } type)
        {
            return Read(content, path, rules);
        }

        if (Lately.TryGetValue(type, out var known))
        {
            return known;
        }

        known = Read(content, path, rules);
        if (Lately.Count < MostKept)
        {
            Lately[type] = known;
        }

        return known;
    }

    private static bool HasTellingEnd(string path) =>
        path.EndsWith(".gz", StringComparison.OrdinalIgnoreCase) || path.EndsWith(".txt", StringComparison.OrdinalIgnoreCase);

    private static AnswerKind Read(HttpContent content, string path, IReadOnlyList<EntryRule> rules)
    {
        // Several types, or one that cannot be read, are told apart by no rule that all browsers keep: any of them may count.
        var written = content.Headers.NonValidated.TryGetValues("Content-Type", out var values) ? values.SelectMany(v => v.Split(',')).ToList() : [""];
        var types = written.Select(w => w.Split(';')[0].Trim().ToLowerInvariant()).ToList();
        var charset = written.SelectMany(w => w.Split(';').Skip(1)).Select(p => p.Split('=', 2)).Where(p => p[0].Trim().Equals("charset",
            StringComparison.OrdinalIgnoreCase)).Select(p => p.ElementAtOrDefault(1)?.Trim(' ', '"', '\'')).FirstOrDefault();
        var isPacked = path.EndsWith(".gz", StringComparison.OrdinalIgnoreCase) && types.Exists(Packed.Contains);
        var reading = isPacked ? PackedIn(path) : types.Select(t => Of(t, path, rules)).DefaultIfEmpty(Reading.Html).MaxBy(Rank);
        return new AnswerKind(reading, Charset.Named(charset) ?? Encoding.UTF8, isPacked && reading != Reading.AsItIs);
    }

    /// <summary>What a packed file holds, by its name.</summary>
    public static Reading PackedIn(string path) => path.EndsWith(".xml.gz", StringComparison.OrdinalIgnoreCase) ? Reading.Xml
        : path.EndsWith(".txt.gz", StringComparison.OrdinalIgnoreCase) ? Reading.Lines : Reading.AsItIs;

    /// <summary>Whether it is read as a whole, by what the owner taught.</summary>
    public bool IsData => Reading is Reading.Json or Reading.Script;

    /// <summary>What it is by its first bytes: some services say of JSON that it is a page.</summary>
    public AnswerKind SeenAs(ReadOnlySpan<byte> first, IReadOnlyList<EntryRule> rules) =>
        Reading == Reading.Html && rules.Any(r => r.Data is { Behind: null }) && first.TrimStart("\uFEFF \t\r\n"u8) is [(byte)'{' or (byte)'[', ..]
            ? this with { Reading = Reading.Json } : this;

    private static Reading Of(string type, string path, IReadOnlyList<EntryRule> rules) => type switch
    {
        "application/javascript" or "text/javascript" or "application/x-javascript" or "application/ecmascript" or "text/ecmascript" =>
            rules.Any(r => r.Data is { Behind: [not '#', ..] }) ? Reading.Script : Reading.AsItIs,
        _ when IsJson(type) => rules.Any(r => r.Data is { Behind: null }) ? Reading.Json : Reading.AsItIs,
        "text/html" => Reading.Html,
        "application/xhtml+xml" => Reading.Xhtml,
        "application/xml" or "text/xml" or "text/x-opml" => Reading.Xml,
        "text/plain" when path.EndsWith(".txt", StringComparison.OrdinalIgnoreCase) => Reading.Lines,
        _ when Sniffed.Contains(type) => Reading.Html,
        "text/plain" or "application/octet-stream" or "binary/octet-stream" when rules.Any(r => r.Data is { Behind: null }) => Reading.Json,
        _ => type.EndsWith("+xml", StringComparison.Ordinal) ? Reading.Xml : Reading.AsItIs,
    };

    private static readonly Reading[] ByWeight = [Reading.Lines, Reading.Script, Reading.Json, Reading.Xml, Reading.Xhtml, Reading.Html];

    private static bool IsJson(string type) => type is "application/json" or "text/json" or "application/x-json" or "application/x-ndjson"
        or "application/ndjson" or "application/jsonl" or "application/json-seq" || type.EndsWith("+json", StringComparison.Ordinal);

    private static int Rank(Reading reading) => Array.IndexOf(ByWeight, reading);

    /// <summary>The filter for it.</summary>
    public MarkupFilter NewFilter(IMarkupDecider decider, Encoding encoding, Taught taught) => Reading switch
    {
        Reading.Xml => MarkupFilter.OfXml(decider, encoding),
        Reading.Xhtml => MarkupFilter.OfXhtml(decider, encoding, taught),
        Reading.Lines => MarkupFilter.OfLines(decider, encoding),
        _ => MarkupFilter.OfHtml(decider, encoding, taught),
    };
}
