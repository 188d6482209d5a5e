using System.Buffers;
using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>
/// Filters HTML, or XML such as a sitemap, as it streams by: links to what the visitor may not list go, with the list entry
/// that holds them and the list that is emptied by it. Works on bytes of any encoding that keeps ASCII in place.
/// On the path of every filtered page; measured in docs/performance.md.
/// </summary>
public sealed partial class MarkupFilter(IMarkupDecider decider, bool xml, Encoding? encoding = null)
{
    /// <summary>An element that is held back until its end grows at most so large; then it is let go.</summary>
    private const int MostHeld = 1 << 20;

    /// <summary>A tag longer than this is taken for text.</summary>
    private const int LongestTag = 1 << 17;

    private readonly Encoding encoding = encoding ?? Encoding.UTF8;
    private readonly ArrayBufferWriter<byte> carry = new(4096);
    private readonly List<Open> stack = [];
    private readonly OpenPlaces places = new();
    private readonly List<int> heldAt = [];
    private int heldFrom;
    private readonly Stack<Open> spare = [];
    private byte[] pending = new byte[16 * 1024];
    private int length;
    private int held;
    private int mutedAt = -1;
    private string? rawEnd;

    private sealed class Open
    {
        public Element Element = null!;
        public int Start = -1;
        public bool IsEntry;
        public bool IsList;
        public bool Marked;
        public int Kept;
        public int Dropped;
        public int TextStart = -1;
        public bool IsData;
    }

    /// <summary>Takes a piece of the page and writes what can be let go of.</summary>
    /// <param name="piece">The next bytes.</param>
    /// <param name="last">Whether nothing follows.</param>
    /// <param name="output">Where the filtered bytes go.</param>
    public void Write(ReadOnlySpan<byte> piece, bool last, IBufferWriter<byte> output)
    {
        if (carry.WrittenCount > 0)
        {
            carry.Write(piece);
            var joined = carry.WrittenSpan.ToArray();
            carry.ResetWrittenCount();
            Run(joined, last);
        }
        else
        {
            Run(piece, last);
        }

        if (last)
        {
            while (stack.Count > 0)
            {
                Pop(stack.Count - 1);
            }
        }

        if (held == 0 && length > 0)
        {
            output.Write(pending.AsSpan(0, length));
            length = 0;
        }
    }

    private void Run(ReadOnlySpan<byte> data, bool last)
    {
        var at = 0;
        while (at < data.Length)
        {
            var rest = data[at..];
            if (rawEnd is not null)
            {
                var end = MarkupScan.EndOfRaw(rest, rawEnd);
                if (end < 0)
                {
                    // The end tag may be split: keep back what could be its beginning.
                    var back = last ? 0 : Math.Min(rest.Length, rawEnd.Length + 2);
                    Put(rest[..^back]);
                    carry.Write(rest[^back..]);
                    return;
                }

                Put(rest[..end]);
                rawEnd = null;
                at += end;
                continue;
            }

            var open = rest.IndexOf((byte)'<');
            if (open != 0)
            {
                var text = open < 0 ? rest : rest[..open];
                Put(text);
                at += text.Length;
                continue;
            }

            var used = Markup(rest);
            if (used > 0)
            {
                at += used;
                continue;
            }

            if (last || rest.Length > LongestTag)
            {
                Put(rest[..1]);
                at++;
                continue;
            }

            carry.Write(rest);
            return;
        }
    }

    /// <summary>Takes one piece of markup; 0 when it is not whole yet.</summary>
    private int Markup(ReadOnlySpan<byte> rest)
    {
        if (rest.Length < 2)
        {
            return 0;
        }

        if (rest[1] is (byte)'!' or (byte)'?')
        {
            var whole = MarkupScan.EndOfDeclaration(rest);
            Put(rest[..whole]);
            return whole;
        }

        var closing = rest[1] == '/';
        var nameAt = closing ? 2 : 1;
        if (rest.Length <= nameAt)
        {
            return 0;
        }

        if (!IsLetter(rest[nameAt]))
        {
            Put(rest[..1]);
            return 1;
        }

        var end = TagReader.EndOf(rest, nameAt);
        if (end < 0)
        {
            return 0;
        }

        var tag = rest[..end];
        var nameEnd = nameAt;
        while (nameEnd < tag.Length - 1 && !TagReader.IsBlank(tag[nameEnd]) && tag[nameEnd] != '/')
        {
            nameEnd++;
        }

        var element = Element.Of(tag[nameAt..nameEnd], xml);
        if (closing)
        {
            Close(element.Name, tag);
        }
        else
        {
            Start(element, tag, nameEnd);
        }

        return end;
    }

    private void Start(Element element, ReadOnlySpan<byte> tag, int nameEnd)
    {
        ImplyEnds(element);
        var marks = MarksOf(element, tag, nameEnd);
        var drop = marks.Drop;
        if (element.Name == "wary-form" && !drop)
        {
            // What stands inside is for pages that are not filtered.
            Put(decider.Form(marks.Form ?? "", marks.To));
            drop = true;
        }

        if (marks.Link == Fate.Drop)
        {
            if (NearestEntry() is >= 0 and var entry)
            {
                Mute(entry);
            }

            drop = true;
        }

        if (xml ? marks.SelfClosing : element.IsVoid)
        {
            Put(drop ? default : tag);
            return;
        }

        Enter(element, marks, tag, drop);
    }

