using System.Text;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;

namespace WarySentinel.Core.Tests.Markup;

/// <summary>
/// What is left of a page for whoever may not see some addresses: the rules of docs/explanation/filter.md read a second time, on the tree that a real parser
/// makes, without regard to speed.
/// </summary>
internal sealed class PlainReading
{
    private const int MostWords = 80;
    private static readonly HashSet<string> Blocks =
    [
        .. "address article aside blockquote center details dialog dir div dl dt dd fieldset figcaption figure footer form h1 h2 h3 h4 h5 h6 header hgroup hr"
            .Split(' '),
        .. "li main menu nav ol p pre section summary table caption tbody thead tfoot tr td th colgroup ul html head body option optgroup noscript".Split(' '),
        .. "search template applet marquee listing xmp plaintext frameset noframes".Split(' '),
    ];

    private static readonly HashSet<string> Silent = ["script", "style", "textarea", "title", "iframe", "noembed", "noframes", "xmp"];
    private static readonly HashSet<string> Lists = ["ul", "ol", "menu", "dl", "table", "select"];
    private static readonly HashSet<string> Bounds = ["main", "body", "form"];
    private readonly Func<string, bool> isHidden;
    private readonly Dictionary<INode, Entry> entries = [];
    private readonly Dictionary<INode, INode> groups = [];
    private readonly HashSet<INode> gone = [];
    private readonly List<Line> lines = [];
    private Line line = new();

    private PlainReading(Func<string, bool> isHidden) => this.isHidden = isHidden;

    private sealed class Entry
    {
        public bool HasHidden;
        public bool HasOpen;
        public bool HasProse;
        public int Words;
        public int Kept;
        public int Gone;
    }

    private sealed class Line
    {
        public List<(INode? Link, INode At, string Text)> Parts = [];
        public int Words;
        public int Before = -1;
        public INode? Entry;
    }

    /// <summary>The links to what is open, and the words, that are left.</summary>
    public static (IReadOnlyList<string> Links, IReadOnlyList<string> Words) Of(string page, Func<string, bool> isHidden)
    {
        var body = new HtmlParser().ParseDocument(page).DocumentElement;
        var reading = new PlainReading(isHidden);
        reading.Group(body);
        reading.Read(body);
        reading.EndLine(body);
        reading.Judge(body);
        var links = body.QuerySelectorAll("a[href], area[href]").Where(a => !isHidden(a.GetAttribute("href")!) && IsPage(a.GetAttribute("href")!))
            .Where(a => !reading.IsGone(a)).Select(a => a.GetAttribute("href")!).ToList();
        return (links, reading.Left());
    }

    /// <summary>A term, and what is said of it, up to the next term.</summary>
    private void Group(IElement root)
    {
        foreach (var parent in root.QuerySelectorAll("dt, dd").Select(e => e.ParentElement!).Distinct())
        {
            (INode? group, var hasSaid) = (null, false);
            foreach (var child in parent.Children.Where(c => c.LocalName is "dt" or "dd"))
            {
                if (group is null || (child.LocalName == "dt" && hasSaid))
                {
                    (group, hasSaid) = (child, false);
                    entries[Key(child)] = new Entry();
                }

                groups[child] = group;
                hasSaid |= child.LocalName == "dd";
            }
        }
    }

    /// <summary>A group goes by its first element; where that is an entry itself, by a comment that stands for the group.</summary>
    private readonly Dictionary<INode, INode> keys = [];

    private INode Key(INode first) => keys.TryGetValue(first, out var key) ? key : keys[first] = first.Owner!.CreateComment("group");

    /// <summary>Whether a link leads to a page, rather than to a place on its own, a script, or an address to write to.</summary>
    public static bool IsPage(string href)
    {
        var text = href.Trim();
        var colon = text.IndexOf(':', StringComparison.Ordinal);
        var hasScheme = colon > 0 && char.IsAsciiLetter(text[0]) && text[..colon].All(c => char.IsAsciiLetterOrDigit(c) || "+.-".Contains(c));
        return text.Length > 0 && text[0] != '#' && (!hasScheme || text.StartsWith("http", StringComparison.OrdinalIgnoreCase));
    }

    private static bool IsEntry(INode node) => node is IElement { LocalName: "li" or "tr" or "option" or "dd" };

    /// <summary>The entries around a node, the innermost first.</summary>
    private IEnumerable<INode> Around(INode node, bool withBounds)
    {
        for (var at = node; at is not null; at = at.Parent)
        {
            if (withBounds && at is IElement { LocalName: var name } && Bounds.Contains(name) && at != node)
            {
                yield break;
            }

            if (IsEntry(at) && at != node)
            {
                yield return at;
            }

            if (groups.TryGetValue(at, out var group) && (at != node || IsEntry(at)))
            {
                yield return Key(group);
            }
        }
    }

    private Entry Of(INode entry) => entries.TryGetValue(entry, out var known) ? known : entries[entry] = new Entry();

    private void Read(INode node)
    {
        if (node is IText { ParentElement: { } parent } text)
        {
            if (!Silent.Contains(parent.LocalName))
            {
                ReadText(text);
            }

            return;
        }

        var element = node as IElement;
        var isBlock = element is not null && Blocks.Contains(element.LocalName);
        if (isBlock)
        {
            EndLine(node);
        }

        if (element is not null && IsMadeOfHidden(element))
        {
            gone.Add(element);
            if (Around(node, true).FirstOrDefault() is { } entry)
            {
                Of(entry).HasHidden = true;
            }

            return;
        }

        if (element is { LocalName: "a" or "area" } && element.GetAttribute("href") is { } href && IsPage(href))
        {
            if (isHidden(href))
            {
                line.Before = Math.Max(line.Before, line.Words);
                if (Around(node, true).FirstOrDefault() is { } entry)
                {
                    Of(entry).HasHidden = true;
                }
            }
            else
            {
                Around(node, false).ToList().ForEach(e => Of(e).HasOpen = true);
            }
        }

        foreach (var child in node.ChildNodes)
        {
            Read(child);
        }

        if (isBlock)
        {
            EndLine(node);
        }
    }

