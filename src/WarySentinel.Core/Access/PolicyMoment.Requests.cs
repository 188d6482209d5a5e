using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>What applies to requests, and by which ways.</summary>
internal sealed partial class PolicyMoment
{
    private const int MostResolved = 20_000;
    private const int LongestKept = 256;

    /// <summary>Farther off than any item, nearer than the site.</summary>
    private const int PathDistance = int.MaxValue - 1;

    private const int SiteDistance = int.MaxValue;

    private readonly Recent<(Gate[] Gates, Acts Act)> resolved = new(MostResolved);
    private readonly Recent<bool> queryCounts = new(MostResolved);
    private readonly Recent<ResolvedRequest> byTarget = new(MostResolved);

    /// <summary>One gate and how it reached.</summary>
    internal readonly record struct Reached(Gate Gate, IReadOnlyList<ItemId> Way, Address? Pattern);

    /// <summary>The gates that apply to a request, and the acts it attempts. Lately asked ones are kept.</summary>
    public (Gate[] Gates, Acts Act) Resolve(RequestPath path)
    {
        var key = path.Query.Length == 0 || !QueryCounts(path) ? path.Key : $"{path.Key}?{path.Query}";
        if (resolved.TryGet(key, out var known))
        {
            return known;
        }

        var found = graph.Addresses.Find(path);
        known = (DistinctGates(Numbers(path, found)), ActsAt(graph, found));
        return Keep(resolved, key, known);
    }

    /// <summary>
    /// Whether the query can make a difference at a path: only where an item's address or a gate's pattern that matches the path asks for a pair of it.
    /// Elsewhere one answer is kept for the path, whatever is asked behind it.
    /// </summary>
    private bool QueryCounts(RequestPath path)
    {
        if (queryCounts.TryGet(path.Key, out var known))
        {
            return known;
        }

        var (required, lifting) = (new List<int>(), new List<Address>());
        requiredPaths.Find(path.Segments, false, required);
        exemptPaths.Find(path.Segments, false, lifting);
        return Keep(queryCounts, path.Key, graph.Addresses.AsksForPairs(path) || required.Exists(n => requirements[n].Pattern!.Pairs.Count > 0)
            || lifting.Exists(a => a.Pairs.Count > 0));
    }

    /// <summary>What a raw target comes to, or why it has no single reading. Lately asked ones are kept.</summary>
    public (ResolvedRequest? Request, PathFault Fault) Resolve(string target)
    {
        if (byTarget.TryGet(target, out var known))
        {
            return (known, PathFault.None);
        }

        if (!RequestPath.TryNormalise(target, rules, out var path, out var fault))
        {
            return (null, fault);
        }

        var (applying, act) = Resolve(path);
        return (Keep(byTarget, target, new ResolvedRequest(path, applying, act)), PathFault.None);
    }

    /// <summary>What a request for an address attempts: opening it, and downloading or listening where that is what it gives.</summary>
    public static Acts ActsAt(CatalogueGraph graph, IReadOnlyList<int> found)
    {
        var act = Acts.Open;
        foreach (var place in found)
        {
            act |= graph.Items[place].Id.Kind switch
            {
                ItemKind.Download => Acts.Download,
                ItemKind.Episode => Acts.Listen,
                _ => Acts.None,
            };
        }

        return act;
    }

    /// <summary>The gates on an item by name with the ways by which they reached it, nearest first.</summary>
    public IReadOnlyList<Reached> ReasonsOnItem(int place) => Sorted([place], onItem[place]);

    /// <summary>The gates on a request with the ways by which they reached it, nearest first.</summary>
    public IReadOnlyList<Reached> ReasonsOnPath(RequestPath path, IReadOnlyList<int> found) => Sorted(found, Numbers(path, found));

    /// <summary>Keeps what was worked out, within bounds that a flood of made-up addresses cannot push.</summary>
    private static T Keep<T>(Recent<T> kept, string key, T value)
    {
        if (key.Length <= LongestKept)
        {
            kept.Keep(key, value);
        }

        return value;
    }

    /// <summary>The requirements that apply to a request for an address that belongs to those items, or to none.</summary>
    private HashSet<int> Numbers(RequestPath path, IReadOnlyList<int> found)
    {
        var matching = new List<int>();
        requiredPaths.Find(path.Segments, false, matching);
        matching.RemoveAll(n => !requirements[n].Pattern!.MatchesPairs(path.Pairs, rules));
        var rank = ExemptRank(path.Segments, false, path.Pairs);
        if (found.Count == 0)
        {
            return [.. (rank > SiteRank ? [] : onSite).Concat(matching.Where(n => requirements[n].Rank >= rank))];
        }

        var numbers = new HashSet<int>();
        foreach (var place in found)
        {
            // An item is as closed at each of its addresses as a pattern makes it that matches any of them.
            var paths = byPath.TryGetValue(place, out var reaching) ? matching.Concat(reaching) : matching;
            numbers.UnionWith(Lifted(place, viaItems[place], paths, rank));
        }

        return numbers;
    }

    private List<Reached> Sorted(IReadOnlyList<int> places, IEnumerable<int> numbers)
    {
        var ways = new Dictionary<int, int[]>();
        foreach (var place in places)
        {
            AddWays(place, ways);
        }

        var nearest = new Dictionary<int, (int Distance, Reached Reached)>();
        foreach (var number in numbers.Order())
        {
            var (gate, place, pattern, _) = requirements[number];
            int[] way = pattern is not null ? [] : ways.GetValueOrDefault(number) ?? [CatalogueGraph.Root];
            var distance = pattern is not null ? PathDistance : place == CatalogueGraph.Root ? SiteDistance : way.Length;
            if (!nearest.TryGetValue(gate, out var known) || distance < known.Distance)
            {
                nearest[gate] = (distance, new Reached(gates[gate], [.. way.Select(p => graph.Items[p].Id)], pattern));
            }
        }

        return [.. nearest.Values.OrderBy(f => f.Distance).ThenBy(f => f.Reached.Gate.Key, StringComparer.Ordinal).Select(f => f.Reached)];
    }

    /// <summary>Adds the shortest unlifted way from an item up to each requirement that an item bears, both ends included.</summary>
    private void AddWays(int place, Dictionary<int, int[]> ways)
    {
        var cameFrom = new Dictionary<int, int> { [place] = -1 };
        var queue = new Queue<int>();
        queue.Enqueue(place);
        while (queue.TryDequeue(out var at))
        {
            foreach (var number in own[at])
            {
                if (at == place || !gates[requirements[number].Gate].ItemOnly)
                {
                    var way = WayTo(at, cameFrom);
                    if (!ways.TryGetValue(number, out var known) || way.Length < known.Length)
                    {
                        ways[number] = way;
                    }
                }
            }

            if (at == place ? exempt[at] : exemptBranch[at])
            {
                continue;
            }

            foreach (var parent in graph.ParentsOf(at).OrderBy(p => graph.Items[p].Id))
            {
                if (cameFrom.TryAdd(parent, at))
                {
                    queue.Enqueue(parent);
                }
            }
        }
    }

    private static int[] WayTo(int at, Dictionary<int, int> cameFrom)
    {
        var way = new List<int>();
        for (var step = at; step >= 0; step = cameFrom[step])
        {
            way.Add(step);
        }

        way.Reverse();
        return [.. way];
    }
}
