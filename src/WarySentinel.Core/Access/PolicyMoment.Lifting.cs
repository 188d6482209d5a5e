using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>A gate that would have applied, and the exemptions that lift it.</summary>
/// <param name="Gate">The gate.</param>
/// <param name="By">The exemptions, ordered by key.</param>
public sealed record Lift(Gate Gate, IReadOnlyList<Gate> By);

/// <summary>What is lifted from an item or a request, and by what: the rules of docs/explanation/decisions.md, point 3, told the other way round.</summary>
internal sealed partial class PolicyMoment
{
    /// <summary>The gates that would apply to an item by name, but for exemptions.</summary>
    public IReadOnlyList<Lift> LiftsOnItem(int place) => Lifts([place], onItem[place], graph.Items[place].Addresses, null);

    /// <summary>The gates that would apply to a request, but for exemptions.</summary>
    public IReadOnlyList<Lift> LiftsOnPath(RequestPath path, IReadOnlyList<int> found) => Lifts(found, Numbers(path, found), [], path);

    private List<Lift> Lifts(IReadOnlyList<int> places, IEnumerable<int> applying, IReadOnlyList<Address> addresses, RequestPath? path)
    {
        var applied = applying.Select(n => gates[requirements[n].Gate]).ToHashSet<Gate>(ReferenceEqualityComparer.Instance);
        var live = inForce.ToHashSet<Gate>(ReferenceEqualityComparer.Instance);
        var found = new Dictionary<Gate, SortedSet<string>>(ReferenceEqualityComparer.Instance);
        foreach (var requirement in requirements.Where(r => live.Contains(gates[r.Gate]) && !applied.Contains(gates[r.Gate])))
        {
            var gate = gates[requirement.Gate];
            var lifters = requirement.Pattern is { } pattern
                ? Reaches(pattern, places, addresses, path) ? OnThemselves(places).Concat(Patterns(requirement.Rank, places, addresses, path)) : []
                : places.Count == 0 && requirement.Place == CatalogueGraph.Root && !gate.ItemOnly ? Patterns(SiteRank, places, addresses, path)
                : places.SelectMany(p => OnTheWay(p, requirement.Place, gate.ItemOnly))
                    .Concat(requirement.Place == CatalogueGraph.Root && places.Any(p => IsAbove(requirement.Place, p, gate.ItemOnly))
                        ? Patterns(SiteRank, places, addresses, path) : []);
            foreach (var lifter in lifters)
            {
                (found.TryGetValue(gate, out var known) ? known : found[gate] = new SortedSet<string>(StringComparer.Ordinal)).Add(lifter.Key);
            }
        }

        return [.. found.OrderBy(f => f.Key.Key, StringComparer.Ordinal)
            .Select(f => new Lift(f.Key, [.. inForce.Where(g => g.IsExemption && f.Value.Contains(g.Key)).OrderBy(g => g.Key, StringComparer.Ordinal)]))];
    }

    /// <summary>Whether a pattern matches the request, or an address of what is asked for by name.</summary>
    private bool Reaches(Address pattern, IReadOnlyList<int> places, IReadOnlyList<Address> addresses, RequestPath? path) =>
        (path is not null && (pattern.Matches(path, rules) || places.Any(p => graph.Items[p].Addresses.Any(a => pattern.Covers(a, rules, true)))))
        || addresses.Any(a => pattern.Covers(a, rules, true));

    /// <summary>Exempt patterns that lift what has that rank: those that match, and are nearer to one single page.</summary>
    private IEnumerable<Gate> Patterns(int rank, IReadOnlyList<int> places, IReadOnlyList<Address> addresses, RequestPath? path) =>
        inForce.Where(g => g.IsExemption && g.Covers.Any(c => c.Path is { } open && open.RankUnder(rules) > rank
            && (path is not null ? open.Matches(path, rules) : addresses.Any(a => open.Covers(a, rules, false)))));

    /// <summary>Exemptions on the items themselves.</summary>
    private IEnumerable<Gate> OnThemselves(IReadOnlyList<int> places) => places.SelectMany(p => ExemptionsOn(p, true));

    private IEnumerable<Gate> ExemptionsOn(int place, bool itself) => inForce.Where(g => g.IsExemption && (itself || !g.ItemOnly)
        && g.Covers.Any(c => c.Item is { } id && graph.PlaceOf(id) == place));

    /// <summary>The first exemptions on the upward routes from an item to another, which is not one of them.</summary>
    private List<Gate> OnTheWay(int from, int to, bool itemOnly)
    {
        var (seen, queue, found) = (new HashSet<int> { from }, new Queue<int>([from]), new List<Gate>());
        while (!itemOnly && queue.TryDequeue(out var at))
        {
            if (at == to)
            {
                continue;
            }

            if (at == from ? exempt[at] : exemptBranch[at])
            {
                found.AddRange(IsAbove(to, at, false) ? ExemptionsOn(at, at == from) : []);
                continue;
            }

            foreach (var parent in graph.ParentsOf(at).Where(seen.Add))
            {
                queue.Enqueue(parent);
            }
        }

        return found;
    }

    /// <summary>Whether one item stands above another, or is it.</summary>
    private bool IsAbove(int above, int place, bool itself)
    {
        var (seen, queue) = (new HashSet<int> { place }, new Queue<int>([place]));
        while (queue.TryDequeue(out var at))
        {
            if (at == above)
            {
                return true;
            }

            foreach (var parent in itself ? [] : graph.ParentsOf(at).Where(seen.Add))
            {
                queue.Enqueue(parent);
            }
        }

        return false;
    }
}
