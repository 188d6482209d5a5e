using System.Numerics;

namespace WarySentinel.Core.Markup;

/// <summary>An element that is open, and what the filter knows of it.</summary>
internal sealed class Open
{
    public Element Element = null!;

    /// <summary>Where its tag begins among the bytes that are held; -1 where it was let go of, or nothing waits for it.</summary>
    public long Start = -1;

    /// <summary>Whether it still has to be found out if it stays.</summary>
    public bool IsUndecided;

    /// <summary>Whether it is an entry, by its name or as the owner taught it.</summary>
    public bool IsEntry;

    /// <summary>Whether it stands in SVG or MathML.</summary>
    public bool IsForeign;

    /// <summary>Whether its end tag has come while blocks inside it were open: it ends with them.</summary>
    public bool HasEnded;

    /// <summary>Whether a link bears a mark at its end.</summary>
    public bool IsMarked;

    /// <summary>The order in which elements began that format text.</summary>
    public int Number;

    /// <summary>Whether it was dropped by a mark of its own.</summary>
    public bool IsDropped;

    /// <summary>What of the owner's selectors is met at it.</summary>
    public CssSelector.Met[]? Met;

    /// <summary>An entry that the owner taught.</summary>
    public TaughtState? Taught;

    /// <summary>Where a price begins that waits for the link of its entry; -1 for none.</summary>
    public long PriceFrom = -1;

    /// <summary>How its text is read as data; null for data of search engines.</summary>
    public string? Data;

    /// <summary>A hidden link, while it is open.</summary>
    public HiddenLink? Link;

    /// <summary>Where text begins that is looked at when it ends; -1 for none.</summary>
    public long TextStart = -1;

    /// <summary>Of a list or a group: entries that stay, and that went.</summary>
    public int Kept;
    public int Gone;

    /// <summary>Of an entry: whether something hidden stands in it, a link to something open, text of its own; and words outside hidden links.</summary>
    public bool HasHidden;
    public bool HasOpen;
    public bool HasProse;
    public int Words;

    public Open Again(Element element)
    {
        (Element, Start, IsUndecided, IsEntry, IsForeign, HasEnded, IsMarked, IsDropped) = (element, -1, false, false, false, false, false, false);
        (Met, Taught, PriceFrom, Data) = (null, null, -1, null);
        (Link, TextStart, Kept, Gone, HasHidden, HasOpen, HasProse, Words) = (null, -1, 0, 0, false, false, false, 0);
        return this;
    }
}

/// <summary>
/// The stack of open elements, and where on it the innermost of each sort stands, so that nobody searches a deep stack: what a page costs grows with its
/// size, not with its depth.
/// </summary>
internal sealed class OpenElements
{
    private const int Sorts = 11;
    private readonly List<Open> stack = [];
    private readonly List<int>[] bySort = [.. Enumerable.Range(0, Sorts).Select(_ => new List<int>())];
    private readonly List<int>?[] known = new List<int>?[Element.Count];
    private readonly Dictionary<string, List<int>> others = new(StringComparer.Ordinal);
    private readonly Stack<Open> spare = [];

    public int Count => stack.Count;

    public Open this[int at] => stack[at];

    public Open? Top => stack.Count > 0 ? stack[^1] : null;

    /// <summary>The innermost open one of an element, or -1.</summary>
    public int Of(Element element) => element.Number >= 0 ? known[element.Number] is { } places ? Last(places) : -1
        : others.TryGetValue(element.Name, out var rare) ? Last(rare) : -1;

    private List<int> PlacesOf(Element element) => element.Number >= 0 ? known[element.Number] ??= []
        : others.TryGetValue(element.Name, out var rare) ? rare : others[element.Name] = [];

    /// <summary>The innermost of a sort, or -1.</summary>
    public int Of(Traits sort) => Last(bySort[BitOperations.TrailingZeroCount((int)sort)]);

    /// <summary>The innermost entry that no bound of the page stands inside of; null for none.</summary>
    public Open? Entry => Of(Traits.Entry) is var entry && entry >= 0 && entry > Of(Traits.PageBound) ? stack[entry] : null;

    /// <summary>All open entries, the innermost first.</summary>
    public IEnumerable<Open> Entries
    {
        get
        {
            var entries = bySort[BitOperations.TrailingZeroCount((int)Traits.Entry)];
            for (var at = entries.Count - 1; at >= 0; at--)
            {
                yield return stack[entries[at]];
            }
        }
    }

    public Open Push(Element element, bool isEntry, bool isForeign = false)
    {
        var open = (spare.TryPop(out var used) ? used : new Open()).Again(element);
        (open.IsEntry, open.IsForeign, var at) = (isEntry, isForeign, stack.Count);
        PlacesOf(element).Add(at);
        for (var sorts = (uint)SortsOf(open); sorts != 0; sorts &= sorts - 1)
        {
            bySort[BitOperations.TrailingZeroCount(sorts)].Add(at);
        }

        stack.Add(open);
        return open;
    }

    /// <summary>Takes the innermost away. It can be looked at until the next is pushed.</summary>
    public Open Pop()
    {
        var (open, at) = (stack[^1], stack.Count - 1);
        stack.RemoveAt(at);
        Drop(PlacesOf(open.Element), at);
        for (var sorts = (uint)SortsOf(open); sorts != 0; sorts &= sorts - 1)
        {
            Drop(bySort[BitOperations.TrailingZeroCount(sorts)], at);
        }

        spare.Push(open);
        return open;
    }

    /// <summary>Ends an element while blocks inside it are open: its name is not found any more.</summary>
    public void End(int at)
    {
        stack[at].HasEnded = true;
        Drop(PlacesOf(stack[at].Element), at);
    }

    /// <summary>Where HTML stands in SVG or MathML again (HTML §13.2.6.5, “integration point”).</summary>
    public static bool IsIntegration(Element element) =>
        element.Name is "foreignobject" or "desc" or "title" or "annotation-xml" or "mi" or "mo" or "mn" or "ms" or "mtext";

    private static int SortsOf(Open open) => open.IsForeign
        ? IsIntegration(open.Element) ? (int)(Traits.Scope | Traits.ButtonScope | Traits.ListScope | Traits.Special | Traits.EntryBarrier) : 0
        : ((int)open.Element.Traits & ((1 << Sorts) - 1) & ~(int)Traits.Entry) | (open.IsEntry ? (int)Traits.Entry : 0);

    private static int Last(List<int> places) => places.Count == 0 ? -1 : places[^1];

    private static void Drop(List<int> places, int at)
    {
        if (places.Count > 0 && places[^1] == at)
        {
            places.RemoveAt(places.Count - 1);
        }
    }
}
