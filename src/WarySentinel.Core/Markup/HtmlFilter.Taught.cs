using System.Buffers;
using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>
/// Entries that the owner taught (docs/how-to/cards-and-data.md). Such an entry is about what its first link leads to, or the one that the owner names: it
/// goes where that is hidden, whatever else stands in it, and stays where it is not.
/// </summary>
internal sealed partial class HtmlFilter
{
    /// <summary>A script that holds more data than this is not judged, and goes.</summary>
    private const int MostData = 16 << 20;

    /// <summary>What of the selectors is met around the outermost elements: three a rule.</summary>
    private readonly CssSelector.Met[] outermost = [.. taught.Entries.SelectMany(SelectorsOf).Select(s => s?.Outermost() ?? default)];

    private readonly bool isTaught = taught.Entries.Count > 0;
    private readonly List<Open> taughtOpen = [];

    private static IEnumerable<CssSelector?> SelectorsOf(TaughtEntry rule) => [rule.Entry, rule.Link, rule.Price];

    /// <summary>What an element is to the rules.</summary>
    private readonly record struct Meeting(CssSelector.Met[] Met, TaughtEntry? Entry, int Number, TagFacts Tag)
    {
        public bool IsLink(TaughtState of) => of.Rule.Link is { } link ? link.IsMetAt(Met[(of.Number * 3) + 1])
            : Tag.Name is "a" or "area" && Tag["href"] is { } href && !LeadsNowhere(href);

        public bool IsPrice(TaughtState of) => of.Rule.Price is { } price && price.IsMetAt(Met[(of.Number * 3) + 2]);
    }

    private Meeting Meet(Element element, ReadOnlySpan<byte> tag)
    {
        var facts = TagFacts.Of(element, tag, Encoding);
        var around = open.Top?.Met ?? outermost;
        if (element == Element.Tr && open.Top?.Element == Element.Table)
        {
            // Browsers put a body between a table and its rows.
            around = Next(around, new TagFacts("tbody", []));
        }

        var met = Next(around, facts);
        for (var n = 0; n < taught.Entries.Count; n++)
        {
            if (taught.Entries[n].Entry.IsMetAt(met[n * 3]))
            {
                return new Meeting(met, taught.Entries[n], n, facts);
            }
        }

        return new Meeting(met, null, -1, facts);
    }

    private CssSelector.Met[] Next(CssSelector.Met[] around, TagFacts facts)
    {
        var met = new CssSelector.Met[around.Length];
        for (var n = 0; n < met.Length; n++)
        {
            var rule = taught.Entries[n / 3];
            met[n] = ((n % 3) switch { 0 => rule.Entry, 1 => rule.Link, _ => rule.Price })?.Next(around[n], facts) ?? default;
        }

        return met;
    }

    /// <summary>An element stands in a taught entry, or is one. Gives whether it goes, as a price that is guarded.</summary>
    private bool EnterTaught(Open one, in Meeting meeting)
    {
        one.Met = meeting.Met;
        if (meeting.Entry is not null && !IsMuted)
        {
            one.Taught = new TaughtState(meeting.Entry, meeting.Number);
            taughtOpen.Add(one);
        }

        if (TaughtAround() is not { } entry || IsMuted)
        {
            return false;
        }

        Learn(entry, meeting);
        if (!meeting.IsPrice(entry.Taught!))
        {
            return false;
        }

        one.PriceFrom = entry.Taught!.IsKnown ? -1 : Held.End;
        return entry.Taught.HidesPrice;
    }

    /// <summary>The same of an element without an end tag, and whether it waits for the link as a price does.</summary>
    private bool MeetAlone(in Meeting meeting, out bool waits)
    {
        waits = false;
        if (TaughtAround() is not { } entry || IsMuted)
        {
            return false;
        }

        Learn(entry, meeting);
        var isPrice = meeting.IsPrice(entry.Taught!);
        waits = isPrice && !entry.Taught!.IsKnown;
        return isPrice && entry.Taught!.HidesPrice;
    }

    /// <summary>The innermost taught entry.</summary>
    private Open? TaughtAround() => taughtOpen.Count > 0 ? taughtOpen[^1] : null;

