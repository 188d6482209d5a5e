using System.Collections.Concurrent;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>
/// The gates in force over one stretch of time, worked out for every item: which requirements reach it unlifted.
/// Equal sets are kept once.
/// </summary>
internal sealed class PolicyMoment
{
    private const int MostResolved = 20_000;
    private const int LongestKept = 256;
    private readonly CatalogueGraph graph;
    private readonly PathRules rules;
    private readonly Gate[] gates;
    private readonly int[][] onItem;
    private readonly Gate[][] gatesOn;
    private readonly int[][] viaItems;
    private readonly int[][] beneath;
    private readonly int[][] own;
    private readonly bool[] exempt;
    private readonly bool[] exemptBranch;
    private readonly List<(int Gate, Address Pattern)> required = [];
    private readonly List<Address> exemptPatterns = [];
    private readonly Dictionary<string, int[]> interned = new(StringComparer.Ordinal);
    private readonly int[] onSite;
    private readonly ConcurrentDictionary<string, (Gate[] Gates, Acts Act)> resolved = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, ResolvedRequest> byTarget = new(StringComparer.Ordinal);

    private PolicyMoment(CatalogueGraph graph, IReadOnlyList<Gate> all, PathRules rules, DateTimeOffset now)
    {
        (this.graph, this.rules) = (graph, rules);
        var count = graph.Items.Count;
        var requirements = new List<Gate>();
        exempt = new bool[count];
        exemptBranch = new bool[count];
        var reaching = new Dictionary<int, List<int>>();
        var bearing = new Dictionary<int, List<int>>();
        foreach (var gate in all)
        {
            From = gate.From <= now && gate.From > From ? gate.From.Value : From;
            From = gate.Until <= now && gate.Until > From ? gate.Until.Value : From;
            Until = gate.From > now && gate.From < Until ? gate.From.Value : Until;
            Until = gate.Until > now && gate.Until < Until ? gate.Until.Value : Until;
            if (!gate.IsInForce(now))
            {
                continue;
            }

            foreach (var selector in gate.Covers)
            {
                var place = selector.Item is { } id ? graph.PlaceOf(id) : -1;
                if (gate.IsExemption)
                {
                    if (selector.Path is { } open)
                    {
                        exemptPatterns.Add(open);
                    }
                    else if (place >= 0)
                    {
                        exempt[place] = true;
                        exemptBranch[place] |= !gate.ItemOnly;
                    }

                    continue;
                }

                if (requirements.Count == 0 || requirements[^1] != gate)
                {
                    requirements.Add(gate);
                }

                var number = requirements.Count - 1;
                if (selector.Path is { } pattern)
                {
                    required.Add((number, pattern));
                }
                else if (place >= 0)
                {
                    Into(bearing, place, number);
                    if (!gate.ItemOnly)
                    {
                        Into(reaching, place, number);
                    }
                }
            }
        }

        gates = [.. requirements];
        onSite = bearing.TryGetValue(CatalogueGraph.Root, out var site) ? [.. site.Where(n => !gates[n].ItemOnly).Distinct()] : [];
        (own, beneath, viaItems, onItem) = (new int[count][], new int[count][], new int[count][], new int[count][]);
        gatesOn = new Gate[count][];
        var sets = new Dictionary<object, Gate[]>(ReferenceEqualityComparer.Instance);
        foreach (var place in graph.Order)
        {
            var inherited = new SortedSet<int>();
            foreach (var parent in graph.ParentsOf(place))
            {
                inherited.UnionWith(beneath[parent]);
            }

            own[place] = bearing.TryGetValue(place, out var mine) ? Intern(mine) : [];
            var passed = new SortedSet<int>(exemptBranch[place] ? [] : inherited);
            passed.UnionWith(reaching.TryGetValue(place, out var down) ? down : []);
            beneath[place] = Intern(passed);
            var here = new SortedSet<int>(exempt[place] ? [] : inherited);
            here.UnionWith(own[place]);
            viaItems[place] = Intern(here);
            onItem[place] = Intern(here.Where(n => !LiftedOnAddresses(place, n)).Concat(PathGatesOf(place, false)));
            gatesOn[place] = sets.TryGetValue(onItem[place], out var set) ? set : sets[onItem[place]] = Array.ConvertAll(onItem[place], n => gates[n]);
        }
    }

