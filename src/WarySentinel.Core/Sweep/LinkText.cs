using System.Buffers;
using System.Text.RegularExpressions;

namespace WarySentinel.Core.Sweep;

/// <summary>
/// What could be a link in a text of any sort: what an attribute leads to, what stands in quotes or brackets and looks like an address. On the way of every
/// answer of a sweep: it stops only where one could begin (about 15 µs for a page of 2 KB).
/// </summary>
internal static partial class LinkText
{
    private const int LongestName = 40;
    private static readonly SearchValues<char> Begins = SearchValues.Create("\"'`(=>");
    private static readonly SearchValues<char> Unlikely = SearchValues.Create("{}<>$ \t\r\n\f");

    /// <summary>Attributes that hold nothing but an address.</summary>
    private static readonly HashSet<string> Links = new(StringComparer.OrdinalIgnoreCase) { "href", "src", "action", "formaction", "data", "cite", "longdesc" };

    /// <summary>Names before a sign of equality behind which an address may stand without quotes.</summary>
    private static readonly HashSet<string> Named = new(StringComparer.OrdinalIgnoreCase)
    {
        "href", "src", "action", "poster", "content", "url", "cite", "longdesc", "background", "sourceMappingURL",
    };

    /// <summary>All that could be one, as it stands there.</summary>
    public static IEnumerable<string> In(string text)
    {
        for (var at = 0; at < text.Length; at++)
        {
            var next = text.AsSpan(at).IndexOfAny(Begins);
            if (next < 0)
            {
                yield break;
            }

            at += next;
            var to = text[at] switch
            {
                '=' => Attribute(text, at),
                '>' => IsInElement(text, at) ? Target(text, Over(text, at + 1, true)) : null,
                _ => Target(text, at + 1),
            };
            if (to is not null)
            {
                yield return to;
            }
        }
    }

    /// <summary>What a text element of a feed or a sitemap holds.</summary>
    private static bool IsInElement(string text, int end) =>
        text.AsSpan(0, end).EndsWith("<loc", StringComparison.OrdinalIgnoreCase) || text.AsSpan(0, end).EndsWith("<link", StringComparison.OrdinalIgnoreCase);

    private static string? Target(string text, int at) => at < text.Length && Address().FirstFrom(text, at) is { Success: true } match ? match.Value : null;

    private static int Over(string text, int at, bool blanks)
    {
        while (blanks && at < text.Length && char.IsWhiteSpace(text[at]))
        {
            at++;
        }

        return at;
    }

    /// <summary>What an attribute leads to: in quotes, whatever an address may be; without them, what looks like one, or what a link in a page says.</summary>
    private static string? Attribute(string text, int sign)
    {
        var (nameEnd, at) = (sign, Over(text, sign + 1, true));
        while (nameEnd > 0 && char.IsWhiteSpace(text[nameEnd - 1]))
        {
            nameEnd--;
        }

        var nameStart = nameEnd;
        while (nameStart > 0 && nameEnd - nameStart < LongestName && (char.IsAsciiLetterOrDigit(text[nameStart - 1]) || text[nameStart - 1] is '-' or '_'))
        {
            nameStart--;
        }

        var name = text[nameStart..nameEnd];
        if (at >= text.Length || (!Links.Contains(name) && !Named.Contains(name) && !name.StartsWith("data-", StringComparison.OrdinalIgnoreCase)))
        {
            return null;
        }

        var isTag = Links.Contains(name) && nameStart > 0 && (char.IsWhiteSpace(text[nameStart - 1]) || text[nameStart - 1] is '"' or '\'');
        if (text[at] is not ('"' or '\''))
        {
            return Target(text, at) ?? (isTag && name.Equals("href", StringComparison.OrdinalIgnoreCase) && IsOfLink(text, nameStart) ? Bare(text, at) : null);
        }

        var close = isTag ? text.IndexOf(text[at], at + 1) : -1;
        var said = close > at + 1 ? text.AsSpan(at + 1, close - at - 1).Trim() : default;
        return said.Length is > 0 and < 500 && said[0] != '#' && said.IndexOfAny(Unlikely) < 0 ? said.ToString() : null;
    }

    /// <summary>Whether an attribute is one of an <c>a</c> in a page, not a name in a script.</summary>
    private static bool IsOfLink(string text, int nameStart)
    {
        var tag = text.LastIndexOf('<', nameStart - 1, Math.Min(nameStart, 400));
        return tag >= 0 && tag + 2 < nameStart && text[tag + 1] is 'a' or 'A' && char.IsWhiteSpace(text[tag + 2]);
    }

    private static string? Bare(string text, int at)
    {
        var end = at;
        while (end < text.Length && !char.IsWhiteSpace(text[end]) && text[end] is not ('>' or '<' or '"' or '\''))
        {
            end++;
        }

        return end > at && (char.IsAsciiLetterOrDigit(text[at]) || text[at] is '.' or '%' or '~' or '_') ? text[at..end] : null;
    }

    [GeneratedRegex("""
        \G (?: (?:https?:)?//[^"'`<>\s)\\]+
            | \.{0,2}/[^"'`<>\s)\\]*
            | (?:[\w.%~-]+/)*[\w.%~-]+\.(?:m?js|json[lc]?|ndjson|geojson|webmanifest|x?html?|txt|xml|map|csv|tsv|md|rst|php\d?|aspx?|jsp|cgi|pdf|docx?|xlsx?|odt
                |epub|ics|vtt|srt|opml|inv|rss|atom|ya?ml|log|bak|old|orig|sql|sqlite3?|db|zip|tar|t?gz|br|wasm)\b[^"'`<>\s)\\]*
            | \?[A-Za-z][\w%.-]*=[\w%.=&-]* )
        """, RegexOptions.IgnoreCase | RegexOptions.CultureInvariant | RegexOptions.IgnorePatternWhitespace, PatientMatches.Longest)]
    private static partial Regex Address();
}
