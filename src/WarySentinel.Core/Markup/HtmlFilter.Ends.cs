namespace WarySentinel.Core.Markup;

/// <summary>What is decided when an element ends.</summary>
internal sealed partial class HtmlFilter
{
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

        LeaveTaught(one);
        Leave(one, isGone);
        while (open.Top is { HasEnded: true })
        {
            Pop();
        }
    }

    private void Leave(Open one, bool isGone)
    {
        if (one.IsUndecided && !isGone && (one.IsEntry ? Goes(one) : one is { Gone: > 0, Kept: 0 }))
        {
            Held.Replace(one.Start, Held.End);
            isGone = true;
            if ((!one.IsEntry || one.Taught is not null) && open.Entry is { Words: 0, HasOpen: false } around)
            {
                around.HasHidden = true;
            }
        }

        if (!one.IsEntry)
        {
            return;
        }

        if (!one.Element.Is(Traits.Entry))
        {
            TellOuter(one, isGone);
            return;
        }

        var list = one.Element.Name == "dd" && open.Top?.Element == Element.Group ? open.Top : open.Of(Traits.List) is >= 0 and var place ? open[place] : null;
        if (isGone)
        {
            list?.Gone += 1;
            return;
        }

        if (list is not null && list.Kept++ == 0 && list.Element != Element.Group && list.Taught is null)
        {
            list.IsUndecided = false;
        }

        TellOuter(one, false);
    }

    private void TellOuter(Open one, bool isGone)
    {
        if (open.Entry is { } outer && !isGone)
        {
            outer.Words += one.Words;
            outer.HasProse |= one.HasProse;
        }
    }

    private static bool Goes(Open entry) => entry.Taught is { IsKnown: true } taught ? taught.Goes : StandsForHidden(entry);

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
            if (one.IsUndecided && one.IsEntry && Goes(one))
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

        if (dataFrom >= 0 && Held.End - dataFrom > MostData)
        {
            Decider.TooLarge();
            Held.Replace(dataFrom, Held.End, "</script>"u8.ToArray());
            (dataFrom, open.Top!.TextStart) = (-1, -1);
            Mute(open.Count - 1);
        }
    }
}