    /// <summary>One requirement and how it reached.</summary>
    internal readonly record struct Reached(Gate Gate, IReadOnlyList<ItemId> Way, Address? Pattern);

    /// <summary>When this stretch begins.</summary>
    public DateTimeOffset From { get; } = DateTimeOffset.MinValue;

    /// <summary>When it ends.</summary>
    public DateTimeOffset Until { get; } = DateTimeOffset.MaxValue;

    /// <summary>Whether any requirement is in force.</summary>
    public bool GuardsAnything => gates.Length > 0;

    public static PolicyMoment Compile(CatalogueGraph graph, IReadOnlyList<Gate> gates, PathRules rules, DateTimeOffset now) =>
        new(graph, gates, rules, now);

    public bool Covers(DateTimeOffset now) => From <= now && now < Until;

    /// <summary>The requirements that apply to an item. Equal sets are one array.</summary>
    public Gate[] OnItem(int place) => gatesOn[place];

    /// <summary>The requirements that apply to a request, and the acts it attempts. Lately asked ones are kept.</summary>
    public (Gate[] Gates, Acts Act) Resolve(RequestPath path)
    {
        var key = path.Query.Length == 0 ? path.Key : $"{path.Key}?{path.Query}";
        if (resolved.TryGetValue(key, out var known))
        {
            return known;
        }

        var found = graph.Addresses.Find(path);
        known = ([.. Numbers(path, found).Select(n => gates[n])], ActsAt(graph, found));
        return Keep(resolved, key, known);
    }