    /// <summary>Whether an element shows, sends to, or is something hidden.</summary>
    private bool IsMadeOfHidden(IElement element)
    {
        string[] names = element.LocalName switch
        {
            "form" => ["action"],
            "button" or "input" => ["formaction", "src"],
            "object" => ["data"],
            "link" => ["href"],
            "img" or "script" or "iframe" or "embed" or "source" or "video" or "audio" or "track" => ["src"],
            _ => [],
        };
        return names.Select(element.GetAttribute).OfType<string>().Any(address => IsPage(address) && isHidden(address));
    }

    private void ReadText(IText text)
    {
        var link = text.ParentElement!.Closest("a");
        var isInHidden = link?.GetAttribute("href") is { } href && IsPage(href) && isHidden(href);
        line.Parts.Add((isInHidden ? link : null, text, text.Data));
        line.Entry ??= Around(text, true).FirstOrDefault();
        if (isInHidden)
        {
            return;
        }

        var words = WordsOf(text.Data).Count;
        line.Words += link is null ? words : 0;
        if (Around(text, true).FirstOrDefault() is { } entry)
        {
            Of(entry).Words += words;
        }
    }

    private void EndLine(INode _)
    {
        if (line.Before > 0 && line.Words >= 8 && line.Entry is not null)
        {
            Of(line.Entry).HasProse = true;
        }

        lines.Add(line);
        line = new Line();
    }

    /// <summary>Entries from the innermost outwards: each goes or stays, and tells the one around.</summary>
    private void Judge(INode node)
    {
        foreach (var child in node.ChildNodes.ToList())
        {
            Judge(child);
            // A group ends before the next begins.
            if (groups.TryGetValue(child, out var group) && IsLastOf(child, group))
            {
                End(Key(group), child.ParentElement!, null);
            }
        }

        if (IsEntry(node))
        {
            End(node, (IElement)node, groups.TryGetValue(node, out var own) ? Key(own) : null);
        }
        else if (node is IElement { LocalName: var name } && Lists.Contains(name) && entries.GetValueOrDefault(node) is { Gone: > 0, Kept: 0 })
        {
            gone.Add(node);
            if (Around(node, true).FirstOrDefault() is { } around && Of(around) is { Words: 0, HasOpen: false } bare)
            {
                bare.HasHidden = true;
            }
        }
    }

    private bool IsLastOf(INode child, INode group)
    {
        for (var next = child.NextSibling; next is not null; next = next.NextSibling)
        {
            if (groups.TryGetValue(next, out var other))
            {
                return other != group;
            }
        }

        return true;
    }

    private void End(INode entry, IElement at, INode? list)
    {
        var said = Of(entry);
        var isGroup = entry is IComment;
        list ??= at is { LocalName: var name } && isGroup && Lists.Contains(name) ? at : at.ParentElement?.Closest(string.Join(',', Lists));
        var goes = !said.HasOpen && !said.HasProse && said.Words <= MostWords
            && (said.HasHidden || (isGroup && said is { Gone: > 0, Kept: 0 }));
        if (goes)
        {
            gone.Add(entry);
            if (list is not null)
            {
                Of(list).Gone++;
            }

            return;
        }

        if (list is not null)
        {
            Of(list).Kept++;
        }

        var outer = isGroup ? Around(at.FirstChild ?? at, true).FirstOrDefault(e => e != entry) : Around(at, true).FirstOrDefault();
        if (outer is not null)
        {
            Of(outer).Words += said.Words;
            Of(outer).HasProse |= said.HasProse;
        }
    }

    private bool IsGone(INode node)
    {
        for (var at = node; at is not null; at = at.Parent)
        {
            if (gone.Contains(at) || (groups.TryGetValue(at, out var group) && gone.Contains(Key(group))))
            {
                return true;
            }
        }

        return false;
    }

    private List<string> Left()
    {
        var left = new StringBuilder();
        foreach (var one in lines)
        {
            foreach (var (link, at, text) in one.Parts)
            {
                var isCard = link is IElement { } around && around.QuerySelectorAll("*").Any(e => Blocks.Contains(e.LocalName));
                var isLeft = !IsGone(at) && (link is null || (one.Words >= 3 && !isCard));
                left.Append(isLeft ? text : "");
            }

            left.Append('\n');
        }

        return WordsOf(left.ToString());
    }

    /// <summary>Letters and digits in a row, an apostrophe between them; each character of a script that parts no words.</summary>
    public static List<string> WordsOf(string text)
    {
        var (words, word, inside) = (new List<string>(), new StringBuilder(), false);
        foreach (var rune in text.EnumerateRunes())
        {
            if (!Rune.IsLetterOrDigit(rune))
            {
                inside &= rune.Value is '\'' or 0x2019;
                continue;
            }

            if ((!inside || rune.Value >= 0x2E80) && word.Length > 0)
            {
                words.Add(word.ToString());
                word.Clear();
            }

            word.Append(rune);
            inside = true;
        }

        return word.Length > 0 ? [.. words, word.ToString()] : words;
    }
}
