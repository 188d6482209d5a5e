using System.Collections;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>
/// The gates in force over one stretch of time, worked out for every item: which requirements reach it unlifted.
/// A requirement is one selector of one gate; a gate applies where any of its requirements does. Equal sets are kept once.
/// The rules are told in docs/explanation/decisions.md.
/// </summary>
internal sealed partial class PolicyMoment
{
    /// <summary>The rank of whatever is exempt nowhere.</summary>
    private const int Nowhere = -2;

    /// <summary>The rank of the site: farther off than any path pattern.</summary>
    private const int SiteRank = -1;

    private readonly CatalogueGraph graph;
    private readonly PathRules rules;
    private readonly Gate[] inForce;
    private readonly List<Gate> gates = [];
    private readonly List<Requirement> requirements = [];
    private readonly CopyOnWriteArray<Gate[]> gatesOn;
    private readonly CopyOnWriteArray<int[]> onItem;
    private readonly CopyOnWriteArray<int[]> viaItems;
    private readonly CopyOnWriteArray<int[]> beneath;
    private readonly CopyOnWriteArray<int[]> own;
    private readonly BitArray exempt;
    private readonly BitArray exemptBranch;
    private readonly PathTree<int> requiredPaths = new(true);
    private readonly PathTree<Address> exemptPaths = new(false);
    private readonly Dictionary<int, int[]> byPath = [];
    private readonly Dictionary<string, int[]> interned;
    private readonly Dictionary<int[], Gate[]> gateSets;
    private readonly int[] onSite;

    /// <summary>Used while this is compiled, by nobody else.</summary>
    private readonly List<int> numbersFound = [];

    private PolicyMoment(CatalogueGraph graph, Gate[] inForce, PathRules rules, (DateTimeOffset From, DateTimeOffset Until) stretch)
    {
        (this.graph, this.rules, this.inForce) = (graph, rules, inForce);
        (From, Until) = stretch;
        (interned, gateSets) = (new Dictionary<string, int[]>(StringComparer.Ordinal), new Dictionary<int[], Gate[]>(ReferenceEqualityComparer.Instance));
        var count = graph.Items.Count;
        (exempt, exemptBranch) = (new BitArray(count), new BitArray(count));
        (own, beneath, viaItems, onItem, gatesOn) = (new(count), new(count), new(count), new(count), new(count));
        foreach (var gate in inForce)
        {
            Take(gate);
        }

        var bearing = Bearing(inForce.Where(g => !g.IsExemption));
        onSite = OnSite(bearing);
        foreach (var place in graph.Order)
        {
            Spread(place, bearing);
        }
    }

    /// <summary>One selector of a gate that requires something: an item at a place of the graph (-1: none), or a path pattern.</summary>
    private readonly record struct Requirement(int Gate, int Place, Address? Pattern, int Rank);

    /// <summary>When this stretch begins.</summary>
    public DateTimeOffset From { get; }

    /// <summary>When it ends.</summary>
    public DateTimeOffset Until { get; }

    /// <summary>Whether any requirement is in force.</summary>
    public bool GuardsAnything => Array.Exists(inForce, g => !g.IsExemption);

    /// <summary>Compiles what holds at a time; from a form that holds before or beside it where one is at hand, which costs only what differs.</summary>
    public static PolicyMoment Compile(CatalogueGraph graph, IReadOnlyList<Gate> gates, PathRules rules, DateTimeOffset now, PolicyMoment? basis = null)
    {
        Gate[] inForce = [.. gates.Where(g => g.IsInForce(now))];
        var stretch = StretchAt(gates, now);
        return basis is not null && basis.graph == graph && basis.rules == rules && basis.Differing(inForce) is { } differing
            ? new PolicyMoment(basis, inForce, differing, stretch) : new PolicyMoment(graph, inForce, rules, stretch);
    }

    public bool Covers(DateTimeOffset now) => From <= now && now < Until;

    /// <summary>The gates that apply to an item by name. Equal sets are one array.</summary>
    public Gate[] OnItem(int place) => gatesOn[place];

    /// <summary>The stretch of time around a moment in which no gate starts or ends.</summary>
    public static (DateTimeOffset From, DateTimeOffset Until) StretchAt(IReadOnlyList<Gate> gates, DateTimeOffset now)
    {
        var (from, until) = (DateTimeOffset.MinValue, DateTimeOffset.MaxValue);
        foreach (var gate in gates)
        {
            from = gate.From <= now && gate.From > from ? gate.From.Value : from;
            from = gate.Until <= now && gate.Until > from ? gate.Until.Value : from;
            until = gate.From > now && gate.From < until ? gate.From.Value : until;
            until = gate.Until > now && gate.Until < until ? gate.Until.Value : until;
        }

        return (from, until);
    }

    private void Take(Gate gate)
    {
        if (gate.IsExemption)
        {
            TakeExemption(gate);
        }
        else
        {
            TakeRequirements(gate);
        }
    }

    private void TakeExemption(Gate gate)
    {
        foreach (var open in gate.Covers.Select(c => c.Path).OfType<Address>())
        {
            exemptPaths.Add(open.SegmentsUnder(rules), open);
        }

        MarkExempt(gate);
    }

    private void MarkExempt(Gate gate)
    {
        foreach (var selector in gate.Covers)
        {
            if (selector.Item is { } item && graph.PlaceOf(item) is >= 0 and var place)
            {
                exempt[place] = true;
                exemptBranch[place] |= !gate.ItemOnly;
            }
        }
    }

