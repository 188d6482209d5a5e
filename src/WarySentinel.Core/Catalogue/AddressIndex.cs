namespace WarySentinel.Core.Catalogue;

/// <summary>Finds the items that a request's address belongs to.</summary>
internal sealed class AddressIndex
{
    private readonly Item[] items;
    private readonly PathRules rules;
    private readonly Dictionary<string, List<Entry>> literals = new(StringComparer.Ordinal);
    private readonly PathTree<Entry> patterns = new();

    public AddressIndex(Item[] items, PathRules rules)
    {
        (this.items, this.rules) = (items, rules);
        for (var i = 0; i < items.Length; i++)
        {
            foreach (var address in items[i].Addresses)
            {
                Add(new Entry(address, i));
            }
        }
    }

    /// <summary>
    /// The items of a request, in the order of their names: those with that very address, else those whose pattern has the longest literal prefix.
    /// Where an address with a query pair matches, only such addresses count. Several: all of them. See docs/explanation/decisions.md.
    /// </summary>
    public IReadOnlyList<int> Find(RequestPath request)
    {
        var found = new List<Entry>();
        if (literals.TryGetValue(request.Key, out var exact))
        {
            found.AddRange(exact);
        }

        patterns.Find(request.Segments, false, found);
        found.RemoveAll(e => !e.Address.MatchesPairs(request.Pairs, rules));
        if (found.Exists(e => e.Address.Pairs.Count > 0))
        {
            found.RemoveAll(e => e.Address.Pairs.Count == 0);
        }

        if (found.Count == 0)
        {
            return [];
        }

        var nearest = found.Max(e => e.Address.RankUnder(rules));
        return found.Count == 1 ? [found[0].Place]
            : [.. found.Where(e => e.Address.RankUnder(rules) == nearest).Select(e => e.Place).Distinct().OrderBy(p => items[p].Id)];
    }

    /// <summary>Adds the items whose patterns match one of the item's literal addresses; the site is not among them.</summary>
    public void AddImplied(Item item, int place, SortedSet<int> parents)
    {
        if (patterns.IsEmpty)
        {
            return;
        }

        var found = new List<Entry>();
        foreach (var address in item.Addresses.Where(a => !a.IsPattern))
        {
            found.Clear();
            patterns.Find(address.SegmentsUnder(rules), false, found);
            foreach (var entry in found)
            {
                if (entry.Place != place && entry.Place != CatalogueGraph.Root && entry.Address.MatchesPairs(address.PairsUnder(rules), rules))
                {
                    parents.Add(entry.Place);
                }
            }
        }
    }

    private void Add(Entry entry)
    {
        var address = entry.Address;
        if (address.IsPattern)
        {
            patterns.Add(address.SegmentsUnder(rules), entry);
            return;
        }

        var key = rules.Fold(address.PathText);
        if (!literals.TryGetValue(key, out var list))
        {
            literals.Add(key, list = []);
        }

        list.Add(entry);
    }

    private sealed record Entry(Address Address, int Place);
}
