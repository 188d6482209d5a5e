using System.Collections.Frozen;
using System.Text;

namespace WarySentinel.Core.Access;

/// <summary>Reads the attributes of one whole tag (HTML §13.2.5.32 to §13.2.5.40).</summary>
internal ref struct TagReader(ReadOnlySpan<byte> tag, int at)
{
    private readonly ReadOnlySpan<byte> tag = tag;
    private int at = at;

    /// <summary>Whether the tag ends in a slash.</summary>
    public readonly bool SelfClosing => tag.Length > 2 && tag[^2] == '/';

    public bool Next(out ReadOnlySpan<byte> name, out ReadOnlySpan<byte> value)
    {
        name = default;
        value = default;
        var end = tag.Length - 1;
        while (at < end && (IsBlank(tag[at]) || tag[at] == '/'))
        {
            at++;
        }

        if (at >= end)
        {
            return false;
        }

        var start = at++;
        while (at < end && !IsBlank(tag[at]) && tag[at] is not ((byte)'=' or (byte)'/'))
        {
            at++;
        }

        name = tag[start..at];
        while (at < end && IsBlank(tag[at]))
        {
            at++;
        }

        if (at >= end || tag[at] != '=')
        {
            return true;
        }

        at++;
        while (at < end && IsBlank(tag[at]))
        {
            at++;
        }

        if (at < end && tag[at] is (byte)'"' or (byte)'\'')
        {
            var close = tag[(at + 1)..end].IndexOf(tag[at]);
            close = close < 0 ? end - at - 1 : close;
            value = tag.Slice(at + 1, close);
            at += close + 2;
            return true;
        }

        start = at;
        while (at < end && !IsBlank(tag[at]))
        {
            at++;
        }

        value = tag[start..at];
        return true;
    }

    /// <summary>One past the end of the tag that begins the span, or -1 when it is not whole.</summary>
    public static int EndOf(ReadOnlySpan<byte> data, int from)
    {
        var afterEquals = false;
        for (var i = from; i < data.Length; i++)
        {
            var b = data[i];
            if (b == '>')
            {
                return i + 1;
            }

            if (afterEquals && b is (byte)'"' or (byte)'\'')
            {
                var close = data[(i + 1)..].IndexOf(b);
                if (close < 0)
                {
                    return -1;
                }

                i += close + 1;
                afterEquals = false;
            }
            else if (!IsBlank(b))
            {
                afterEquals = b == '=';
            }
        }

        return -1;
    }

    public static bool IsBlank(byte b) => b is (byte)' ' or (byte)'\t' or (byte)'\n' or (byte)'\r' or (byte)'\f';
}

/// <summary>What the names of elements mean to the filter.</summary>
internal static class Names
{
    private static readonly FrozenDictionary<string, string>.AlternateLookup<ReadOnlySpan<char>> Known = new[]
    {
        "a", "abbr", "area", "article", "aside", "b", "base", "body", "br", "button", "caption", "col", "dd", "details", "div", "dl", "dt", "em", "embed",
        "figure", "footer", "form", "h1", "h2", "h3", "h4", "head", "header", "hr", "html", "i", "iframe", "img", "input", "label", "li", "link", "main", "menu",
        "meta", "nav", "noembed", "noframes", "ol", "optgroup", "option", "p", "param", "picture", "plaintext", "script", "section", "select", "small", "source", "span",
        "strong", "style", "summary", "svg", "table", "tbody", "td", "template", "textarea", "tfoot", "th", "thead", "time", "title", "tr", "track", "ul", "wbr", "xmp",
        "wary-form", "url", "loc", "item", "entry", "guid", "sitemap", "lastmod",
    }.ToFrozenDictionary(n => n, n => n, StringComparer.Ordinal).GetAlternateLookup<ReadOnlySpan<char>>();

    private static readonly FrozenSet<string> Void =
        FrozenSet.ToFrozenSet(["area", "base", "br", "col", "embed", "hr", "img", "input", "link", "meta", "param", "source", "track", "wbr"]);

    private static readonly FrozenSet<string> Raw =
        FrozenSet.ToFrozenSet(["script", "style", "textarea", "title", "xmp", "iframe", "noembed", "noframes"]);

    private static readonly string[] None = [];
    private static readonly string[] Li = ["li"];
    private static readonly string[] Lists = ["ul", "ol", "menu"];
    private static readonly string[] Terms = ["dt", "dd"];
    private static readonly string[] TermLists = ["dl"];
    private static readonly string[] Rows = ["tr"];
    private static readonly string[] Tables = ["table"];
    private static readonly string[] Options = ["option"];
    private static readonly string[] Selects = ["select"];
    private static readonly string[] Links = ["a"];
    private static readonly string[] LinkBounds = ["td", "th", "table", "caption"];

    public static string Of(ReadOnlySpan<byte> name, bool xml)
    {
        Span<char> lower = stackalloc char[Math.Min(name.Length, 64)];
        for (var i = 0; i < lower.Length; i++)
        {
            lower[i] = xml ? (char)name[i] : char.ToLowerInvariant((char)name[i]);
        }

        // A sitemap may carry a prefix: <s:url>.
        var colon = xml ? lower.IndexOf(':') : -1;
        var plain = colon < 0 ? lower : lower[(colon + 1)..];
        return Known.TryGetValue(plain, out var known) ? known : new string(lower);
    }

    public static bool Is(ReadOnlySpan<byte> name, ReadOnlySpan<byte> lower) => Ascii.EqualsIgnoreCase(name, lower);

    public static bool IsVoid(string name) => Void.Contains(name);

    public static bool IsRaw(string name) => Raw.Contains(name);

    public static bool IsEntry(string name) => name is "li" or "tr" or "dt" or "dd" or "option";

    public static bool IsXmlEntry(string name) => name is "url" or "item" or "entry" or "sitemap";

    public static bool IsList(string name) => name is "ul" or "ol" or "menu" or "dl" or "table" or "select";

    /// <summary>Where the search for a list entry ends: an entry outside of these holds the page, not the link.</summary>
    public static bool IsPageBound(string name) => name is "main" or "body" or "form";

    public static (string[] Ends, string[] Bounds) Implied(string name) => name switch
    {
        "li" => (Li, Lists),
        "dt" or "dd" => (Terms, TermLists),
        "tr" or "tbody" or "tfoot" => (Rows, Tables),
        "option" or "optgroup" => (Options, Selects),
        "a" => (Links, LinkBounds),
        _ => (None, None),
    };
}
