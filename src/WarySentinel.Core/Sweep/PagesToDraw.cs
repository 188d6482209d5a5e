using System.Text.RegularExpressions;

namespace WarySentinel.Core.Sweep;

/// <summary>
/// Which pages are worth drawing in a browser: those whose scripts may add to them, of every set of scripts the first before the second of any. Not for use by
/// several threads.
/// </summary>
public sealed partial class PagesToDraw
{
    private readonly Dictionary<ulong, List<string>> pagesOf = [];
    private readonly HashSet<string> known = new(StringComparer.Ordinal);

    /// <summary>How many pages have scripts.</summary>
    public int Count => known.Count;

    /// <summary>What the scripts of a page are, whatever data they are given; null where it has none.</summary>
    public static ulong? ScriptsOf(string html)
    {
        if (!html.Contains("<script", StringComparison.OrdinalIgnoreCase))
        {
            return null;
        }

        ulong? all = null;
        foreach (var script in Script().In(html))
        {
            var (tag, body) = (script.Groups["tag"].Value, script.Groups["body"].Value);
            if (Data().IsMatch(tag))
            {
                continue;
            }

            // Two pages that differ in a number or a string are drawn by the same program.
            var program = Source().Match(tag) is { Success: true } source ? source.Groups["to"].Value.Split('?')[0] : Literal().TakeOut(body);
            using var words = WordRun.Of(program);
            all = unchecked((all ?? 17) * 31 + words.Join(0, words.Count));
        }

        return all;
    }

    /// <summary>Notes a page with its scripts.</summary>
    public void Add(string address, ulong scripts)
    {
        if (known.Add(address))
        {
            (pagesOf.TryGetValue(scripts, out var pages) ? pages : pagesOf[scripts] = []).Add(address);
        }
    }

    /// <summary>The pages to draw, at most so many.</summary>
    public IReadOnlyList<string> Take(int most)
    {
        var kinds = pagesOf.Values.Select(pages => pages.Order(StringComparer.Ordinal).ToList()).OrderBy(pages => pages[0], StringComparer.Ordinal).ToList();
        var taken = new List<string>();
        for (var turn = 0; taken.Count < most && kinds.Exists(k => k.Count > turn); turn++)
        {
            taken.AddRange(kinds.Where(k => k.Count > turn).Select(k => k[turn]).Take(most - taken.Count));
        }

        return taken;
    }

    [GeneratedRegex("""<script(?<tag>[^>]*)>(?<body>.*?)</script""",
        RegexOptions.IgnoreCase | RegexOptions.Singleline | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Script();

    [GeneratedRegex("""\btype\s*=\s*["']?(?:application/(?:ld\+)?json|text/(?!javascript)|importmap|speculationrules)""",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Data();

    [GeneratedRegex("""\bsrc\s*=\s*["']?(?<to>[^"'\s>]+)""", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Source();

    [GeneratedRegex("\"[^\"\n]*\"|'[^'\n]*'|`[^`]*`|[0-9]+", RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Literal();
}
