namespace WarySentinel.Core.Markup;

/// <summary>
/// What goes and what stays. A hidden link goes with the entry that stands for it: one with no link to anything open and no text of its own. Else the link
/// goes alone: from a menu with what parts it from the next, from running text in the way that the owner chose (docs/explanation/filter.md).
/// </summary>
internal sealed partial class HtmlFilter
{
    /// <summary>More words than this are no description: the entry holds a part of the page.</summary>
    private const int MostWords = 80;

    /// <summary>How often it is looked at how much waits.</summary>
    private const int Often = 64 * 1024;

    private long looksAgain = Often;

    private readonly InlineRun run = new();
    private readonly List<int> undecided = [];
    private int firstUndecided;
    private int mutedAt = -1;
    private bool isInRun;
    private bool isInWord;
    private HiddenLink? hidden;
    private long dataFrom = -1;

    private bool IsMuted => mutedAt >= 0;

    private protected override void End()
    {
        while (open.Count > 0)
        {
            Pop();
        }

        Boundary();
    }

    private protected override long Settled()
    {
        while (firstUndecided < undecided.Count && !open[undecided[firstUndecided]].IsUndecided)
        {
            firstUndecided++;
        }

        var settled = firstUndecided < undecided.Count ? open[undecided[firstUndecided]].Start : Held.End;
        settled = isInRun && !run.IsRunning ? Math.Min(settled, run.Start) : settled;
        settled = hidden is not null ? Math.Min(settled, hidden.From) : settled;
        return dataFrom >= 0 ? Math.Min(settled, dataFrom) : settled;
    }

    private void Put(ReadOnlySpan<byte> bytes)
    {
        if (!IsMuted)
        {
            Held.Put(bytes);
            if (Held.End >= looksAgain)
            {
                looksAgain = Held.End + Often;
                if (Held.End - Settled() > MostHeld)
                {
                    Overflow();
                }
            }
        }
    }

    private void Text(ReadOnlySpan<byte> text)
    {
        Resume();
        if (IsMuted)
        {
            return;
        }

        BeginRun();
        Put(text);
        if (hidden is not null || IsMuted)
        {
            return;
        }

        var entry = open.Entry;
        var isLinked = open.Of(Element.A) >= 0;
        if ((run.IsCounted || isLinked) && entry is not { IsUndecided: true, IsEntry: true })
        {
            return;
        }

        var words = Separators.WordsIn(text, Encoding, MostWords + 1, ref isInWord);
        run.Count(isLinked ? 0 : words);
        if (run.IsRunning && run.Links.Count > 0)
        {
            run.Links.ForEach(KeepWords);
            run.Links.Clear();
        }

        if (entry is not null && (entry.Words += words) > MostWords && entry.Taught is null)
        {
            entry.IsUndecided = false;
        }
    }

    /// <summary>Stands inside the element from here on; what may still have to go is held back.</summary>
    private void Enter(Element element, in Marks marks, ReadOnlySpan<byte> tag, bool isForeign, in Meeting meeting)
    {
        if (element.Name is "dt" or "dd" && !isForeign)
        {
            Group(element);
        }

        var drop = marks.Drop || (marks.Link == Fate.Drop && element.Name != "a");
        if (element.Name == "wary-form" && !drop)
        {
            // What stands inside is for pages that are not filtered.
            Put(Decider.Form(marks.Form ?? "", marks.To));
            drop = true;
        }

        if (element.Is(Traits.Inline))
        {
            BeginRun();
        }

        var one = open.Push(element, (element.Is(Traits.Entry) && !isForeign) || meeting.Entry is not null, isForeign);
        if ((one.IsEntry || (element.Is(Traits.List) && !isForeign)) && !IsMuted)
        {
            Hold(one);
        }

        drop |= isTaught && EnterTaught(one, meeting);
        (one.IsMarked, one.IsDropped, one.Number) = (marks.Link == Fate.Mark, drop, formats++);
        Count(marks);
        if (drop || (hidden is not null && marks.Link == Fate.Drop))
        {
            Mute(open.Count - 1);
        }

        BeginLink(one, marks, tag);

        if (element.Name == "body")
        {
            Put(Decider.AfterBody);
        }

        BeginRaw(one, marks, tag);
        if (marks.Price is { } price && !IsMuted)
        {
            Fill(one, tag, price);
        }
    }

