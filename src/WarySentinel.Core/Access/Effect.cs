using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Access;

/// <summary>Members who hold the same facts.</summary>
/// <param name="Visitor">The facts.</param>
/// <param name="Members">How many they are.</param>
/// <param name="Names">Some of their names.</param>
public sealed record FactSet(Visitor Visitor, int Members, IReadOnlyList<string>? Names = null);

/// <summary>A line of an effect: an item, with how many beneath it that change alike, for whom, before and after.</summary>
public sealed record EffectRow(
    Item Item, int AlsoBeneath, IReadOnlyList<string> ForWhom, Sight Before, Sight After, IReadOnlyList<string> Gained, IReadOnlyList<string> Lost);

/// <summary>What a change of gates would do, before it is saved.</summary>
/// <param name="ItemsClosing">Items that somebody loses something of.</param>
/// <param name="ItemsOpening">Items that somebody gains something of.</param>
/// <param name="MembersLosing">Members who lose something.</param>
/// <param name="MembersGaining">Members who gain something and lose nothing.</param>
/// <param name="MembersKeeping">Members for whom nothing changes.</param>
/// <param name="Elsewhere">Items that close although they also stand in a place that stays open.</param>
/// <param name="Rows">The changes, most telling first.</param>
/// <param name="MoreRows">How many rows were left out.</param>
public sealed record Effect(
    int ItemsClosing, int ItemsOpening, int MembersLosing, int MembersGaining, int MembersKeeping,
    IReadOnlyList<Item> Elsewhere, IReadOnlyList<EffectRow> Rows, int MoreRows)
{
    private const int MostNames = 20;

    /// <summary>Some of those who lose something.</summary>
    public IReadOnlyList<string> LosingNames { get; private init; } = [];

    /// <summary>Some of those who gain something and lose nothing.</summary>
    public IReadOnlyList<string> GainingNames { get; private init; } = [];

    private const int MostRows = 100;

    /// <summary>Compares two policies over the same catalogue.</summary>
    public static Effect Between(Policy before, Policy after, IReadOnlyList<FactSet> members, DateTimeOffset now)
    {
        var graph = before.Graph;
        var viewpoints = Viewpoint.All(before);
        var rights = new (byte Before, byte After)[graph.Items.Count][];
        var (closing, opening) = (new HashSet<int>(), new HashSet<int>());
        Array.Fill(rights, []);
        // Where the same requirements apply before and after, nothing can change for anybody; where the same pair of them
        // applies, it changes alike. There are few pairs, however large the catalogue.
        var (old, fresh) = (before.At(now), after.At(now));
        var pairs = Enumerable.Range(0, graph.Items.Count).Where(p => before.AppliesOtherwise(after, p, now))
            .GroupBy(p => (Old: old.OnItem(p), Fresh: fresh.OnItem(p))).Select(g => g.ToArray()).ToList();
        foreach (var places in pairs)
        {
            (byte, byte)[] seen = [.. viewpoints.Select(v => (Rights(before, v.Visitor, places[0], now), Rights(after, v.Visitor, places[0], now)))];
            foreach (var place in places)
            {
                rights[place] = seen;
            }

            foreach (var (was, becomes) in seen)
            {
                Count(places, was, becomes);
            }
        }

        var (losing, gaining, keeping) = (0, 0, 0);
        var (losers, gainers) = (new List<string>(), new List<string>());
        foreach (var set in members)
        {
            var (lost, gained) = (false, false);
            foreach (var places in pairs)
            {
                var (was, becomes) = (Rights(before, set.Visitor, places[0], now), Rights(after, set.Visitor, places[0], now));
                lost |= (was & ~becomes) != 0;
                gained |= (becomes & ~was) != 0;
                Count(places, was, becomes);
            }

            losing += lost ? set.Members : 0;
            gaining += gained && !lost ? set.Members : 0;
            keeping += !gained && !lost ? set.Members : 0;
            (lost ? losers : gained ? gainers : []).AddRange(set.Names ?? []);
        }

        void Count(int[] places, int was, int becomes)
        {
            if ((was & ~becomes) != 0)
            {
                closing.UnionWith(places);
            }

            if ((becomes & ~was) != 0)
            {
                opening.UnionWith(places);
            }
        }

        var elsewhere = closing.Where(p => graph.ParentsOf(p).Any(closing.Contains)
            && graph.ParentsOf(p).Any(up => up != CatalogueGraph.Root && !closing.Contains(up)
            && Rights(after, viewpoints[0].Visitor, up, now) == Everything)).Select(p => graph.Items[p]).Take(20).ToList();
        var rows = RowsOf(graph, viewpoints, rights);
        return new Effect(
            closing.Count(p => p != CatalogueGraph.Root), opening.Count(p => p != CatalogueGraph.Root), losing, gaining, keeping, elsewhere,
            [.. rows.Take(MostRows)], Math.Max(0, rows.Count - MostRows))
        {
            LosingNames = [.. losers.Order(StringComparer.Ordinal).Take(MostNames)], GainingNames = [.. gainers.Order(StringComparer.Ordinal).Take(MostNames)],
        };
    }

    private const byte Everything = (byte)(Acts.Usual | Acts.List);

    private static byte Rights(Policy policy, Visitor visitor, int place, DateTimeOffset now)
    {
        var rights = 0;
        foreach (var act in ActNames.Each)
        {
            rights |= policy.Allows(visitor, place, act, now) ? (int)act : 0;
        }

        return (byte)rights;
    }

    private static List<EffectRow> RowsOf(CatalogueGraph graph, IReadOnlyList<Viewpoint> viewpoints, (byte Before, byte After)[][] rights)
    {
        var signature = new string?[rights.Length];
        for (var place = 0; place < rights.Length; place++)
        {
            if (rights[place].Any(r => r.Before != r.After))
            {
                signature[place] = string.Join(' ', rights[place].Select(r => $"{r.Before}-{r.After}"));
            }
        }

        var rows = new List<EffectRow>();
        foreach (var place in graph.Order)
        {
            if (signature[place] is null || graph.ParentsOf(place).Any(p => signature[p] == signature[place]))
            {
                continue;
            }

            var alike = graph.Branch(place).Count(p => p != place && signature[p] == signature[place]);
            foreach (var group in viewpoints.Select((v, i) => (v.Title, Change: rights[place][i])).Where(v => v.Change.Before != v.Change.After)
                .GroupBy(v => v.Change))
            {
                var (old, fresh) = group.Key;
                rows.Add(new EffectRow(
                    graph.Items[place], alike, [.. group.Select(g => g.Title)], SightOf(old), SightOf(fresh),
                    ActNames.NamesOf((Acts)(fresh & ~old)), ActNames.NamesOf((Acts)(old & ~fresh))));
            }
        }

        return rows;
    }

    private static Sight SightOf(byte rights) => ((Acts)rights & Acts.List) == 0 ? Sight.Hidden : ((Acts)rights & Acts.Open) != 0 ? Sight.Open : Sight.Listed;
}
