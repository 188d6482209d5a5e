namespace WarySentinel.Core.Catalogue;

/// <summary>The items as a graph: who stands beneath whom, with the edges that addresses imply. Immutable and free of cycles.</summary>
public sealed partial class CatalogueGraph
{
    private const int Many = 5000;
    private static readonly int[] BeneathSite = [Root];
    private readonly Item[] items;
    private readonly Dictionary<ItemId, int> index;
    private readonly int[][] parents;
    private readonly int[][] children;

    private CatalogueGraph(Item[] items, Dictionary<ItemId, int> index, int[][] parents, int[][] children, int[] order, AddressIndex addresses,
        PathRules rules) =>
        (this.items, this.index, this.parents, this.children, Order, Addresses, Rules) = (items, index, parents, children, order, addresses, rules);

    /// <summary>All items; the site stands first.</summary>
    public IReadOnlyList<Item> Items => items;

    /// <summary>How the site reads addresses.</summary>
    public PathRules Rules { get; }

    /// <summary>The place of the site in <see cref="Items"/>.</summary>
    public const int Root = 0;

    /// <summary>Places of items such that parents come before children.</summary>
    internal int[] Order { get; }

    /// <summary>Finds items by the address of a request.</summary>
    internal AddressIndex Addresses { get; }

    /// <summary>Builds the graph, or says which item breaks it: a duplicate, a missing parent, a cycle.</summary>
    public static Outcome<CatalogueGraph> Build(IEnumerable<Item> source, PathRules rules)
    {
        var index = new Dictionary<ItemId, int>();
        var numbered = Number(source as IReadOnlyCollection<Item> ?? [.. source], index);
        if (numbered.Problem is { } twice)
        {
            return twice;
        }

        var all = numbered.Value;
        // By two processors at once where there is much to do; a start waits for it.
        var addressing = all.Length < Many ? null : Task.Run(() => new AddressIndex(all, rules));
        var named = NamedParents(all, index);
        if (named.Problem is { } missing)
        {
            return missing;
        }

        var (parents, addresses) = (named.Value, addressing?.GetAwaiter().GetResult() ?? new AddressIndex(all, rules));
        for (var i = 1; i < all.Length; i++)
        {
            parents[i] = addresses.WithImplied(all[i], i, parents[i]) is { Length: > 0 } some ? some : BeneathSite;
        }

        var children = Children(parents);
        var order = Sort(parents, children);
        return order.Length == all.Length ? new CatalogueGraph(all, index, parents, children, order, addresses, rules)
            : Problem.In("parents", "item-cycle", Rings.Told(Rings.Of(parents)[0].Select(i => all[i].Id)));
    }

    /// <summary>The items with the site first, each under its place.</summary>
    private static Outcome<Item[]> Number(IReadOnlyCollection<Item> given, Dictionary<ItemId, int> index)
    {
        var items = new List<Item>(given.Count + 1);
        index.EnsureCapacity(given.Count + 1);
        var site = given.Where(i => i.Id.Kind == ItemKind.Site).DefaultIfEmpty(Item.Root("site"));
        foreach (var item in site.Concat(given.Where(i => i.Id.Kind != ItemKind.Site)))
        {
            if (!index.TryAdd(item.Id, items.Count))
            {
                return Problem.In("key", "item-exists", item.Id);
            }

            items.Add(item);
        }

        return items.ToArray();
    }

    /// <summary>The places of the parents that each item names.</summary>
    private static Outcome<int[][]> NamedParents(Item[] all, Dictionary<ItemId, int> index)
    {
        var parents = new int[all.Length][];
        parents[Root] = [];
        for (var i = 1; i < all.Length; i++)
        {
            var named = new int[all[i].Parents.Count];
            for (var n = 0; n < named.Length; n++)
            {
                var parent = all[i].Parents[n];
                if (!index.TryGetValue(parent, out named[n]))
                {
                    var near = Nearest.To(parent.ToString(), index.Count > 5000 ? [] : index.Keys.Select(k => k.ToString()));
                    return near is null ? Problem.In("parents", "parent-missing", all[i].Id, parent)
                        : Problem.In("parents", "parent-missing-near", all[i].Id, parent, near);
                }
            }

            parents[i] = named;
        }

        return parents;
    }

