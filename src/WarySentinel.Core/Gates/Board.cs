using WarySentinel.Core.Access;

namespace WarySentinel.Core.Gates;

/// <summary>What a cell of the access board says.</summary>
/// <param name="Own">How the item itself meets the viewpoint.</param>
/// <param name="InPart">Whether something beneath it meets them otherwise.</param>
public readonly record struct BoardCell(Sight Own, bool InPart);

/// <summary>The access board: who can see what.</summary>
public static class Board
{
    /// <summary>
    /// For each viewpoint, the cells of some items. Items to which the same gates apply meet everybody alike: the cost is the items beneath, once, and
    /// the different sets of gates among them, for each viewpoint.
    /// </summary>
    /// <param name="policy">The policy.</param>
    /// <param name="viewpoints">The columns.</param>
    /// <param name="places">The rows, as places in the graph.</param>
    /// <param name="now">The time to look at.</param>
    public static BoardCell[][] Cells(Policy policy, IReadOnlyList<Viewpoint> viewpoints, IReadOnlyList<int> places, DateTimeOffset now)
    {
        var moment = policy.At(now);
        var numbers = new Dictionary<Gate[], int>(ReferenceEqualityComparer.Instance);
        var sets = new List<Gate[]>();
        int NumberOf(int place)
        {
            ref var number = ref System.Runtime.InteropServices.CollectionsMarshal.GetValueRefOrAddDefault(numbers, moment.OnItem(place), out var known);
            if (!known)
            {
                number = sets.Count;
                sets.Add(moment.OnItem(place));
            }

            return number;
        }

        var own = places.Select(NumberOf).ToArray();
        var beneath = places.Select(p => policy.Graph.Branch(p).Select(NumberOf).ToHashSet()).ToArray();
        return [.. viewpoints.Select(viewpoint =>
        {
            var sights = sets.ConvertAll(set => policy.SightOf(viewpoint.Visitor, set, now));
            return places.Select((_, row) => new BoardCell(sights[own[row]], beneath[row].Any(n => sights[n] != sights[own[row]]))).ToArray();
        })];
    }
}