    /// <summary>The price stands alone in its element, which is ended here: what the page has in it goes.</summary>
    private void Fill(Open one, ReadOnlySpan<byte> tag, PriceSaid price)
    {
        Put(Encoding.GetBytes(System.Text.Encodings.Web.HtmlEncoder.Default.Encode(price.Text)));
        var name = tag[1..TagReader.EndOfName(tag, 1)];
        Put("</"u8);
        Put(name);
        Put(">"u8);
        one.IsDropped = true;
        Mute(open.Count - 1);
    }

    private void BeginLink(Open one, in Marks marks, ReadOnlySpan<byte> tag)
    {
        if (marks.Link != Fate.Drop || one.Element.Name != "a" || IsMuted)
        {
            PutTag(marks, tag);
            return;
        }

        hidden = one.Link = new HiddenLink { From = Held.End };
        run.Meet(hidden);
        Put(tag);
        hidden?.To = Held.End;
    }

    private void BeginRaw(Open one, in Marks marks, ReadOnlySpan<byte> tag)
    {
        if (!one.Element.Is(Traits.Raw) || one.IsForeign)
        {
            return;
        }

        (rawEnd, script) = (one.Element.Name == "plaintext" ? "\0" : one.Element.Name, MarkupScan.ScriptState.Plain);
        var holdsData = one.Element == Element.Script && taught.Data.Count > 0 && !marks.IsData;
        one.Data = holdsData ? DataOf(tag) : null;
        dataFrom = one.TextStart = (marks.IsData || holdsData) && !IsMuted ? Held.End : -1;
    }

    /// <summary>An element without an end tag.</summary>
    private void Lone(Element element, in Marks marks, ReadOnlySpan<byte> tag, in Meeting meeting)
    {
        if (element.Is(Traits.Inline))
        {
            BeginRun();
        }

        var (from, waits) = (Held.End, false);
        var goes = isTaught && MeetAlone(meeting, out waits);
        Count(marks);
        if (!marks.Drop && marks.Link != Fate.Drop && !goes)
        {
            PutTag(marks, tag);
        }

        if (waits)
        {
            taughtOpen[^1].Taught!.Prices.Add((from, Held.End));
        }
    }

    /// <summary>A tag, without the attribute that goes alone, and with the amount of a price in that which holds it.</summary>
    private void PutTag(in Marks marks, ReadOnlySpan<byte> tag)
    {
        if (marks is { Price: { } price, Amount: { To: > 0 } amount })
        {
            var attribute = tag[amount.From..amount.To].TrimStart(" \t\n\r\f/"u8);
            Put(tag[..amount.From]);
            Put(" "u8);
            Put(attribute[..(attribute.IndexOf((byte)'=') is >= 0 and var equals ? equals : attribute.Length)]);
            Put(Encoding.GetBytes($"=\"{System.Text.Encodings.Web.HtmlEncoder.Default.Encode(price.Amount)}\""));
            Put(tag[amount.To..]);
            return;
        }

        Put(tag[..(marks.Cut.To > 0 ? marks.Cut.From : tag.Length)]);
        Put(marks.Cut.To > 0 ? tag[marks.Cut.To..] : default);
    }

    /// <summary>Tells the entries around what stands in them.</summary>
    private void Count(in Marks marks)
    {
        if (IsMuted)
        {
            return;
        }

        if (marks.IsHidden)
        {
            open.Entry?.HasHidden = true;
        }
        else if (marks.IsOpen)
        {
            TellOpen(open.Entries);
        }
    }

    /// <summary>Tells entries, from the innermost, that something open stands in them. One that may still go keeps it to itself.</summary>
    private static void TellOpen(IEnumerable<Open> entries)
    {
        foreach (var entry in entries)
        {
            if (entry.HasOpen)
            {
                break;
            }

            entry.HasOpen = true;
            if (entry.Taught is { IsKnown: false } or { Goes: true })
            {
                break;
            }

            entry.IsUndecided = false;
        }
    }

    /// <summary>A term goes with what is said of it: both stand in a group that no page has.</summary>
    private void Group(Element element)
    {
        var isInOne = open.Top?.Element == Element.Group;
        if (isInOne && element.Name == "dt" && open.Top!.Kept + open.Top.Gone > 0)
        {
            Pop();
            isInOne = false;
        }

        if (!isInOne)
        {
            var around = open.Top?.Met;
            var group = open.Push(Element.Group, true);
            group.Met = around;
            if (!IsMuted)
            {
                Hold(group);
            }
        }
    }

    private void Hold(Open one)
    {
        (one.Start, one.IsUndecided) = (Held.End, true);
        undecided.Add(open.Count - 1);
    }

    private void Mute(int at) => mutedAt = mutedAt >= 0 ? Math.Min(mutedAt, at) : at;
}
