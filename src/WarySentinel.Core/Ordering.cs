namespace WarySentinel.Core;

/// <summary>Puts what people sort by hand into an order.</summary>
public static class Ordering
{
    /// <summary>How far apart positions are, so that something can be put between two.</summary>
    private const int Step = 10;

    /// <summary>These keys first, as they are named, the others behind as they stood; or the first key that is not there.</summary>
    /// <param name="all">What is sorted, in its order.</param>
    /// <param name="keyOf">Its key.</param>
    /// <param name="keys">The keys that come first.</param>
    public static (IReadOnlyList<T> Ordered, string? Unknown) Of<T>(IReadOnlyList<T> all, Func<T, string> keyOf, IReadOnlyList<string> keys)
    {
        var there = all.ToDictionary(keyOf, StringComparer.Ordinal);
        var named = keys.Select(k => k ?? "").Distinct().ToList();
        return named.Find(k => !there.ContainsKey(k)) is { } unknown ? ([], unknown)
            : ([.. named.Select(k => there[k]), .. all.Where(one => !named.Contains(keyOf(one)))], null);
    }

    /// <summary>The position of a place, from 0.</summary>
    public static int PositionAt(int place) => (place + 1) * Step;
}
