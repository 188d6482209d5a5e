using System.Collections;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>
/// A form made from another that holds for the same catalogue: only what stands at or beneath an item of a gate that differs is worked out again.
/// A gate on a branch of 5,000 of 100,000 items: 10 ms instead of 100. Where a path pattern or the site differs, all of it is worked out.
/// </summary>
internal sealed partial class PolicyMoment
{
    /// <summary>Numbers of gates that are gone are kept free until they are this many more than those in force.</summary>
    private const int MostGone = 64;

    private PolicyMoment(PolicyMoment basis, Gate[] inForce, Difference differing, (DateTimeOffset From, DateTimeOffset Until) stretch)
    {
        (graph, rules, this.inForce) = (basis.graph, basis.rules, inForce);
        (From, Until) = stretch;
        gates.AddRange(basis.gates);
        requirements.AddRange(basis.requirements);
        interned = new Dictionary<string, int[]>(basis.interned, StringComparer.Ordinal);
        gateSets = new Dictionary<int[], Gate[]>(basis.gateSets, ReferenceEqualityComparer.Instance);
        (requiredPaths, exemptPaths, byPath) = (basis.requiredPaths, basis.exemptPaths, new Dictionary<int, int[]>(basis.byPath));
        (own, beneath, viaItems, onItem, gatesOn) = (new(basis.own), new(basis.beneath), new(basis.viaItems), new(basis.onItem), new(basis.gatesOn));
        (exempt, exemptBranch) = (new BitArray(graph.Items.Count), new BitArray(graph.Items.Count));
        foreach (var gate in inForce.Where(g => g.IsExemption))
        {
            MarkExempt(gate);
        }

        differing.Fresh.ForEach(TakeRequirements);
        var bearing = Bearing(inForce.Where(g => !g.IsExemption));
        onSite = basis.onSite;
        foreach (var place in graph.Order)
        {
            if (differing.Places[place])
            {
                Spread(place, bearing);
            }
        }
    }

    /// <summary>What differs: requirements that are new, and the places at or beneath the items of all gates that came or went.</summary>
    private sealed record Difference(List<Gate> Fresh, BitArray Places);

    /// <summary>How gates differ from those in force here; null where all is to be worked out again.</summary>
    private Difference? Differing(Gate[] then)
    {
        var (mine, theirs) = (inForce.ToHashSet<Gate>(ReferenceEqualityComparer.Instance), then.ToHashSet<Gate>(ReferenceEqualityComparer.Instance));
        List<Gate> gone = [.. inForce.Where(g => !theirs.Contains(g))], come = [.. then.Where(g => !mine.Contains(g))];
        var (places, many) = (new BitArray(graph.Items.Count), 0);
        foreach (var selector in gone.Concat(come).SelectMany(g => g.Covers))
        {
            if (selector.Path is not null || graph.PlaceOf(selector.Item!.Value) == CatalogueGraph.Root || many > graph.Items.Count / 2)
            {
                return null;
            }

            if (graph.PlaceOf(selector.Item.Value) is > CatalogueGraph.Root and var place)
            {
                foreach (var at in graph.Branch(place))
                {
                    many += places[at] ? 0 : 1;
                    places[at] = true;
                }
            }
        }

        // A gate that was in force once, and is again, keeps the numbers that it had.
        var numbered = gates.ToHashSet<Gate>(ReferenceEqualityComparer.Instance);
        return gates.Count > (2 * then.Length) + MostGone ? null : new Difference([.. come.Where(g => !g.IsExemption && !numbered.Contains(g))], places);
    }
}
