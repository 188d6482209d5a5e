namespace WarySentinel.Core.Markup;

/// <summary>Which elements begin and end where, as a browser builds its tree (HTML §13.2.6).</summary>
internal sealed partial class HtmlFilter
{
    private static readonly string[] TableParts = ["tbody", "thead", "tfoot", "caption", "colgroup"];
    private bool isStandard;

    /// <summary>What is left out though its element was ended by another: it goes on until its own end tag (HTML §13.2.4.3).</summary>
    private string? lingering;
    private int lingersIn = -1;

    private void Start(Element element, ReadOnlySpan<byte> tag, int nameEnd)
    {
        var isForeign = IsForeign(element);
        if (!isForeign)
        {
            ImplyEnds(element);
        }

        if (!element.Is(Traits.Inline))
        {
            Boundary();
        }

        var marks = MarksOf(element, tag, nameEnd);
        if (element.Name == "form" && !isForeign && open.Of("form") > open.Of("template"))
        {
            // A form in a form is none.
            Put(marks.Drop ? default : tag);
            return;
        }

        if (isForeign ? marks.SelfClosing : element.Is(Traits.Void))
        {
            Lone(element, marks, tag);
            return;
        }

        Enter(element, marks, tag, isForeign);
    }

    /// <summary>Whether an element stands in SVG or MathML; what never does ends them.</summary>
    private bool IsForeign(Element element)
    {
        if (open.Top is not { } top)
        {
            return false;
        }

        var isInside = top.IsForeign && top.Element.Name is not ("foreignobject" or "desc" or "title" or "annotation-xml" or "mi" or "mo" or "mn" or "ms"
            or "mtext");
        if (isInside && element.Is(Traits.EndsForeign))
        {
            while (open.Top is { IsForeign: true } inner && inner.Element.Name is not ("foreignobject" or "desc" or "title"))
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
            case "li" when Within("li", Traits.EntryBarrier) is var entry && entry > Math.Max(open.Of("dt"), open.Of("dd")):
                PopTo(entry);
                break;
            case "dt" or "dd" when Math.Max(Within("dt", Traits.EntryBarrier), Within("dd", Traits.EntryBarrier)) is var said && said > open.Of("li"):
                PopTo(said);
                break;
            case "option" or "optgroup":
                var kept = element.Name == "optgroup" ? open.Of("optgroup") : -1;
                var outer = Math.Max(open.Of("select"), open.Of(Traits.Scope));
                PopTo(kept > outer ? kept : open.Of("option") is var option && option > outer ? option : -1);
                break;
            case "td" or "th":
                PopTo(InTable(open.Of(Traits.Cell)));
                break;
            case "tr":
                PopTo(InTable(open.Of("tr"), open.Of("caption"), open.Of("colgroup")));
                break;
            case "tbody" or "thead" or "tfoot" or "caption" or "colgroup":
                PopTo(InTable([.. TableParts.Select(open.Of), open.Of("tr"), open.Of(Traits.Cell)]));
                break;
            case "table" when open.Of("table") is var table && table >= 0 && table > open.Of(Traits.Cell) && table >= open.Of(Traits.TableScope):
                PopTo(table);
                break;
            case "a" when open.Of("a") is var link && link >= 0 && link > Marker():
                EndFormatting(link);
                break;
        }

        if (element.Is(Traits.EndsParagraph) || (element.Name == "table" && isStandard))
        {
            PopTo(Within("p", Traits.ButtonScope));
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
        var at = name is "body" or "html" ? -1 : Ended(element);
        var isLingering = lingering == name;
        if (at < 0)
        {
            Put(tag);
            lingering = isLingering ? null : lingering;
            return;
        }

        if (element.Is(Traits.Formatting) && open.Of(Traits.Special) > at)
        {
            Put(tag);
            open.End(at);
            return;
        }

        PopTo(at + 1);
        End(open[at], tag);
        Pop(isOwn: true);
        lingering = isLingering ? null : lingering;
    }

    /// <summary>Where the element stands that an end tag ends, or -1.</summary>
    private int Ended(Element element)
    {
        var name = element.Name;
        if (open.Top?.IsForeign == true && open.Of(name) is var foreign and >= 0 && open[foreign].IsForeign)
        {
            return foreign;
        }

        return name switch
        {
            "p" => Within(name, Traits.ButtonScope),
            "li" => Within(name, Traits.ListScope),
            "table" => open.Of(name) is var table && table >= open.Of(Traits.TableScope) ? table : -1,
            "tr" or "td" or "th" or "tbody" or "thead" or "tfoot" or "caption" or "colgroup" => Within(name, Traits.TableScope),
            "template" or "select" => open.Of(name),
            _ when element.Is(Traits.Heading) => open.Of(Traits.Heading) is var heading && heading > open.Of(Traits.Scope) ? heading : -1,
            _ when element.Is(Traits.Scope | Traits.Cell) => open.Of(name) is var scope && scope >= open.Of(Traits.Scope) ? scope : -1,
            _ when element.Is(Traits.Formatting) => open.Of(name) is var format && format > Marker() ? format : -1,
            _ when element.Is(Traits.Special | Traits.Raw) => Within(name, Traits.Scope),
            _ => Within(name, Traits.Special),
        };
    }

    private int Within(string name, Traits barrier) => open.Of(name) is var at && at > open.Of(barrier) ? at : -1;

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
    private int Marker() => Math.Max(open.Of(Traits.Cell), Math.Max(open.Of("object"), Math.Max(open.Of("template"), open.Of("marquee"))));

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
