namespace WarySentinel.Core.Markup;

/// <summary>Which elements begin and end where, as a browser builds its tree (HTML §13.2.6).</summary>
internal sealed partial class HtmlFilter
{
    private static readonly Element[] TableParts = [Element.Tbody, Element.Thead, Element.Tfoot, Element.Caption, Element.Colgroup];
    private const int MostAlike = 3;
    private bool isStandard;

    /// <summary>Elements that format text and were ended by others: they begin again with the next text (HTML §13.2.4.3).</summary>
    private readonly List<(Element Element, bool IsDropped, int Number, int In)> unfinished = [];
    private int formats;

    private void Start(Element element, ReadOnlySpan<byte> tag, int nameEnd)
    {
        var before = open.Top;
        var isForeign = IsForeign(element);
        var endsForeign = before is { IsForeign: true } && !ReferenceEquals(before, open.Top);
        // A form in a form is none.
        var isNone = element.Name == "form" && !isForeign && open.Of(Element.Form) > open.Of(Element.Template);
        if (!isForeign && !isNone && !isXml)
        {
            ImplyEnds(element);
        }

        if (!element.Is(Traits.Inline))
        {
            Boundary();
        }
        else if (unfinished.Count > 0 && !element.Is(Traits.Raw) && element.Name is not ("link" or "meta" or "base"))
        {
            Resume();
        }

        var marks = MarksOf(element, tag, nameEnd);
        if (endsForeign && (marks.Drop || marks.IsHidden))
        {
            // It goes, and what it ended has to end all the same.
            Put("</svg></math>"u8);
        }

        if (isNone)
        {
            Put(marks.Drop ? default : tag);
            return;
        }

        var meeting = isTaught ? Meet(element, tag) : default;
        if (isForeign || isXml ? marks.SelfClosing : element.Is(Traits.Void))
        {
            Lone(element, marks, tag, meeting);
            return;
        }

        Enter(element, marks, tag, isForeign, meeting);
    }

    /// <summary>Whether an element stands in SVG or MathML; what never does ends them.</summary>
    private bool IsForeign(Element element)
    {
        var isInside = open.Top is { IsForeign: true } top && !OpenElements.IsIntegration(top.Element);
        if (isInside && element.Is(Traits.EndsForeign))
        {
            while (open.Top is { IsForeign: true } inner && !OpenElements.IsIntegration(inner.Element))
            {
                Pop();
            }

            return false;
        }

        return isInside || element.Name is "svg" or "math";
    }

    /// <summary>Ends elements that the start of another ends.</summary>
    private void ImplyEnds(Element element)
    {
        switch (element.Name)
        {
            case "li" when Within(Element.Li, Traits.EntryBarrier) is var entry && entry > Math.Max(open.Of(Element.Dt), open.Of(Element.Dd)):
                PopTo(entry);
                break;
            case "dt" or "dd" when Math.Max(Within(Element.Dt, Traits.EntryBarrier), Within(Element.Dd, Traits.EntryBarrier)) is var said
                && said > open.Of(Element.Li):
                PopTo(said);
                break;
            case "option" or "optgroup":
                var kept = element.Name == "optgroup" ? open.Of(Element.Optgroup) : -1;
                var outer = Math.Max(open.Of(Element.Select), open.Of(Traits.Scope));
                PopTo(kept > outer ? kept : open.Of(Element.Option) is var option && option > outer ? option : -1);
                break;
            case "td" or "th":
                PopTo(InTable(open.Of(Traits.Cell)));
                break;
            case "tr":
                PopTo(InTable(open.Of(Element.Tr), open.Of(Element.Caption), open.Of(Element.Colgroup)));
                break;
            case "tbody" or "thead" or "tfoot" or "caption" or "colgroup":
                PopTo(InTable([.. TableParts.Select(open.Of), open.Of(Element.Tr), open.Of(Traits.Cell)]));
                break;
            case "button":
                PopTo(Within(Element.Button, Traits.Scope));
                break;
            case "nobr" when open.Of(Element.Nobr) is var line && line >= 0 && line > Marker():
                EndFormatting(line);
                break;
            case "table" when open.Of(Element.Table) is var table && table >= 0 && table > open.Of(Traits.Cell) && table >= open.Of(Traits.TableScope):
                PopTo(table);
                break;
            case "a" when unfinished.Count > 0 && TailOf(Marker()).Exists(u => u.Element.Name == "a"):
                Finish("a");
                break;
            case "a" when open.Of(Element.A) is var link && link >= 0 && link > Marker():
                EndFormatting(link);
                break;
        }

        if (element.Is(Traits.EndsParagraph) || (element.Name == "table" && isStandard))
        {
            PopTo(Within(Element.P, Traits.ButtonScope));
        }

        if (element.Is(Traits.Heading) && open.Top?.Element.Is(Traits.Heading) == true)
        {
            Pop();
        }
    }