    /// <summary>What a raw target comes to, or why it has no single reading. Lately asked ones are kept.</summary>
    public (ResolvedRequest? Request, PathFault Fault) Resolve(string target)
    {
        if (byTarget.TryGetValue(target, out var known))
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

    /// <summary>Keeps what was worked out, within bounds that a flood of made-up addresses cannot push.</summary>
    private static T Keep<T>(ConcurrentDictionary<string, T> kept, string key, T value)
    {
        if (key.Length > LongestKept)
        {
            return value;
        }

        if (kept.Count >= MostResolved)
        {
            kept.Clear();
        }

        return kept[key] = value;
    }

    /// <summary>What a request for an address attempts: opening it, and downloading or listening where that is what it gives.</summary>
    public static Acts ActsAt(CatalogueGraph graph, AddressIndex.Found found)
    {
        var act = Acts.Open;
        foreach (var place in found.Places)
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

    /// <summary>The requirements on an item with the ways by which they reached it, nearest first.</summary>
    public IReadOnlyList<Reached> ReasonsOnItem(int place) => Sorted([place], onItem[place], null);

    /// <summary>The requirements on a request with the ways by which they reached it, nearest first.</summary>
    public IReadOnlyList<Reached> ReasonsOnPath(RequestPath path, AddressIndex.Found found) => Sorted(found.Places, Numbers(path, found), path);

    private SortedSet<int> Numbers(RequestPath path, AddressIndex.Found found)
    {
        var numbers = new SortedSet<int>();
        var exemptHere = found.Places.Count > 0 && found.Places.All(p => exempt[p]);
        foreach (var place in found.Places)
        {
            numbers.UnionWith(viaItems[place].Where(n => !(OnlyFromSite(place, n) && ExemptAt(path, 0))));
            if (!found.ByPattern)
            {
                numbers.UnionWith(PathGatesOf(place, true));
            }
        }

        if (found.Places.Count == 0 && !ExemptAt(path, 0))
        {
            numbers.UnionWith(onSite);
        }

        foreach (var (gate, pattern) in required)
        {
            if (!exemptHere && pattern.Matches(path, rules) && !ExemptAt(path, pattern.LiteralPrefix))
            {
                numbers.Add(gate);
            }
        }

        return numbers;
    }

    private bool ExemptAt(RequestPath path, int longerThan) =>
        exemptPatterns.Exists(e => e.LiteralPrefix > longerThan && e.Matches(path, rules));

    private bool ExemptAt(Address address, int longerThan) =>
        exemptPatterns.Exists(e => e.LiteralPrefix > longerThan && e.Covers(address, rules));

    /// <summary>Whether the requirement comes from the site alone and every address of the item lies under an exempt pattern.</summary>
    private bool LiftedOnAddresses(int place, int number)
    {
        var addresses = graph.Items[place].Addresses;
        return exemptPatterns.Count > 0 && addresses.Count > 0 && OnlyFromSite(place, number) && addresses.All(a => ExemptAt(a, 0));
    }

    private bool OnlyFromSite(int place, int number)
    {
        if (Array.IndexOf(onSite, number) < 0 || place == CatalogueGraph.Root)
        {
            return false;
        }

        // A gate may cover the site and a category too; then the category's way stays.
        return gates[number].Covers.Count(c => c.Item is not null) == 1 || !ReachesBelowSite(place, number);
    }

    private bool ReachesBelowSite(int place, int number) => FindWay(place, number, false) is not null;

    private IEnumerable<int> PathGatesOf(int place, bool literalOnly)
    {
        if (required.Count == 0 || exempt[place])
        {
            yield break;
        }

        foreach (var address in graph.Items[place].Addresses)
        {
            if (literalOnly && address.IsPattern)
            {
                continue;
            }

            foreach (var (gate, pattern) in required)
            {
                if (pattern.Covers(address, rules) && !ExemptAt(address, pattern.LiteralPrefix))
                {
                    yield return gate;
                }
            }
        }
    }

    private List<Reached> Sorted(IReadOnlyList<int> places, IEnumerable<int> numbers, RequestPath? path)
    {
        var found = new List<(int Distance, Reached Reached)>();
        foreach (var number in numbers)
        {
            int[]? way = null;
            foreach (var place in places)
            {
                var candidate = FindWay(place, number, true);
                way = candidate is not null && (way is null || candidate.Length < way.Length) ? candidate : way;
            }

            // A path pattern stands farther off than any named item and nearer than the site.
            var pattern = way is not null && way[^1] != CatalogueGraph.Root ? null : PatternOf(number, places, path);
            if (pattern is null && way is null)
            {
                way = [CatalogueGraph.Root];
            }

            var distance = pattern is not null ? int.MaxValue - 1 : way![^1] == CatalogueGraph.Root && !places.Contains(CatalogueGraph.Root) ? int.MaxValue : way.Length;
            found.Add((distance, new Reached(gates[number], pattern is null ? [.. way!.Select(p => graph.Items[p].Id)] : [], pattern)));
        }

        return [.. found.OrderBy(f => f.Distance).ThenBy(f => f.Reached.Gate.Key, StringComparer.Ordinal).Select(f => f.Reached)];
    }

    private Address? PatternOf(int number, IReadOnlyList<int> places, RequestPath? path) =>
        required.Where(r => r.Gate == number).Select(r => r.Pattern)
            .Where(p => path is not null && p.Matches(path, rules) || places.Any(at => graph.Items[at].Addresses.Any(a => p.Covers(a, rules))))
            .MaxBy(p => p.LiteralPrefix);

    /// <summary>The shortest unlifted way from an item up to one that bears the requirement, both ends included.</summary>
    private int[]? FindWay(int place, int number, bool alsoSite)
    {
        if (Array.IndexOf(own[place], number) >= 0 && (alsoSite || place != CatalogueGraph.Root))
        {
            return [place];
        }

        if (exempt[place])
        {
            return null;
        }

        var cameFrom = new Dictionary<int, int> { [place] = -1 };
        var queue = new Queue<int>();
        queue.Enqueue(place);
        while (queue.TryDequeue(out var at))
        {
            foreach (var parent in graph.ParentsOf(at))
            {
                if (Array.IndexOf(beneath[parent], number) < 0 || (!alsoSite && parent == CatalogueGraph.Root) || !cameFrom.TryAdd(parent, at))
                {
                    continue;
                }

                if (Array.IndexOf(own[parent], number) >= 0)
                {
                    var way = new List<int>();
                    for (var step = parent; step >= 0; step = cameFrom[step])
                    {
                        way.Add(step);
                    }

                    way.Reverse();
                    return [.. way];
                }

                if (!exemptBranch[parent])
                {
                    queue.Enqueue(parent);
                }
            }
        }

        return null;
    }

    private int[] Intern(IEnumerable<int> numbers)
    {
        var sorted = numbers.Distinct().Order().ToArray();
        if (sorted.Length == 0)
        {
            return [];
        }

        var key = string.Join(',', sorted);
        return interned.TryGetValue(key, out var kept) ? kept : interned[key] = sorted;
    }

    private static void Into(Dictionary<int, List<int>> map, int place, int number)
    {
        if (!map.TryGetValue(place, out var list))
        {
            map.Add(place, list = []);
        }

        list.Add(number);
    }
}