    private void Learn(Open entry, in Meeting meeting)
    {
        if (entry.Taught is not { IsKnown: false } state || !meeting.IsLink(state) || AddressIn(meeting.Tag) is not { } about)
        {
            return;
        }

        state.IsKnown = true;
        state.Goes = Decider.OfNamed(about) == Fate.Drop;
        state.HidesPrice = !state.Goes && state.Rule.Price is not null && !Decider.ShowsPrice(about);
        if (!state.Goes)
        {
            entry.IsUndecided = false;
            DropPrices(state);
            if (entry.HasOpen)
            {
                TellOpen(open.Entries.SkipWhile(e => e != entry).Skip(1));
            }
        }
    }

    private void DropPrices(TaughtState state)
    {
        if (state.HidesPrice)
        {
            state.Prices.ForEach(p => Held.Replace(p.From, p.To));
        }

        state.Prices.Clear();
    }

    private static string? AddressIn(TagFacts tag)
    {
        if ((tag["href"] ?? tag["src"]) is { } plain)
        {
            return plain;
        }

        foreach (var (name, value) in tag.Attributes)
        {
            if (value.Length > 0 && (value[0] is '/' or '.' || value.StartsWith("http", StringComparison.OrdinalIgnoreCase)) && name != "style")
            {
                return value;
            }
        }

        return null;
    }

    /// <summary>An element has ended that stood in a taught entry, or was one.</summary>
    private void LeaveTaught(Open one)
    {
        if (one.PriceFrom >= 0)
        {
            LeavePrice(one);
        }

        if (one.Taught is not { } state)
        {
            return;
        }

        taughtOpen.Remove(one);
        if (!state.IsKnown && one.HasOpen)
        {
            TellOpen(open.Entries);
        }
    }

    /// <summary>A price has ended: it goes now, or waits for the link of its entry.</summary>
    private void LeavePrice(Open one)
    {
        if (TaughtAround()?.Taught is not { } state || IsMuted)
        {
            return;
        }

        if (!state.IsKnown)
        {
            state.Prices.Add((one.PriceFrom, Held.End));
        }
        else if (state.HidesPrice && Held.Has(one.PriceFrom))
        {
            Held.Replace(one.PriceFrom, Held.End);
        }
    }

    /// <summary>Data in a script has ended.</summary>
    private void CleanData(Open one)
    {
        dataFrom = -1;
        var text = Held.Since(one.TextStart).ToArray();
        var isUtf8 = Encoding.CodePage == Encoding.UTF8.CodePage;
        ReadOnlyMemory<byte> plain = isUtf8 ? text : Encoding.Convert(Encoding, Encoding.UTF8, text);
        var output = new ArrayBufferWriter<byte>(plain.Length + 1);
        var rules = taught.Data.Where(d => one.Data is not null && d.Behind == one.Data).ToList();
        var isRead = one.Data is null ? JsonSieve.OfLinkedData(plain, Decider) is { } clean && Written(clean, output)
            : rules.Count > 0 ? JsonSieve.TrySift(plain, rules, Decider, output)
            : JsonSieve.TrySiftScript(plain, taught.Data, Decider, output);
        if (!isRead)
        {
            Decider.Unreadable();
            Held.Replace(one.TextStart, Held.End, one.Data is { Length: 0 } ? [] : "{}"u8.ToArray());
        }
        else if (!output.WrittenSpan.SequenceEqual(plain.Span))
        {
            var written = output.WrittenSpan.ToArray();
            Held.Replace(one.TextStart, Held.End, isUtf8 ? written : Encoding.Convert(Encoding.UTF8, Encoding, written));
        }
    }

    private static bool Written(byte[] bytes, ArrayBufferWriter<byte> output)
    {
        output.Write(bytes);
        return true;
    }

    /// <summary>
    /// How the text of a script is read: null for data of search engines, <c>#id</c> for data of its own, empty for a program in which data may stand.
    /// </summary>
    private string? DataOf(ReadOnlySpan<byte> tag)
    {
        var facts = TagFacts.Of(Element.Script, tag, Encoding);
        var id = "#" + facts["id"];
        return taught.Data.Any(d => d.Behind == id) ? id : "";
    }
}