    /// <summary>Ends the element that an end tag is for, with what is open inside it. An end tag that is for none stays as it is.</summary>
    private void Close(Element element, ReadOnlySpan<byte> tag)
    {
        if (!element.Is(Traits.Inline))
        {
            Boundary();
        }

        var name = element.Name;
        while (name is "p" or "br" && open.Top is { IsForeign: true } inner && !OpenElements.IsIntegration(inner.Element))
        {
            Pop();
        }

        var at = name is "body" or "html" ? -1 : Ended(element);
        if (at < 0)
        {
            Put(tag);
            Finish(name);
            return;
        }

        if ((element.Is(Traits.Formatting) && open.Of(Traits.Special) > at) || (name == "form" && at < open.Count - 1 && !open[at].IsForeign))
        {
            // What is open inside stays open. Where that is left out, the end is not: it belongs to what is around.
            PutPast(at, tag);
            open.End(at);
            return;
        }

        PopTo(at + 1);
        End(open[at], tag);
        Pop(isOwn: true);
    }

    private void PutPast(int at, ReadOnlySpan<byte> tag)
    {
        if (mutedAt > at)
        {
            Held.Put(tag);
            return;
        }

        Put(tag);
    }

    /// <summary>An element that formats text ends, though not by its own end tag: what follows stands in it again.</summary>
    private void Unfinish(Open one)
    {
        var inside = Marker();
        if (TailOf(inside).Count(u => u.Element == one.Element && u.IsDropped == one.IsDropped) < MostAlike)
        {
            unfinished.Add((one.Element, one.IsDropped, one.Number, inside));
        }
    }

    /// <summary>What is unfinished in the innermost of what formatting cannot leave: it stands last, as whatever is deeper has ended.</summary>
    private List<(Element Element, bool IsDropped, int Number, int In)> TailOf(int inside)
    {
        var from = unfinished.Count;
        while (from > 0 && unfinished[from - 1].In == inside)
        {
            from--;
        }

        return unfinished.GetRange(from, unfinished.Count - from);
    }

    /// <summary>Begins again what others ended (HTML §13.2.4.3, “reconstruct”). No tag is written: browsers do the same with what stays.</summary>
    private void Resume()
    {
        if (unfinished.Count == 0 || open.Top is { IsForeign: true } || TailOf(Marker()) is not { Count: > 0 } tail)
        {
            return;
        }

        foreach (var (element, isDropped, number, _) in tail.OrderBy(u => u.Number))
        {
            var around = open.Top?.Met;
            var one = open.Push(element, false);
            (one.IsDropped, one.Number, one.Met) = (isDropped, number, around);
            if (isDropped)
            {
                Mute(open.Count - 1);
            }
        }

        unfinished.RemoveRange(unfinished.Count - tail.Count, tail.Count);
    }

    /// <summary>What formatting cannot leave has ended, and what was unfinished in it.</summary>
    private void Forget(int marker)
    {
        while (unfinished.Count > 0 && unfinished[^1].In == marker)
        {
            unfinished.RemoveAt(unfinished.Count - 1);
        }
    }

    private void Finish(string name)
    {
        var tail = TailOf(Marker());
        if (tail.FindLastIndex(u => u.Element.Name == name) is >= 0 and var at)
        {
            unfinished.RemoveAt(unfinished.Count - tail.Count + at);
        }
    }

    /// <summary>Where the element stands that an end tag ends, or -1.</summary>
    private int Ended(Element element)
    {
        var name = element.Name;
        if (open.Top?.IsForeign == true && open.Of(element) is var foreign and >= 0 && open[foreign].IsForeign)
        {
            return foreign;
        }

        return name switch
        {
            "p" => Within(element, Traits.ButtonScope),
            "li" => Within(element, Traits.ListScope),
            "table" => open.Of(element) is var table && table >= open.Of(Traits.TableScope) ? table : -1,
            "tr" or "td" or "th" or "tbody" or "thead" or "tfoot" or "caption" or "colgroup" => Within(element, Traits.TableScope),
            "template" or "select" => open.Of(element),
            _ when element.Is(Traits.Heading) => open.Of(Traits.Heading) is var heading && heading > open.Of(Traits.Scope) ? heading : -1,
            _ when element.Is(Traits.Scope | Traits.Cell) => open.Of(element) is var scope && scope >= open.Of(Traits.Scope) ? scope : -1,
            _ when element.Is(Traits.Formatting) => open.Of(element) is var format && format > Marker() ? format : -1,
            _ when element.Is(Traits.Special | Traits.Raw) => Within(element, Traits.Scope),
            _ => Within(element, Traits.Special),
        };
    }

    private int Within(Element element, Traits barrier) => open.Of(element) is var at && at > open.Of(barrier) ? at : -1;

    /// <summary>The outermost of these that stand in the innermost table.</summary>
    private int InTable(params ReadOnlySpan<int> places)
    {
        var (table, first) = (open.Of(Traits.TableScope), -1);
        foreach (var place in places)
        {
            first = place > table && (first < 0 || place < first) ? place : first;
        }

        return first;
    }

    /// <summary>What formatting does not reach across.</summary>
    private int Marker() => Math.Max(open.Of(Traits.Cell), Math.Max(open.Of(Element.Object), Math.Max(open.Of(Element.Template), open.Of(Element.Marquee))));

    private void EndFormatting(int at)
    {
        if (open.Of(Traits.Special) > at)
        {
            open.End(at);
            return;
        }

        PopTo(at);
    }

    private void PopTo(int at)
    {
        while (at >= 0 && open.Count > at)
        {
            Pop();
        }
    }
}
