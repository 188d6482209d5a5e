using System.Collections.Frozen;
using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>What the name of an element means to the filter. Looked up once a tag; measured in docs/performance.md.</summary>
internal sealed class Element
{
    private static readonly string[] None = [];
    private static readonly FrozenDictionary<ulong, Element> Known = All().ToFrozenDictionary(e => KeyOf(Encoding.ASCII.GetBytes(e.Name)));

    private Element(string name) => Name = name;

    /// <summary>In lower case, as HTML has it; in XML as written, without its prefix.</summary>
    public string Name { get; }

    /// <summary>Has no end tag (HTML §13.1.2).</summary>
    public bool IsVoid { get; private init; }

    /// <summary>Holds text that is no markup.</summary>
    public bool IsRaw { get; private init; }

    /// <summary>An entry of a list, which goes with a hidden link in it.</summary>
    public bool IsEntry { get; private init; }

    /// <summary>The same in XML.</summary>
    public bool IsXmlEntry { get; private init; }

    /// <summary>A list, which goes when all its entries went.</summary>
    public bool IsList { get; private init; }

    /// <summary>Where the search for a list entry ends: an entry outside of these holds the page, not the link.</summary>
    public bool IsPageBound { get; private init; }

    /// <summary>Its attributes matter even where none of ours stands among them.</summary>
    public bool HasLinks { get; private init; }

    /// <summary>The elements that its start ends (HTML §13.1.2.4).</summary>
    public string[] Ends { get; private init; } = None;

    /// <summary>Where the search for those stops.</summary>
    public string[] Bounds { get; private init; } = None;

    /// <summary>The element of a name as it stands in a tag.</summary>
    public static Element Of(ReadOnlySpan<byte> name, bool xml)
    {
        if (xml)
        {
            // A sitemap may carry a prefix: <s:url>.
            var plain = name[(name.IndexOf((byte)':') + 1)..];
            return plain.Length <= 8 && Known.TryGetValue(KeyOf(plain), out var same) && Ascii.Equals(plain, same.Name) ? same
                : new Element(Encoding.Latin1.GetString(plain));
        }

        return name.Length <= 8 && Known.TryGetValue(KeyOf(name), out var known) ? known
            : Ascii.EqualsIgnoreCase(name, "wary-form") ? WaryForm
            : Ascii.EqualsIgnoreCase(name, "noframes") ? NoFrames
            : new Element(Encoding.Latin1.GetString(name[..Math.Min(name.Length, 64)]).ToLowerInvariant());
    }

    private static readonly Element WaryForm = new("wary-form") { HasLinks = true };
    private static readonly Element NoFrames = new("noframes") { IsRaw = true };

    /// <summary>Up to eight letters in one number, their case folded.</summary>
    private static ulong KeyOf(ReadOnlySpan<byte> name)
    {
        ulong key = 0;
        foreach (var letter in name)
        {
            key = (key << 8) | (letter is >= (byte)'A' and <= (byte)'Z' ? (byte)(letter | 0x20) : letter);
        }

        return key;
    }

    private static IEnumerable<Element> All()
    {
        string[] rows = ["tr"], tables = ["table"], options = ["option"], selects = ["select"], terms = ["dt", "dd"], termLists = ["dl"];
        yield return new("a") { HasLinks = true, Ends = ["a"], Bounds = ["td", "th", "table", "caption"] };
        yield return new("area") { HasLinks = true, IsVoid = true };
        yield return new("link") { HasLinks = true, IsVoid = true };
        yield return new("base") { HasLinks = true, IsVoid = true };
        yield return new("script") { HasLinks = true, IsRaw = true };
        yield return new("li") { IsEntry = true, Ends = ["li"], Bounds = ["ul", "ol", "menu"] };
        yield return new("dt") { IsEntry = true, Ends = terms, Bounds = termLists };
        yield return new("dd") { IsEntry = true, Ends = terms, Bounds = termLists };
        yield return new("tr") { IsEntry = true, Ends = rows, Bounds = tables };
        yield return new("tbody") { Ends = rows, Bounds = tables };
        yield return new("tfoot") { Ends = rows, Bounds = tables };
        yield return new("option") { IsEntry = true, Ends = options, Bounds = selects };
        yield return new("optgroup") { Ends = options, Bounds = selects };
        foreach (var element in Named())
        {
            yield return element;
        }
    }

    private static IEnumerable<Element> Named() =>
    [
        .. Each(["ul", "ol", "menu", "dl", "table", "select"], name => new(name) { IsList = true }),
        .. Each(["br", "col", "embed", "hr", "img", "input", "meta", "param", "source", "track", "wbr"], name => new(name) { IsVoid = true }),
        .. Each(["style", "textarea", "title", "xmp", "iframe", "noembed"], name => new(name) { IsRaw = true }),
        .. Each(["main", "body", "form"], name => new(name) { IsPageBound = true }),
        .. Each(["url", "item", "entry", "sitemap"], name => new(name) { IsXmlEntry = true }),
        .. Each(
        [
            "abbr", "article", "aside", "b", "button", "caption", "code", "details", "div", "em", "figure", "footer", "h1", "h2", "h3", "h4", "h5", "h6",
            "head", "header", "html", "i", "label", "nav", "p", "path", "pre", "section", "small", "span", "strong", "summary", "svg", "td", "template",
            "th", "thead", "time", "video", "audio", "picture", "loc", "guid", "lastmod",
        ],
        name => new(name)),
    ];

    private static IEnumerable<Element> Each(string[] names, Func<string, Element> make) => names.Select(make);
}
