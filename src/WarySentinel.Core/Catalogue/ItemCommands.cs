namespace WarySentinel.Core.Catalogue;

/// <summary>What an import would do, or did.</summary>
/// <param name="Added">Items that were not there.</param>
/// <param name="Changed">Items that say something else now.</param>
/// <param name="Same">Items that say the same.</param>
/// <param name="Faults">What is wrong, by line and column; a bounded number of them.</param>
/// <param name="FaultyRows">How many rows were not good.</param>
/// <param name="Stored">Whether anything was stored.</param>
public sealed record ImportResult(int Added, int Changed, int Same, IReadOnlyList<Fault> Faults, int FaultyRows, bool Stored);

/// <summary>Adds, changes, drops and imports items.</summary>
public static class ItemCommands
{
    /// <summary>Most faults told of one import.</summary>
    public const int MostFaults = 200;

    private const int MostRounds = 50;

    /// <summary>Adds one item.</summary>
    public static Outcome<Edit<Item>> Add(CatalogueGraph graph, ItemDraft draft, IReadOnlyList<string> reserved)
    {
        var faults = new List<Fault>();
        if (draft.Read(reserved, faults) is not { } item)
        {
            return new Problem(ProblemKind.Invalid, "item-invalid", faults[0].Message, faults);
        }

        return graph.PlaceOf(item.Id) >= 0 && item.Id != ItemId.Site
            ? Problem.Of(ProblemKind.Conflict, "item-exists", item.Id)
            : Checked(graph, "item.add", item);
    }

    /// <summary>Changes one item. A problem when it changed since the version that was read.</summary>
    public static Outcome<Edit<Item>> Set(CatalogueGraph graph, ItemId id, ItemDraft draft, int? version, IReadOnlyList<string> reserved)
    {
        if (graph.Find(id) is not { } old)
        {
            return Problem.Of(ProblemKind.NotFound, "item-unknown", id);
        }

        if (version is not null && version != old.Version)
        {
            return Problem.Of(ProblemKind.Stale, "stale", id);
        }

        var faults = new List<Fault>();
        return (draft with { Id = id.ToString() }).Read(reserved, faults) is { } item
            ? Checked(graph, "item.set", item with { Version = old.Version + 1 })
            : new Problem(ProblemKind.Invalid, "item-invalid", faults[0].Message, faults);
    }

    /// <summary>
    /// Drops one item. Refused while items stand beneath it, a gate names it (<paramref name="gateNaming"/> gives its key), or it belongs to something else
    /// (<paramref name="holding"/> says to what); a problem when it changed since the version that was read.
    /// </summary>
    public static Outcome<Edit<Item>> Remove(
        CatalogueGraph graph, ItemId id, int? version, Func<ItemId, string?> gateNaming, Func<ItemId, string?>? holding = null)
    {
        if (graph.Find(id) is not { } old || id == ItemId.Site)
        {
            return Problem.Of(ProblemKind.NotFound, "item-unknown", id);
        }

        if (version is not null && version != old.Version)
        {
            return Problem.Of(ProblemKind.Stale, "stale", id);
        }

        var child = graph.Items.FirstOrDefault(i => i.Parents.Contains(id));
        if (child is not null)
        {
            return Problem.Of(ProblemKind.Conflict, "item-has-children", id, child.Id);
        }

        if (holding?.Invoke(id) is { } whole)
        {
            return Problem.Of(ProblemKind.Conflict, "item-held", id, whole);
        }

        return gateNaming(id) is { } gate
            ? Problem.Of(ProblemKind.Conflict, "item-in-gate", id, gate)
            : new Edit<Item>(new Edit("item.remove", id.ToString(), [new ItemsDropped([id])], old.Title)
            { Detail = Detail.Of(ItemDraft.Of(old), null) }, old);
    }

    /// <summary>
    /// Checks all rows first; nothing is to be stored unless all are good, or <paramref name="keepGood"/> says to store the good ones.
    /// A row that makes others bad (a parent missing, a cycle) counts as bad itself.
    /// </summary>
    public static (ImportResult Result, Edit? Edit) Import(
        CatalogueGraph graph, IReadOnlyList<ItemDraft> rows, IReadOnlyList<Fault> already, bool keepGood, IReadOnlyList<string> reserved, bool alone = false)
    {
        // Alone, the rows are the whole catalogue: no parent may stand in what was there before.
        IReadOnlyList<Item> there = alone ? [] : graph.Items;
        bool IsThere(ItemId id) => id == ItemId.Site || (!alone && graph.PlaceOf(id) >= 0);
        var faults = new List<Fault>(already);
        var badLines = already.Select(f => f.Line ?? 0).ToHashSet();
        var fresh = Fresh(rows, reserved, faults, badLines);
        DropOrphans(IsThere, fresh, faults, badLines);
        BreakCycles(there, graph.Rules, IsThere, fresh, faults, badLines);
        DropOrphans(IsThere, fresh, faults, badLines);
        var (added, changed, same) = Against(graph, fresh.Values.Select(f => f.Item));
        var store = (badLines.Count == 0 || keepGood) && added.Count + changed.Count > 0;
        var result = new ImportResult(
            added.Count, changed.Count, same, [.. faults.OrderBy(f => f.Line).ThenBy(f => f.Column).Take(MostFaults)], badLines.Count, store);
        return (result, store
            ? new Edit("item.import", Words.Of("import.summary", added.Count, changed.Count), [new ItemsPut([.. added, .. changed])])
            : null);
    }