    private void TakeRequirements(Gate gate)
    {
        gates.Add(gate);
        foreach (var selector in gate.Covers)
        {
            var number = requirements.Count;
            if (selector.Path is { } pattern)
            {
                requirements.Add(new Requirement(gates.Count - 1, -1, pattern, pattern.RankUnder(rules)));
                requiredPaths.Add(pattern.SegmentsUnder(rules), number);
            }
            else if (graph.PlaceOf(selector.Item!.Value) is >= 0 and var place)
            {
                requirements.Add(new Requirement(gates.Count - 1, place, null, SiteRank));
            }
        }
    }

    /// <summary>The requirements of some gates by the places of the items that bear them.</summary>
    private Dictionary<int, List<int>> Bearing(IEnumerable<Gate> some)
    {
        var (mine, bearing) = (some.ToHashSet<Gate>(ReferenceEqualityComparer.Instance), new Dictionary<int, List<int>>());
        for (var number = 0; number < requirements.Count; number++)
        {
            if (requirements[number] is { Place: >= 0 and var place } requirement && mine.Contains(gates[requirement.Gate]))
            {
                (bearing.TryGetValue(place, out var list) ? list : bearing[place] = []).Add(number);
            }
        }

        return bearing;
    }

    private int[] OnSite(Dictionary<int, List<int>> bearing) =>
        bearing.TryGetValue(CatalogueGraph.Root, out var site) ? [.. site.Where(n => !gates[requirements[n].Gate].ItemOnly)] : [];

    /// <summary>
    /// What reaches one item, its parents being done. An exempt category does not free a product that also stands in a guarded one: what one
    /// parent lifts, another may still bring along, and a requirement goes only where every upward route to it is lifted
    /// (docs/explanation/decisions.md, point 3).
    /// </summary>
    private void Spread(int place, Dictionary<int, List<int>> bearing)
    {
        var parents = graph.ParentsOf(place);
        var inherited = Inherited(parents);
        if (!bearing.TryGetValue(place, out var mine))
        {
            own[place] = [];
            beneath[place] = exemptBranch[place] ? [] : inherited;
            viaItems[place] = exempt[place] ? [] : inherited;
        }
        else
        {
            own[place] = Intern(mine);
            beneath[place] = Intern((exemptBranch[place] ? [] : inherited).Concat(mine.Where(n => !gates[requirements[n].Gate].ItemOnly)));
            viaItems[place] = Intern((exempt[place] ? [] : inherited).Concat(mine));
        }

        onItem[place] = ByName(place);
        gatesOn[place] = GatesOf(onItem[place]);
    }

    private int[] Inherited(IReadOnlyList<int> parents)
    {
        var first = parents.Count == 0 ? [] : beneath[parents[0]];
        for (var i = 1; i < parents.Count; i++)
        {
            if (!ReferenceEquals(first, beneath[parents[i]]))
            {
                return Intern(parents.SelectMany(p => beneath[p]));
            }
        }

        return first;
    }

    /// <summary>
    /// The requirements on an item by name: those of items, and those of path patterns that reach any of its addresses, unless all of them
    /// are exempt.
    /// </summary>
    private int[] ByName(int place)
    {
        var addresses = graph.Items[place].Addresses;
        if (addresses.Count == 0 || (requiredPaths.IsEmpty && exemptPaths.IsEmpty))
        {
            return viaItems[place];
        }

        if (!byPath.TryGetValue(place, out var paths) && (paths = PathsOf(addresses)).Length > 0)
        {
            byPath.Add(place, paths);
        }

        var rank = exemptPaths.IsEmpty ? Nowhere : addresses.Min(a => ExemptRank(a.SegmentsUnder(rules), a.IsPattern, a.PairsUnder(rules)));
        return rank == Nowhere && paths.Length == 0 ? viaItems[place] : Intern(Lifted(place, viaItems[place], paths, rank));
    }

    /// <summary>What is left of requirements on an item where a path of that rank is exempt.</summary>
    private IEnumerable<int> Lifted(int place, int[] items, IEnumerable<int> paths, int rank) =>
        items.Where(n => requirements[n].Place != CatalogueGraph.Root || rank <= SiteRank)
            .Concat(exempt[place] ? [] : paths.Where(n => requirements[n].Rank >= rank));

    private int[] PathsOf(IReadOnlyList<Address> addresses)
    {
        if (requiredPaths.IsEmpty)
        {
            return [];
        }

        HashSet<int>? all = null;
        foreach (var address in addresses)
        {
            numbersFound.Clear();
            requiredPaths.Find(address.SegmentsUnder(rules), address.IsPattern, numbersFound);
            if (numbersFound.Count > 0)
            {
                (all ??= []).UnionWith(numbersFound.Where(n => requirements[n].Pattern!.MatchesPairs(address.PairsUnder(rules), rules)));
            }
        }

        return all is null ? [] : Intern(all);
    }

    /// <summary>The longest exempt pattern that matches.</summary>
    private int ExemptRank(string[] segments, bool asPattern, IReadOnlyList<(string Name, string Value)> pairs)
    {
        if (exemptPaths.IsEmpty)
        {
            return Nowhere;
        }

        var found = new List<Address>();
        exemptPaths.Find(segments, asPattern, found);
        return found.Count == 0 ? Nowhere : found.Where(e => e.MatchesPairs(pairs, rules)).Select(e => e.RankUnder(rules)).DefaultIfEmpty(Nowhere).Max();
    }

    private Gate[] GatesOf(int[] numbers) =>
        gateSets.TryGetValue(numbers, out var set) ? set : gateSets[numbers] = DistinctGates(numbers);

    private Gate[] DistinctGates(IEnumerable<int> numbers) => [.. numbers.Select(n => requirements[n].Gate).Distinct().Order().Select(g => gates[g])];

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
}
