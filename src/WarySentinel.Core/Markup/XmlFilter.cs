using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>
/// Filters XML by which a site lists its pages: sitemaps, RSS, Atom, RDF, OPML, and drawings with links. An entry goes when it names something hidden; an
/// element outside of entries goes alone.
/// </summary>
internal sealed class XmlFilter(IMarkupDecider decider, Encoding encoding) : MarkupFilter(decider, encoding)
{
    private static readonly HashSet<string> Entries = new(StringComparer.Ordinal) { "url", "item", "entry", "sitemap", "outline" };
    private static readonly HashSet<string> Texts = new(StringComparer.Ordinal) { "loc", "link", "guid", "id", "uri" };
    private static readonly HashSet<string> Addresses = new(StringComparer.Ordinal) { "href", "about", "resource", "src", "xmlurl", "htmlurl", "url" };
    private readonly List<One> open = [];

    /// <summary>Where the elements of each name stand, the entries, and those that wait for their end; so that nobody searches what is deep.</summary>
    private readonly Dictionary<string, List<int>> byName = new(StringComparer.Ordinal);
    private readonly List<int> entries = [];
    private readonly List<int> waiting = [];
    private int mutedAt = -1;

    private sealed record One(string Name, bool IsEntry, long Start, long TextStart)
    {
        public bool IsDropped { get; set; }
    }

    private protected override int Take(ReadOnlySpan<byte> rest, bool last)
    {
        var tag = rest.IndexOf((byte)'<');
        if (tag != 0)
        {
            var text = tag < 0 ? rest : rest[..tag];
            Put(text);
            return text.Length;
        }

        var used = rest.Length < 2 ? 0 : rest[1] is (byte)'!' or (byte)'?' ? Declaration(rest) : Markup(rest);
        if (used == 0 && last)
        {
            Put(rest);
            return rest.Length;
        }

        return used;
    }

    private int Declaration(ReadOnlySpan<byte> rest)
    {
        var end = rest.StartsWith("<?"u8) ? rest.IndexOf("?>"u8) is >= 0 and var close ? close + 2 : 0 : MarkupScan.EndOfDeclaration(rest, true);
        Put(rest[..end]);
        return end;
    }

    private int Markup(ReadOnlySpan<byte> rest)
    {
        var closing = rest[1] == '/';
        var nameAt = closing ? 2 : 1;
        var end = TagReader.EndOf(rest, TagReader.EndOfName(rest, nameAt));
        if (end < 0)
        {
            return 0;
        }

        var tag = rest[..end];
        var nameEnd = TagReader.EndOfName(tag, nameAt);
        var full = tag[nameAt..nameEnd];
        // A sitemap may carry a prefix: <s:url>.
        var name = Encoding.Latin1.GetString(full[(full.IndexOf((byte)':') + 1)..]);
        if (closing)
        {
            Close(name, tag);
        }
        else
        {
            Start(name, tag, nameEnd);
        }

        return end;
    }

    private void Start(string name, ReadOnlySpan<byte> tag, int nameEnd)
    {
        var reader = new TagReader(tag, nameEnd);
        var isHidden = false;
        while (reader.Next(out var attribute, out var value))
        {
            var plain = Encoding.Latin1.GetString(attribute[(attribute.IndexOf((byte)':') + 1)..]).ToLowerInvariant();
            isHidden |= Addresses.Contains(plain) && IsHidden(Decode(value));
        }

        var isEntry = Entries.Contains(name);
        var one = new One(name, isEntry, mutedAt >= 0 ? -1 : Held.End, -1);
        if (reader.SelfClosing)
        {
            if (!isHidden)
            {
                Put(tag);
            }
            else if (!isEntry)
            {
                DropEntry();
            }

            return;
        }

        Push(one);
        if (isHidden)
        {
            if (isEntry || !DropEntry())
            {
                Drop(open.Count - 1);
            }

            return;
        }

        Put(tag);
        if (Texts.Contains(name) && mutedAt < 0)
        {
            open[^1] = one with { TextStart = Held.End };
            Wait(open.Count - 1);
        }
    }

    /// <summary>Something hidden is named inside: the entry around it goes, where there is one.</summary>
    private bool DropEntry()
    {
        if (entries.Count > 0)
        {
            Drop(entries[^1]);
        }

        return entries.Count > 0;
    }

    private void Push(One one)
    {
        var at = open.Count;
        (byName.TryGetValue(one.Name, out var places) ? places : byName[one.Name] = []).Add(at);
        open.Add(one);
        if (one.IsEntry)
        {
            entries.Add(at);
            Wait(at);
        }
    }

    private void Wait(int at)
    {
        if (waiting.Count == 0 || waiting[^1] != at)
        {
            waiting.Add(at);
        }
    }

    private void Pop()
    {
        var at = open.Count - 1;
        foreach (var places in (List<int>[])[byName[open[at].Name], entries, waiting])
        {
            if (places.Count > 0 && places[^1] == at)
            {
                places.RemoveAt(places.Count - 1);
            }
        }

        mutedAt = mutedAt == at ? -1 : mutedAt;
        open.RemoveAt(at);
    }

    private void Drop(int at)
    {
        if (mutedAt < 0 && open[at].Start >= 0)
        {
            (mutedAt, open[at].IsDropped) = (at, true);
            if (Held.Has(open[at].Start))
            {
                Held.Replace(open[at].Start, Held.End);
            }
        }
    }

    private void Close(string name, ReadOnlySpan<byte> tag)
    {
        var at = byName.TryGetValue(name, out var places) && places.Count > 0 ? places[^1] : -1;
        if (at >= 0 && open[at].TextStart >= 0 && mutedAt < 0 && IsHidden(TextOf(open[at])) && !DropEntry())
        {
            Drop(at);
        }

        Put(tag);
        while (at >= 0 && open.Count > at)
        {
            Pop();
        }
    }

    private bool IsHidden(string address) => address.Length > 0 && Decider.OfLink(address) == Fate.Drop;

    private string TextOf(One one)
    {
        var text = Decode(Held.Since(one.TextStart)).Trim();
        return text.StartsWith("<![CDATA[", StringComparison.Ordinal) && text.EndsWith("]]>", StringComparison.Ordinal) ? text[9..^3].Trim() : text;
    }

    private void Put(ReadOnlySpan<byte> bytes)
    {
        if (mutedAt >= 0)
        {
            return;
        }

        Held.Put(bytes);
        if (entries.Count > 0 && Held.End - Settled() > MostHeld)
        {
            // An entry that never ends cannot be judged.
            Decider.TooLarge();
            DropEntry();
        }
    }

    private protected override void End() => open.Clear();

    private protected override long Settled()
    {
        var first = mutedAt >= 0 || waiting.Count == 0 ? -1 : open[waiting[0]].Start;
        return first < 0 ? Held.End : first;
    }
}