    /// <summary>The good rows, each item once.</summary>
    private static Dictionary<ItemId, (Item Item, int? Line)> Fresh(
        IReadOnlyList<ItemDraft> rows, IReadOnlyList<string> reserved, List<Fault> faults, HashSet<int> badLines)
    {
        var fresh = new Dictionary<ItemId, (Item Item, int? Line)>();
        foreach (var row in rows)
        {
            if (row.Read(reserved, faults) is not { } item)
            {
                badLines.Add(row.Line ?? 0);
            }
            else if (fresh.TryGetValue(item.Id, out var first))
            {
                faults.Add(new Fault("id", Wording.Of("import.duplicate", item.Id, first.Line), row.Line, 1));
                badLines.Add(row.Line ?? 0);
            }
            else
            {
                fresh.Add(item.Id, (item, row.Line));
            }
        }

        return fresh;
    }

    private static (List<Item> Added, List<Item> Changed, int Same) Against(CatalogueGraph graph, IEnumerable<Item> items)
    {
        var (added, changed, same) = (new List<Item>(), new List<Item>(), 0);
        foreach (var item in items)
        {
            var old = graph.Find(item.Id);
            if (old is null || (item.Id == ItemId.Site && old.Version == 0))
            {
                added.Add(item);
            }
            else if (old.SaysTheSameAs(item))
            {
                same++;
            }
            else
            {
                changed.Add(item with { Version = old.Version + 1 });
            }
        }

        return (added, changed, same);
    }

    private static Outcome<Edit<Item>> Checked(CatalogueGraph graph, string action, Item item)
    {
        var next = CatalogueGraph.Build(graph.Items.Where(i => i.Id != item.Id).Append(item), graph.Rules);
        return next.IsGood
            ? new Edit<Item>(
                new Edit(action, item.Id.ToString(), [new ItemsPut([item])], graph.Find(item.Id)?.Title, item.Title)
                {
                    Detail = Detail.Of(graph.Find(item.Id) is { } old ? ItemDraft.Of(old) : null, ItemDraft.Of(item)),
                },
                item)
            : next.Problem!;
    }

    private static void DropOrphans(Func<ItemId, bool> isThere, Dictionary<ItemId, (Item Item, int? Line)> fresh, List<Fault> faults, HashSet<int> badLines)
    {
        var children = new Dictionary<ItemId, List<ItemId>>();
        var bad = new Queue<ItemId>();
        foreach (var (id, (item, line)) in fresh)
        {
            foreach (var parent in item.Parents)
            {
                if (fresh.ContainsKey(parent))
                {
                    (children.TryGetValue(parent, out var list) ? list : children[parent] = []).Add(id);
                }
                else if (!isThere(parent))
                {
                    faults.Add(new Fault("parents", Wording.Of("import.parent-missing", id, parent), line, line is null ? null : 3));
                    bad.Enqueue(id);
                    break;
                }
            }
        }

        DropBeneath(bad, children, isThere, fresh, badLines, (child, above, line) =>
            faults.Add(new Fault("parents", Wording.Of("import.parent-bad", child, above), line, line is null ? null : 3)));
    }

    /// <summary>Drops rows, and those that have no other place than beneath them.</summary>
    private static void DropBeneath(
        Queue<ItemId> bad, Dictionary<ItemId, List<ItemId>> children, Func<ItemId, bool> isThere, Dictionary<ItemId, (Item Item, int? Line)> fresh,
        HashSet<int> badLines,
        Action<ItemId, ItemId, int?> orphaned)
    {
        while (bad.TryDequeue(out var id))
        {
            if (!fresh.Remove(id, out var dropped))
            {
                continue;
            }

            badLines.Add(dropped.Line ?? 0);
            foreach (var child in children.TryGetValue(id, out var beneath) && !isThere(id) ? beneath : [])
            {
                if (fresh.TryGetValue(child, out var orphan))
                {
                    orphaned(child, id, orphan.Line);
                    bad.Enqueue(child);
                }
            }
        }
    }

    /// <summary>Drops the rows of every ring of parents: one fault a ring, however many items are in it or beneath it.</summary>
    private static void BreakCycles(
        IReadOnlyList<Item> there, PathRules rules, Func<ItemId, bool> isThere, Dictionary<ItemId, (Item Item, int? Line)> fresh, List<Fault> faults,
        HashSet<int> badLines)
    {
        // Where a row goes, what stood there before counts again, and may close another ring; each round drops a row at least.
        for (var round = 0; round < MostRounds; round++)
        {
            var rings = CatalogueGraph.RingsAmong(there.Where(i => !fresh.ContainsKey(i.Id)).Concat(fresh.Values.Select(f => f.Item)), rules);
            if (rings.Count == 0)
            {
                return;
            }

            var children = fresh.SelectMany(f => f.Value.Item.Parents.Select(p => (Parent: p, f.Key))).GroupBy(p => p.Parent)
                .ToDictionary(g => g.Key, g => g.Select(p => p.Key).ToList());
            foreach (var ring in rings)
            {
                var rows = ring.Where(fresh.ContainsKey).ToList();
                var line = rows.Select(r => fresh[r].Line).Min();
                var beneath = new HashSet<ItemId>();
                DropBeneath(new Queue<ItemId>(rows), children, isThere, fresh, badLines, (child, _, _) => beneath.Add(child));
                beneath.ExceptWith(ring);
                var told = Wording.Of("problem.item-cycle", Rings.Told(ring));
                told = beneath.Count > 0 ? Wording.Joined([told, Wording.Count("import.beneath-ring", beneath.Count)]) : told;
                faults.Add(new Fault("parents", told, line, line is null ? null : 3));
            }
        }

        faults.Add(new Fault("parents", Wording.Of("import.too-tangled")));
        badLines.UnionWith(fresh.Values.Select(f => f.Line ?? 0));
        fresh.Clear();
    }
}
