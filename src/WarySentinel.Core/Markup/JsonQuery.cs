namespace WarySentinel.Core.Markup;

/// <summary>The steps of a path, from the outermost value or from the one that is looked at.</summary>
/// <param name="IsWhole">Whether it starts at the outermost value.</param>
/// <param name="Segments">Its steps.</param>
internal sealed record JsonQuery(bool IsWhole, IReadOnlyList<JsonSegment> Segments)
{
    /// <summary>Whether it selects one value at most (RFC 9535 §2.3.5.1, “singular”).</summary>
    public bool IsSingular => Segments.All(s => !s.IsDeep && s.IsOne);

    /// <summary>The values that it selects, each once.</summary>
    public IReadOnlyList<int> Select(JsonSight sight, IEnumerable<int> from)
    {
        var found = from.ToList();
        foreach (var segment in Segments)
        {
            found = segment.Select(sight, found);
        }

        return found;
    }
}

/// <summary>A step: what is selected of each value, or of each and all that is inside it (RFC 9535 §2.5).</summary>
internal sealed record JsonSegment(bool IsDeep, IReadOnlyList<JsonSelector> Selectors)
{
    /// <summary>Whether it names one value.</summary>
    public bool IsOne => Selectors is [NameSelector or PlaceSelector];

    /// <summary>Whether it selects all there are.</summary>
    public bool IsAny => Selectors is [AnySelector];

    public List<int> Select(JsonSight sight, List<int> from)
    {
        var found = new List<int>();
        if (!IsDeep)
        {
            from.ForEach(at => Add(sight, at, found));
            return Once(found);
        }

        // In order of the text, what stands inside another was looked through with it.
        var until = -1;
        foreach (var start in from.Order())
        {
            for (var at = Math.Max(start, until); at < sight.Tree[start].Next; at++)
            {
                Add(sight, at, found);
            }

            until = Math.Max(until, sight.Tree[start].Next);
        }

        return Once(found);
    }

    private List<int> Once(List<int> found) => Selectors.Count > 1 ? [.. found.Distinct()] : found;

    private void Add(JsonSight sight, int at, List<int> found)
    {
        foreach (var selector in Selectors)
        {
            found.AddRange(selector.Of(sight, at));
        }
    }
}

/// <summary>Selects of what stands in a value (RFC 9535 §2.3).</summary>
internal abstract record JsonSelector
{
    public abstract IEnumerable<int> Of(JsonSight sight, int at);
}

/// <summary>All.</summary>
internal sealed record AnySelector : JsonSelector
{
    public override IEnumerable<int> Of(JsonSight sight, int at) => sight.Tree.Inside(at);
}

/// <summary>Those of a name in an object.</summary>
internal sealed record NameSelector(string Name) : JsonSelector
{
    public override IEnumerable<int> Of(JsonSight sight, int at) => sight.Tree.Inside(at).Where(child => sight.Tree[child].Name == Name);
}

/// <summary>The one at a place in a list; counted from the end where it is negative.</summary>
internal sealed record PlaceSelector(long Place) : JsonSelector
{
    public override IEnumerable<int> Of(JsonSight sight, int at)
    {
        if (!sight.Tree.IsList(at))
        {
            return [];
        }

        var place = Place < 0 ? sight.Tree.Inside(at).Count() + Place : Place;
        return place is >= 0 and < int.MaxValue ? sight.Tree.Inside(at).Skip((int)place).Take(1) : [];
    }
}

/// <summary>Some of a list (RFC 9535 §2.3.4): from one place to before another, so many at a step; backwards where the step is negative.</summary>
internal sealed record SliceSelector(long? From, long? To, long Step) : JsonSelector
{
    public override IEnumerable<int> Of(JsonSight sight, int at)
    {
        if (!sight.Tree.IsList(at) || Step == 0)
        {
            yield break;
        }

        var inside = sight.Tree.Inside(at).ToList();
        var (count, isOnwards) = (inside.Count, Step > 0);
        var (from, to) = (Place(From ?? (isOnwards ? 0 : count - 1), count), Place(To ?? (isOnwards ? count : -count - 1), count));
        var (low, high) = isOnwards ? (Math.Clamp(from, 0, count), Math.Clamp(to, 0, count))
            : (Math.Clamp(to, -1, count - 1), Math.Clamp(from, -1, count - 1));
        for (var place = isOnwards ? low : high; isOnwards ? place < high : place > low; place += Step)
        {
            yield return inside[(int)place];
        }
    }

    private static long Place(long said, int count) => said >= 0 ? said : count + said;
}

/// <summary>Those of which something holds (RFC 9535 §2.3.5).</summary>
internal sealed record FilterSelector(JsonTest Test) : JsonSelector
{
    public override IEnumerable<int> Of(JsonSight sight, int at) => sight.Tree.Inside(at).Where(child => Test.Holds(sight, child));
}
