namespace WarySentinel.Core.Catalogue;

/// <summary>Finds the items that a request's address belongs to.</summary>
internal sealed class AddressIndex
{
    private readonly PathRules rules;
    private readonly Dictionary<string, List<Entry>> literals = new(StringComparer.Ordinal);
    private readonly Dictionary<string, List<Entry>> patternsByFirst = new(StringComparer.Ordinal);
    private readonly List<Entry> patternsAnywhere = [];

    public AddressIndex(Item[] items, PathRules rules)
    {
        this.rules = rules;
        for (var i = 0; i < items.Length; i++)
        {
            foreach (var address in items[i].Addresses)
            {
                Add(new Entry(address, i));
            }
        }
    }

    /// <summary>What a request's path resolved to.</summary>
    /// <param name="Places">The items; several when readings are equally near. Empty when it belongs to none.</param>
    /// <param name="ByPattern">Whether a pattern matched and not a literal address.</param>
    public readonly record struct Found(IReadOnlyList<int> Places, bool ByPattern);

    public Found Find(RequestPath request)
    {
        if (literals.TryGetValue(request.Key, out var entries))
        {
            var exact = entries.Where(e => e.Address.MatchesPairs(request, rules)).ToList();
            if (exact.Exists(e => e.Address.Pairs.Count > 0))
            {
                exact.RemoveAll(e => e.Address.Pairs.Count == 0);
            }

            if (exact.Count > 0)
            {
                return new Found([.. exact.Select(e => e.Place).Distinct()], false);
            }
        }

        List<int> best = [];
        var longest = -1;
        foreach (var entry in Patterns(request.Key))
        {
            if (entry.Address.LiteralPrefix >= longest && entry.Address.Matches(request, rules))
            {
                if (entry.Address.LiteralPrefix > longest)
                {
                    longest = entry.Address.LiteralPrefix;
                    best.Clear();
                }

                if (!best.Contains(entry.Place))
                {
                    best.Add(entry.Place);
                }
            }
        }

        return new Found(best, true);
    }

    /// <summary>Adds the items whose patterns match one of the item's literal addresses.</summary>
    public void AddImplied(Item item, int place, SortedSet<int> parents)
    {
        if (patternsByFirst.Count == 0 && patternsAnywhere.Count == 0)
        {
            return;
        }

        foreach (var address in item.Addresses)
        {
            if (address.IsPattern)
            {
                continue;
            }

            foreach (var entry in Patterns(RequestPath.Fold(address.PathText, rules)))
            {
                if (entry.Place != place && entry.Place != CatalogueGraph.Root && entry.Address.Covers(address, rules))
                {
                    parents.Add(entry.Place);
                }
            }
        }
    }

    private void Add(Entry entry)
    {
        var address = entry.Address;
        if (!address.IsPattern)
        {
            Into(literals, RequestPath.Fold(address.PathText, rules), entry);
            return;
        }

        if (address.Segments[0] is "*" or "**")
        {
            patternsAnywhere.Add(entry);
        }
        else
        {
            Into(patternsByFirst, RequestPath.Fold("/" + address.Segments[0], rules), entry);
        }
    }

    private IEnumerable<Entry> Patterns(string key)
    {
        var slash = key.IndexOf('/', 1);
        var first = slash < 0 ? key : key[..slash];
        return patternsByFirst.TryGetValue(first, out var near) ? near.Concat(patternsAnywhere) : patternsAnywhere;
    }

    private static void Into(Dictionary<string, List<Entry>> map, string key, Entry entry)
    {
        if (!map.TryGetValue(key, out var list))
        {
            map.Add(key, list = []);
        }

        list.Add(entry);
    }

    private sealed record Entry(Address Address, int Place);
}
