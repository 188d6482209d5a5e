using System.Collections.Frozen;
using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>What an element is to the filter, and to a browser that builds a page of it.</summary>
[Flags]
internal enum Traits
{
    None = 0,
    /// <summary>Ends the search of an end tag for its element (HTML §13.2.4.2, “scope”).</summary>
    Scope = 1 << 0,
    /// <summary>The same for paragraphs (“button scope”).</summary>
    ButtonScope = 1 << 1,
    /// <summary>The same for entries of lists (“list item scope”).</summary>
    ListScope = 1 << 2,
    /// <summary>The same for parts of tables (“table scope”).</summary>
    TableScope = 1 << 3,
    /// <summary>What other end tags do not reach across (HTML §13.2.4.2, “special”).</summary>
    Special = 1 << 4,
    /// <summary>What a new entry does not reach across to end the one before.</summary>
    EntryBarrier = 1 << 5,
    /// <summary>A heading; any end tag of one ends any other.</summary>
    Heading = 1 << 6,
    /// <summary>A cell of a table, or its caption.</summary>
    Cell = 1 << 7,
    /// <summary>An entry of a list, which goes where it stands for something hidden.</summary>
    Entry = 1 << 8,
    /// <summary>A list, which goes when all its entries went.</summary>
    List = 1 << 9,
    /// <summary>Where the search for an entry ends: one outside of these holds the page, not the link.</summary>
    PageBound = 1 << 10,
    /// <summary>Has no end tag (HTML §13.1.2).</summary>
    Void = 1 << 11,
    /// <summary>Holds text that is no markup.</summary>
    Raw = 1 << 12,
    /// <summary>Its start ends a paragraph.</summary>
    EndsParagraph = 1 << 13,
    /// <summary>Formats text: it goes on behind the end of what it stands in (HTML §13.2.4.3).</summary>
    Formatting = 1 << 14,
    /// <summary>Stands in a line of text.</summary>
    Inline = 1 << 15,
    /// <summary>May hold addresses in its attributes.</summary>
    Links = 1 << 16,
    /// <summary>Its start ends foreign content (HTML §13.2.6.5).</summary>
    EndsForeign = 1 << 17,
}

/// <summary>An element by its name. Looked up once a tag; measured in docs/performance.md.</summary>
internal sealed class Element
{
    private const Traits Block = Traits.Special | Traits.EntryBarrier;
    private const Traits Scopes = Traits.Scope | Traits.ButtonScope | Traits.ListScope;
    private static readonly HashSet<string> BreakOut =
    [
        .. "b big blockquote body br center code dd div dl dt em embed h1 h2 h3 h4 h5 h6 head hr i img li listing menu meta nobr ol p pre ruby s small span "
            .Split(' ', StringSplitOptions.RemoveEmptyEntries),
        .. "strong strike sub sup table tt u ul var".Split(' '),
    ];

    private static readonly FrozenDictionary<string, Element> Known =
        All().Select((e, number) => new Element(e.Name, e.Traits, number)).ToFrozenDictionary(e => e.Name, StringComparer.Ordinal);
    private static readonly FrozenDictionary<ulong, Element> Short =
        Known.Values.Where(e => e.Name.Length <= 8).ToFrozenDictionary(e => KeyOf(Encoding.ASCII.GetBytes(e.Name)));

    // On the path of every tag: each short name has one place, and the known element that stood there last is found without a search.
    private const int LatelyBits = 9;
    private static readonly Element?[] Lately = new Element?[1 << LatelyBits];

    public static readonly Element A = Known["a"], P = Known["p"], Li = Known["li"], Dt = Known["dt"], Dd = Known["dd"], Form = Known["form"],
        Template = Known["template"], NoScript = Known["noscript"], Object = Known["object"], Marquee = Known["marquee"], Option = Known["option"],
        Optgroup = Known["optgroup"], Select = Known["select"], Tr = Known["tr"], Table = Known["table"], Caption = Known["caption"], Button = Known["button"],
        Colgroup = Known["colgroup"], Nobr = Known["nobr"], Tbody = Known["tbody"], Thead = Known["thead"], Tfoot = Known["tfoot"],
        Script = Known["script"];

    /// <summary>A term with what is said of it; stands in no page.</summary>
    public static readonly Element Group = new("<group>", Traits.Entry | Traits.Inline);

    private readonly ulong key;

    private Element(string name, Traits traits, int number = -1) => (Name, Traits, Number, key) = (name, traits, number, KeyOf(Encoding.Latin1.GetBytes(name)));