    /// <summary>
    /// The sets of items that stand beneath each other in a ring, those that addresses imply included. A parent that is missing counts as
    /// none.
    /// </summary>
    public static IReadOnlyList<IReadOnlyList<ItemId>> RingsAmong(IEnumerable<Item> source, PathRules rules)
    {
        // The site stands first, as in every graph: it is nobody's parent by an address.
        var given = source.ToList();
        var all = given.Where(i => i.Id == ItemId.Site).DefaultIfEmpty(Item.Root("site")).Concat(given.Where(i => i.Id != ItemId.Site)).ToArray();
        var index = new Dictionary<ItemId, int>();
        for (var i = 0; i < all.Length; i++)
        {
            index.TryAdd(all[i].Id, i);
        }

        var addresses = new AddressIndex(all, rules);
        var parents = new int[all.Length][];
        for (var i = 0; i < all.Length; i++)
        {
            int[] named = [.. all[i].Parents.Select(p => index.GetValueOrDefault(p, -1)).Where(p => p >= 0)];
            parents[i] = all[i].Id == ItemId.Site ? [] : addresses.WithImplied(all[i], i, named);
        }

        return [.. Rings.Of(parents).Select(ring => (IReadOnlyList<ItemId>)[.. ring.Select(i => all[i].Id)])];
    }

    /// <summary>The place of an item, or -1.</summary>
    public int PlaceOf(ItemId id) => index.TryGetValue(id, out var at) ? at : -1;

    /// <summary>The items of whatever kind that have that key, but for the site; none for what is no key.</summary>
    public IEnumerable<ItemId> WithKey(string key) => !CatalogueKey.IsValid(key) ? []
        : Enum.GetValues<ItemKind>().Select(kind => new ItemId(kind, key)).Where(id => id != ItemId.Site && PlaceOf(id) >= 0);

    /// <summary>The item of that name, or null.</summary>
    public Item? Find(ItemId id) => index.TryGetValue(id, out var at) ? items[at] : null;

    /// <summary>The places right above a place.</summary>
    public IReadOnlyList<int> ParentsOf(int place) => parents[place];

    /// <summary>The places right beneath a place.</summary>
    public IReadOnlyList<int> ChildrenOf(int place) => children[place];

    /// <summary>The item itself and all beneath it, each once.</summary>
    public IReadOnlyList<int> Branch(int place)
    {
        var seen = new HashSet<int> { place };
        var found = new List<int> { place };
        for (var i = 0; i < found.Count; i++)
        {
            foreach (var child in children[found[i]])
            {
                if (seen.Add(child))
                {
                    found.Add(child);
                }
            }
        }

        return found;
    }

    private static int[][] Children(int[][] parents)
    {
        var counts = new int[parents.Length];
        foreach (var mine in parents)
        {
            foreach (var p in mine)
            {
                counts[p]++;
            }
        }

        var children = Array.ConvertAll(counts, c => c == 0 ? [] : new int[c]);
        Array.Clear(counts);
        for (var i = 0; i < parents.Length; i++)
        {
            foreach (var p in parents[i])
            {
                children[p][counts[p]++] = i;
            }
        }

        return children;
    }

    private static int[] Sort(int[][] parents, int[][] children)
    {
        var open = Array.ConvertAll(parents, p => p.Length);
        var order = new List<int>(parents.Length);
        for (var i = 0; i < parents.Length; i++)
        {
            if (open[i] == 0)
            {
                order.Add(i);
            }
        }

        for (var i = 0; i < order.Count; i++)
        {
            foreach (var child in children[order[i]])
            {
                if (--open[child] == 0)
                {
                    order.Add(child);
                }
            }
        }

        return [.. order];
    }
}
