namespace WarySentinel.Core.Catalogue;

/// <summary>Finds the items that a request's address belongs to.</summary>
internal sealed class AddressIndex
{
    private readonly Item[] items;
    private readonly PathRules rules;
    private readonly Dictionary<string, Entry> literals;
    private readonly PathTree<Entry> patterns = new(false);

    public AddressIndex(Item[] items, PathRules rules)
    {
        (this.items, this.rules) = (items, rules);
        literals = new Dictionary<string, Entry>(items.Length, StringComparer.Ordinal);
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
        for (var exact = literals.GetValueOrDefault(request.Key); exact is not null; exact = exact.Next)
        {
            found.Add(exact);
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

    /// <summary>Whether an address that matches the path, its query aside, asks for a pair of the query.</summary>
    public bool AsksForPairs(RequestPath request)
    {
        for (var exact = literals.GetValueOrDefault(request.Key); exact is not null; exact = exact.Next)
        {
            if (exact.Address.Pairs.Count > 0)
            {
                return true;
            }
        }

        var found = new List<Entry>();
        patterns.Find(request.Segments, false, found);
        return found.Exists(e => e.Address.Pairs.Count > 0);
    }

    /// <summary>
    /// The places of an item's parents in order, each once: those that it names, and the items whose patterns match one of its literal addresses; by
    /// those, the site is not among them.
    /// </summary>
    public int[] WithImplied(Item item, int place, int[] named)
    {
        if (named.Length < 2 && (patterns.IsEmpty || item.Addresses.Count == 0))
        {
            return named;
        }

        var parents = new SortedSet<int>(named);
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

        return [.. parents];
    }

    private void Add(Entry entry)
    {
        var address = entry.Address;
        if (address.IsPattern)
        {
            patterns.Add(address.SegmentsUnder(rules), entry);
            return;
        }

        ref var first = ref System.Runtime.InteropServices.CollectionsMarshal.GetValueRefOrAddDefault(literals, rules.Fold(address.PathText), out _);
        entry.Next = first;
        first = entry;
    }

    /// <summary>An address of an item; several at one and the same literal address hang together.</summary>
    private sealed class Entry(Address address, int place)
    {
        public Address Address => address;

        public int Place => place;

        public Entry? Next { get; set; }
    }
}
