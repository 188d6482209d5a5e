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

        if (entry is not null && (entry.Words += words) > MostWords)
        {
            entry.IsUndecided = false;
        }
    }

    /// <summary>Stands inside the element from here on; what may still have to go is held back.</summary>
    private void Enter(Element element, in Marks marks, ReadOnlySpan<byte> tag, bool isForeign)
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

        var one = open.Push(element, element.Is(Traits.Entry) && !isForeign, isForeign);
        (one.IsMarked, one.IsDropped, one.Number) = (marks.Link == Fate.Mark, drop, formats++);
        if ((one.IsEntry || (element.Is(Traits.List) && !isForeign)) && !IsMuted)
        {
            Hold(one);
        }

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

        BeginRaw(one, marks);
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

    private void BeginRaw(Open one, in Marks marks)
    {
        if (!one.Element.Is(Traits.Raw) || one.IsForeign)
        {
            return;
        }

        (rawEnd, script) = (one.Element.Name == "plaintext" ? "\0" : one.Element.Name, MarkupScan.ScriptState.Plain);
        dataFrom = one.TextStart = marks.IsData && !IsMuted ? Held.End : -1;
    }

    /// <summary>An element without an end tag.</summary>
    private void Lone(Element element, in Marks marks, ReadOnlySpan<byte> tag)
    {
        if (element.Is(Traits.Inline))
        {
            BeginRun();
        }

        Count(marks);
        if (!marks.Drop && marks.Link != Fate.Drop)
        {
            PutTag(marks, tag);
        }
    }

    /// <summary>A tag, without the attribute that goes alone.</summary>
    private void PutTag(in Marks marks, ReadOnlySpan<byte> tag)
    {
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
            foreach (var entry in open.Entries)
            {
                if (entry.HasOpen)
                {
                    break;
                }

                (entry.HasOpen, entry.IsUndecided) = (true, false);
            }
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
            var group = open.Push(Element.Group, true);
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

    /// <summary>An element ends by its end tag.</summary>
    private void End(Open one, ReadOnlySpan<byte> tag)
    {
        if (one.TextStart >= 0)
        {
            CleanData(one);
        }

        if (one.Link is { IsSettled: false } link)
        {
            EndLink(link, tag);
            one.Link = null;
            return;
        }

        if (one.IsMarked)
        {
            Put(Decider.Mark);
        }

        Put(tag);
    }

    private void CleanData(Open one)
    {
        dataFrom = -1;
        var text = Encoding.GetString(Held.Since(one.TextStart));
        var clean = JsonSieve.Clean(text, link => Decider.OfLink(link) == Fate.Drop);
        if (!ReferenceEquals(clean, text))
        {
            Held.Replace(one.TextStart, Held.End, Encoding.GetBytes(clean));
        }
    }

    /// <summary>Takes the innermost element off the stack: it ends here.</summary>
    private void Pop(bool isOwn = false)
    {
        var at = open.Count - 1;
        if (!open[at].Element.Is(Traits.Inline))
        {
            Boundary();
        }

        var isHiddenLink = open[at].Link is not null;
        if (open[at].Link is { IsSettled: false } link)
        {
            EndLink(link, default);
        }

        var one = open.Pop();
        dataFrom = one.TextStart >= 0 ? -1 : dataFrom;
        if (undecided.Count > 0 && undecided[^1] == at)
        {
            undecided.RemoveAt(undecided.Count - 1);
            firstUndecided = Math.Min(firstUndecided, undecided.Count);
        }

        Forget(at);

        if (!isOwn && one is { HasEnded: false, IsForeign: false } && one.Element.Is(Traits.Formatting) && !isHiddenLink)
        {
            Unfinish(one);
        }

        var isGone = mutedAt == at;
        mutedAt = isGone ? -1 : mutedAt;

        Leave(one, isGone);
        while (open.Top is { HasEnded: true })
        {
            Pop();
        }
    }

    private void Leave(Open one, bool isGone)
    {
        if (one.IsUndecided && !isGone && (one.IsEntry ? StandsForHidden(one) : one is { Gone: > 0, Kept: 0 }))
        {
            Held.Replace(one.Start, Held.End);
            isGone = true;
            if (!one.IsEntry && open.Entry is { Words: 0, HasOpen: false } around)
            {
                around.HasHidden = true;
            }
        }

        if (!one.IsEntry)
        {
            return;
        }

        var list = one.Element.Name == "dd" && open.Top?.Element == Element.Group ? open.Top : open.Of(Traits.List) is >= 0 and var place ? open[place] : null;
        if (isGone)
        {
            list?.Gone += 1;
            return;
        }

        if (list is not null && list.Kept++ == 0 && list.Element != Element.Group)
        {
            list.IsUndecided = false;
        }

        if (open.Entry is { } outer)
        {
            outer.Words += one.Words;
            outer.HasProse |= one.HasProse;
        }
    }

    /// <summary>Whether an entry is about something hidden and about nothing else.</summary>
    private static bool StandsForHidden(Open entry) => entry is { HasOpen: false, HasProse: false, Words: <= MostWords }
        && (entry.HasHidden || (entry.Element == Element.Group && entry is { Gone: > 0, Kept: 0 }));

    /// <summary>So much waits that it is decided now: what is about something hidden as far as can be told goes, the rest stays.</summary>
    private void Overflow()
    {
        if (hidden is not null && Held.End - hidden.From > MostHeld && open.Of(Element.A) is >= 0 and var at && open[at].Link == hidden)
        {
            Held.Replace(hidden.From, Held.End);
            (hidden.IsSettled, hidden) = (true, null);
            run.Links.Clear();
            Mute(at);
        }

        for (var n = firstUndecided; n < undecided.Count && mutedAt < 0; n++)
        {
            var one = open[undecided[n]];
            if (one.IsUndecided && one.IsEntry && StandsForHidden(one))
            {
                Decider.TooLarge();
                Held.Replace(one.Start, Held.End);
                Mute(undecided[n]);
            }

            one.IsUndecided = false;
        }

        if (isInRun && !run.IsRunning)
        {
            Boundary();
        }
    }
}
