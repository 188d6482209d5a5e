using System.Globalization;

namespace WarySentinel.Core.Catalogue;

/// <summary>
/// One request as web servers write it down: in the Common Log Format, or the combined one with referrer and agent behind it, with whatever stands before
/// (the Apache HTTP Server's <c>vhost_combined</c> as well).
/// </summary>
/// <param name="Method">The method.</param>
/// <param name="Target">What was asked for, as it was sent; bytes that the server wrote as <c>\xHH</c> are percent-encoded.</param>
/// <param name="Status">The status of the answer.</param>
/// <param name="Agent">What the program called itself; null where the format leaves it out.</param>
public sealed record LoggedRequest(string Method, string Target, int Status, string? Agent)
{
    private const int LongestLine = 16_384;

    /// <summary>Reads a line; null where it is none of a web server.</summary>
    public static LoggedRequest? Read(string line)
    {
        var at = line.Length > LongestLine ? -1 : line.IndexOf("] \"", StringComparison.Ordinal);
        if (at < 0 || Quoted(line, at + 2) is not { } request || request.Text.Split(' ') is not [{ Length: > 0 } method, { Length: > 0 } target, ..])
        {
            return null;
        }

        var rest = line[request.End..].Split(' ', 3, StringSplitOptions.RemoveEmptyEntries);
        if (rest.Length < 2 || !int.TryParse(rest[0], NumberStyles.None, CultureInfo.InvariantCulture, out var status) || status is < 100 or > 599)
        {
            return null;
        }

        var referrer = rest.Length == 3 ? Quoted(rest[2], 0) : null;
        var agent = referrer is { } before ? Quoted(rest[2], rest[2].IndexOf('"', before.End)) : null;
        return new LoggedRequest(method, target, status, agent?.Text);
    }

    /// <summary>What stands in quotation marks, and where it ends.</summary>
    private static (string Text, int End)? Quoted(string line, int start)
    {
        if (start < 0 || start >= line.Length || line[start] != '"')
        {
            return null;
        }

        var text = new System.Text.StringBuilder();
        for (var n = start + 1; n < line.Length; n++)
        {
            if (line[n] == '"')
            {
                return (text.ToString(), n + 1);
            }

            if (line[n] != '\\' || n + 1 >= line.Length)
            {
                text.Append(line[n]);
            }
            else if (line[n + 1] == 'x' && n + 3 < line.Length && char.IsAsciiHexDigit(line[n + 2]) && char.IsAsciiHexDigit(line[n + 3]))
            {
                text.Append('%').Append(line, n + 2, 2);
                n += 3;
            }
            else
            {
                text.Append('%').Append(((int)line[++n] & 0xFF).ToString("X2", CultureInfo.InvariantCulture));
            }
        }

        return null;
    }
}

/// <summary>An address that people ask for.</summary>
/// <param name="Address">The path on the site, with the pair of its query that names what is shown, where it has one.</param>
/// <param name="Times">How often.</param>
public sealed record AskedAddress(string Address, int Times);

/// <summary>
/// Counts what people ask for by the log of a web server, and says what of it the catalogue lacks. Answers that were none, what pages are made of (styles,
/// scripts, pictures, fonts), and programs that call themselves crawlers are left out. What it keeps is bounded, however long the log.
/// </summary>
/// <param name="graph">The catalogue.</param>
/// <param name="reserved">Prefixes that are our own.</param>
public sealed class AskedAddresses(CatalogueGraph graph, IReadOnlyList<string> reserved)
{
    private const int MostKept = 200_000;

    private static readonly HashSet<string> Parts = new(StringComparer.OrdinalIgnoreCase)
    {
        ".css", ".js", ".mjs", ".map", ".ico", ".png", ".jpg", ".jpeg", ".gif", ".webp", ".avif", ".svg", ".woff", ".woff2", ".ttf", ".otf", ".eot",
        ".wasm", ".webmanifest",
    };

    private static readonly string[] Crawlers = ["bot", "crawl", "spider", "slurp", "monitor", "curl/", "wget", "python", "go-http", "libwww", "httpclient"];

    /// <summary>The one pair of a query that names what is shown, on sites that tell pages apart by it.</summary>
    private static readonly HashSet<string> Naming = new(StringComparer.OrdinalIgnoreCase)
    { "id", "p", "page_id", "product", "product_id", "item", "item_id", "sku", "article", "post" };

    private readonly Dictionary<string, AskedAddress> asked = new(StringComparer.Ordinal);

    /// <summary>How many lines were read.</summary>
    public int Lines { get; private set; }

    /// <summary>How many of them are none of a web server.</summary>
    public int Unreadable { get; private set; }

    /// <summary>How many requests were counted.</summary>
    public int Counted { get; private set; }

    /// <summary>Takes a line.</summary>
    public void Add(string line)
    {
        Lines++;
        if (LoggedRequest.Read(line) is not { } request)
        {
            Unreadable += string.IsNullOrWhiteSpace(line) ? 0 : 1;
            return;
        }

        if (request.Method is not ("GET" or "HEAD") || request.Status is not ((>= 200 and < 300) or 304)
            || (request.Agent is { } agent && Crawlers.Any(c => agent.Contains(c, StringComparison.OrdinalIgnoreCase))))
        {
            return;
        }

        if (AddressOf(request.Target) is not { } address)
        {
            return;
        }

        Counted++;
        if (asked.TryGetValue(address.Key, out var there))
        {
            asked[address.Key] = there with { Times = there.Times + 1 };
        }
        else if (asked.Count < MostKept)
        {
            asked[address.Key] = new AskedAddress(address.Shown, 1);
        }
    }

    /// <summary>What was asked for so often at least and the catalogue has no item for, the most asked for first.</summary>
    /// <param name="least">How often at least.</param>
    public IReadOnlyList<AskedAddress> Lacking(int least) =>
        [.. asked.Values.Where(a => a.Times >= least && IsUnknown(a.Address)).OrderByDescending(a => a.Times).ThenBy(a => a.Address, StringComparer.Ordinal)];

    private bool IsUnknown(string address) => RequestPath.TryNormalise(address, graph.Rules, out var path, out _) && graph.Addresses.Find(path).Count == 0;

    private (string Key, string Shown)? AddressOf(string target)
    {
        // A proxy may be asked for the whole address.
        var sent = target.StartsWith('/') ? target
            : Uri.TryCreate(target, UriKind.Absolute, out var url) && url.Scheme is "http" or "https" ? url.PathAndQuery : "";
        var (path, query) = sent.Split('?', 2) is [var p, var q] ? (p, q) : (sent, "");
        var last = path[(path.LastIndexOf('/') + 1)..];
        if (path.Length is 0 or > 500 || path == "/" || Parts.Contains(Path.GetExtension(last)) || last is "robots.txt" or "sitemap.xml"
            || reserved.Any(r => RequestPath.IsUnder(path, r)))
        {
            return null;
        }

        var naming = query.Split('&').Where(pair => pair.Split('=') is [var name, { Length: > 0 and < 100 }] && Naming.Contains(name)).ToList();
        var whole = naming.Count == 1 ? $"{path}?{naming[0]}" : path;
        if (!RequestPath.TryNormalise(whole, graph.Rules, out var normal, out _))
        {
            return null;
        }

        var plain = Uri.UnescapeDataString(path);
        return plain.Contains('%', StringComparison.Ordinal) || !PlainText.IsClean(plain) ? null
            : (normal.Query.Length == 0 ? normal.Key : normal.Key + "?" + normal.Query, naming.Count == 1 ? $"{plain}?{naming[0]}" : plain);
    }
}