    /// <summary>What the attributes of a tag say to the filter.</summary>
    private readonly record struct Marks(Fate Link, bool Drop, string? Form, string? To, bool IsData, bool SelfClosing);

    /// <summary>Reads the attributes that matter, and decides what they ask.</summary>
    private Marks MarksOf(Element element, ReadOnlySpan<byte> tag, int nameEnd)
    {
        var name = element.Name;
        var attributes = new TagReader(tag, nameEnd);
        var (link, drop, isData) = (Fate.Keep, false, false);
        string? item = null, act = null, form = null, to = null;
        var matters = element.HasLinks || TagReader.MayBeMarked(tag);
        while (matters && attributes.Next(out var attribute, out var value))
        {
            if (Is(attribute, "href"u8) && name is "a" or "area" or "link" or "base")
            {
                link = OfAddress(name, Decode(value), link);
            }
            else if (attribute.Length == 14 && Is(attribute, "data-wary-item"u8))
            {
                item = Decode(value);
            }
            else if (attribute.Length == 13 && Is(attribute, "data-wary-for"u8))
            {
                drop |= !decider.Admits(Decode(value));
            }
            else if (attribute.Length == 13 && Is(attribute, "data-wary-act"u8))
            {
                act = Decode(value);
            }
            else if (name == "script" && Is(attribute, "type"u8))
            {
                isData = Is(value, "application/ld+json"u8);
            }
            else if (name == "wary-form" && Is(attribute, "name"u8))
            {
                form = Decode(value);
            }
            else if (name == "wary-form" && Is(attribute, "to"u8))
            {
                to = Decode(value);
            }
        }

        // An act without an item says nothing that could be decided: closed.
        drop |= item is not null ? !(act is null ? decider.MayList(item) : decider.May(item, act)) : act is not null;
        return new Marks(link, drop, form, to, isData, attributes.SelfClosing);
    }

    /// <summary>The fate of a link; a base says what the links after it are relative to, and is none itself.</summary>
    private Fate OfAddress(string name, string href, Fate before)
    {
        if (name != "base")
        {
            return decider.OfLink(href);
        }

        decider.SetBase(href);
        return before;
    }

    /// <summary>Stands inside the element from here on; what may still have to go is held back.</summary>
    private void Enter(Element element, in Marks marks, ReadOnlySpan<byte> tag, bool drop)
    {
        var name = element.Name;
        var open = Take(element);
        open.IsEntry = xml ? element.IsXmlEntry : element.IsEntry;
        open.IsList = !xml && element.IsList;
        open.Marked = marks.Link == Fate.Mark && name == "a";
        places.Push(element, open.IsEntry, open.IsList, stack.Count);
        stack.Add(open);
        if (open.IsEntry || open.IsList || drop || marks.IsData)
        {
            open.Start = mutedAt >= 0 ? -1 : length;
            held += open.Start >= 0 ? 1 : 0;
            if (open.Start >= 0)
            {
                heldAt.Add(stack.Count - 1);
            }
        }

        Put(tag);
        if (drop)
        {
            Mute(stack.Count - 1);
        }

        if (name == "body" && !xml)
        {
            Put(decider.AfterBody);
        }

        if (xml)
        {
            open.TextStart = name is "loc" or "link" or "guid" && mutedAt < 0 ? length : -1;
        }
        else if (element.IsRaw)
        {
            rawEnd = name;
            open.IsData = marks.IsData;
            open.TextStart = marks.IsData && mutedAt < 0 ? length : -1;
        }
    }

    private void Close(string name, ReadOnlySpan<byte> tag)
    {
        var at = places.Of(name);
        if (at < 0)
        {
            Put(tag);
            return;
        }

        while (stack.Count - 1 > at)
        {
            Pop(stack.Count - 1);
        }

        var open = stack[at];
        if (open is { IsData: true, TextStart: >= 0 } && mutedAt < 0)
        {
            var text = encoding.GetString(pending.AsSpan(open.TextStart, length - open.TextStart));
            var clean = JsonSieve.Clean(text, link => decider.OfLink(link) == Fate.Drop);
            if (!ReferenceEquals(clean, text))
            {
                length = open.TextStart;
                Put(encoding.GetBytes(clean));
            }
        }
        else if (open.TextStart >= 0 && mutedAt < 0 && decider.OfLink(TextOf(open)) == Fate.Drop && NearestEntry() is >= 0 and var entry)
        {
            Mute(entry);
        }

        if (open.Marked && mutedAt < 0)
        {
            Put(decider.Mark);
        }

        Put(tag);
        Pop(at);
    }

    private string TextOf(Open open)
    {
        var text = Decode(pending.AsSpan(open.TextStart, Math.Max(0, length - open.TextStart))).Trim();
        return text.StartsWith("<![CDATA[", StringComparison.Ordinal) && text.EndsWith("]]>", StringComparison.Ordinal) ? text[9..^3].Trim() : text;
    }

    /// <summary>Ends elements that the start of another ends (HTML §13.1.2.4).</summary>
    private void ImplyEnds(Element element)
    {
        var (ends, bounds) = (element.Ends, element.Bounds);
        if (xml || ends.Length == 0)
        {
            return;
        }

        var at = places.Of(ends);
        while (at > places.Of(bounds) && stack.Count > at)
        {
            Pop(stack.Count - 1);
        }
    }

    private static bool Is(ReadOnlySpan<byte> name, ReadOnlySpan<byte> lower) => Ascii.EqualsIgnoreCase(name, lower);
}