    /// <summary>How many are known.</summary>
    public static int Count => Known.Count;

    /// <summary>Its place among those that are known; -1 for any other.</summary>
    public int Number { get; }

    /// <summary>In lower case.</summary>
    public string Name { get; }

    /// <summary>What it is.</summary>
    public Traits Traits { get; }

    /// <summary>Whether it is any of these.</summary>
    public bool Is(Traits any) => (Traits & any) != 0;

    /// <summary>The element of a name as it stands in a tag.</summary>
    public static Element Of(ReadOnlySpan<byte> name)
    {
        if (name.Length <= 8)
        {
            var key = KeyOf(name);
            ref var lately = ref Lately[(int)((key * 0x9E3779B97F4A7C15) >> (64 - LatelyBits))];
            return lately is { } same && same.key == key ? same
                : Short.TryGetValue(key, out var known) ? lately = known : new Element(Encoding.Latin1.GetString(name).ToLowerInvariant(), Traits.Inline);
        }

        var lower = Encoding.Latin1.GetString(name[..Math.Min(name.Length, 64)]).ToLowerInvariant();
        return Known.TryGetValue(lower, out var longer) ? longer : new Element(lower, Traits.Inline);
    }

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

    private static IEnumerable<Element> All() =>
    [
        .. Each("address div p", Traits.Special | Traits.EndsParagraph),
        .. Each("article aside blockquote center details dialog dir fieldset figcaption figure footer header hgroup nav search section summary",
            Block | Traits.EndsParagraph),
        .. Each("pre listing", Block | Traits.EndsParagraph | Traits.EndsForeign),
        .. Each("main", Block | Traits.EndsParagraph | Traits.PageBound),
        .. Each("form", Block | Traits.EndsParagraph | Traits.PageBound | Traits.Links),
        .. Each("h1 h2 h3 h4 h5 h6", Block | Traits.EndsParagraph | Traits.Heading),
        .. Each("ul ol", Block | Traits.EndsParagraph | Traits.ListScope | Traits.List),
        .. Each("menu dl", Block | Traits.EndsParagraph | Traits.List),
        .. Each("li dd", Traits.Special | Traits.EndsParagraph | Traits.Entry),
        .. Each("dt", Traits.Special | Traits.EndsParagraph),
        .. Each("table", Block | Scopes | Traits.TableScope | Traits.List),
        .. Each("html", Block | Scopes | Traits.TableScope),
        .. Each("template", Block | Scopes | Traits.TableScope),
        .. Each("td th caption", Block | Scopes | Traits.Cell),
        .. Each("tr", Block | Traits.Entry),
        .. Each("tbody thead tfoot colgroup body head frameset noscript", Block),
        .. Each("applet marquee", Block | Scopes),
        .. Each("object", Block | Scopes | Traits.Links | Traits.Inline),
        .. Each("button", Block | Traits.ButtonScope | Traits.Links | Traits.Inline),
        .. Each("select", Block | Traits.List | Traits.Inline),
        .. Each("option", Traits.Entry | Traits.Links),
        .. Each("optgroup", Traits.None),
        .. Each("a", Traits.Formatting | Traits.Inline | Traits.Links),
        .. Each("b big code em font i nobr s small strike strong tt u", Traits.Formatting | Traits.Inline),
        .. Each("area base link meta img embed input source track frame", Traits.Void | Traits.Inline | Traits.Links),
        .. Each("br wbr param col basefont bgsound keygen", Traits.Void | Traits.Inline),
        .. Each("hr", Traits.Void | Traits.EndsParagraph),
        .. Each("script iframe", Traits.Raw | Traits.Inline | Traits.Links),
        .. Each("style textarea title noembed", Traits.Raw | Traits.Inline),
        .. Each("noframes", Traits.Raw),
        .. Each("xmp plaintext", Traits.Raw | Traits.EndsParagraph),
        .. Each("video audio", Traits.Inline | Traits.Links),
        .. Each("use image feimage", Traits.Inline | Traits.Links),
        .. Each("svg math abbr bdi bdo cite data del dfn ins kbd label mark picture q ruby rb rp rt rtc samp span sub sup time var path g text tspan",
            Traits.Inline),
        .. Each("wary-form", Traits.Links | Traits.Inline),
    ];

    private static IEnumerable<Element> Each(string names, Traits traits) =>
        names.Split(' ').Select(name => new Element(name, BreakOut.Contains(name) ? traits | Traits.EndsForeign : traits));
}
