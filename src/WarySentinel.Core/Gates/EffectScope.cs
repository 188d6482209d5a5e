using System.Buffers;
using System.Collections;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Gates;

/// <summary>
/// What a change of gates touches, and which facts about a member can make a difference to it. Where the same requirements apply before and after,
/// nothing can change for anybody; where the same pair of them applies, it changes alike. There are few pairs, however large the catalogue.
/// </summary>
public sealed class EffectScope
{
    private const int MostNames = 20;
    private const int MostRows = 100;
    private const int MostWhom = 20;
    private const int MostElsewhere = 20;
    private const byte Everything = (byte)(Acts.Usual | Acts.List);

    private static readonly IReadOnlyList<(FactKind Kind, string Key)> Staff = [.. Visitor.StaffRoles.Select(r => (FactKind.Role, r))];

    private readonly Policy before;
    private readonly Policy after;
    private readonly DateTimeOffset now;
    private readonly List<Pair> pairs;
    private readonly IReadOnlyList<Viewpoint> viewpoints;
    private readonly IReadOnlyList<Viewpoint> holders;
    private readonly IReadOnlyList<Viewpoint> holdingNothing;

    private EffectScope(Policy before, Policy after, DateTimeOffset now)
    {
        (this.before, this.after, this.now) = (before, after, now);
        pairs = PairsOf(before, after, now);
        viewpoints = Viewpoint.All(before);
        (holders, holdingNothing) = ([.. viewpoints.Where(v => v.Visitor.Grants.Count > 0)], [.. viewpoints.Where(v => v.Visitor.Grants.Count == 0)]);
        var gates = pairs.SelectMany(p => p.Old.Concat(p.Fresh)).Distinct(ReferenceEqualityComparer.Instance).Cast<Gate>();
        var asked = gates.SelectMany(g => g.Audience.FactsAsked()).Where(f => f.Kind != FactKind.Pass).Select(f => (f.Kind, f.Key));
        // Staff pass every gate, where the settings say so.
        Facts = [.. asked.Concat(before.Settings.StaffPasses || after.Settings.StaffPasses ? Staff : []).Distinct()];
    }

    /// <summary>Items to which the same gates apply before, and the same after.</summary>
    private sealed class Pair(Gate[] old, Gate[] fresh)
    {
        public Gate[] Old => old;

        public Gate[] Fresh => fresh;

        public List<int> Places { get; } = [];

        /// <summary>What happens to a guest.</summary>
        public (byte Before, byte After) Guest { get; set; }

        /// <summary>What happens to a member who holds nothing that matters.</summary>
        public (byte Before, byte After) Plain { get; set; }

        /// <summary>Roles, groups and plans to which something else happens than to the plain member.</summary>
        public List<(Viewpoint Viewpoint, (byte Before, byte After) Change)> Others { get; } = [];

        public bool Changes => Guest.Before != Guest.After || Plain.Before != Plain.After || Others.Exists(o => o.Change.Before != o.Change.After);

        /// <summary>What happens, in one text: the same for pairs that are told in one row.</summary>
        public string Told => string.Join(' ', Others.Select(o => $"{o.Viewpoint.Key} {o.Change}").Prepend($"{Guest} {Plain}"));
    }

    /// <summary>The facts that the gates concerned ask for; no others can make a difference.</summary>
    public IReadOnlyList<(FactKind Kind, string Key)> Facts { get; }

    /// <summary>Finds what changes between two policies over the same catalogue.</summary>
    public static EffectScope Of(Policy before, Policy after, DateTimeOffset now) => new(before, after, now);

    /// <summary>What the change does to members, gathered by which of <see cref="Facts"/> they hold.</summary>
    public Effect Weigh(IReadOnlyList<FactSet> members)
    {
        var concerned = new Concerned(this);
        var (closing, opening) = (new HashSet<Pair>(), new HashSet<Pair>());
        foreach (var pair in pairs)
        {
            Note(pair, pair.Guest.Before, pair.Guest.After);
            Note(pair, pair.Plain.Before, pair.Plain.After);
            pair.Others.ForEach(o => Note(pair, o.Change.Before, o.Change.After));
        }

        var (losing, gaining, keeping) = (0, 0, 0);
        var (losers, gainers) = (new List<string>(), new List<string>());
        foreach (var set in members)
        {
            var (lost, gained) = concerned.By(set.Visitor, Note);
            losing += lost ? set.Members : 0;
            gaining += gained && !lost ? set.Members : 0;
            keeping += !gained && !lost ? set.Members : 0;
            (lost ? losers : gained ? gainers : []).AddRange(set.Names ?? []);
        }

        void Note(Pair pair, byte was, byte becomes)
        {
            if ((was & ~becomes) != 0)
            {
                closing.Add(pair);
            }

            if ((becomes & ~was) != 0)
            {
                opening.Add(pair);
            }
        }

        var (rows, more) = Rows();
        return new Effect(Count(closing), Count(opening), losing, gaining, keeping, Elsewhere(closing), rows, more)
        {
            LosingNames = [.. losers.Order(StringComparer.Ordinal).Take(MostNames)], GainingNames = [.. gainers.Order(StringComparer.Ordinal).Take(MostNames)],
        };
    }

    /// <summary>
    /// Which pairs a member's facts can make a difference to; in all others happens to them what happens to a member who holds none, which is worked
    /// out once.
    /// </summary>
    private sealed class Concerned
    {
        private readonly EffectScope scope;
        private readonly Dictionary<(FactKind, string), List<Pair>> byFact = [];
        private readonly HashSet<Pair> losing = [];
        private readonly HashSet<Pair> gaining = [];

        public Concerned(EffectScope scope)
        {
            this.scope = scope;
            foreach (var pair in scope.pairs)
            {
                foreach (var fact in pair.Old.Concat(pair.Fresh).SelectMany(g => g.Audience.FactsAsked()))
                {
                    var known = byFact.TryGetValue((fact.Kind, fact.Key), out var some) ? some : byFact[(fact.Kind, fact.Key)] = [];
                    if (known.Count == 0 || known[^1] != pair)
                    {
                        known.Add(pair);
                    }
                }

                (pair.Guest, pair.Plain) = (scope.Rights(pair, new Visitor { IsViewpoint = true }), scope.Rights(pair, Visitor.With()));
                _ = (pair.Plain.Before & ~pair.Plain.After) != 0 && losing.Add(pair);
                _ = (pair.Plain.After & ~pair.Plain.Before) != 0 && gaining.Add(pair);
                pair.Others.Clear();
            }

            foreach (var viewpoint in scope.viewpoints)
            {
                if (viewpoint.Visitor.Grants is [var only])
                {
                    foreach (var pair in byFact.GetValueOrDefault((only.Kind, only.Key)) ?? [])
                    {
                        var change = scope.Rights(pair, viewpoint.Visitor);
                        if (change != pair.Plain)
                        {
                            pair.Others.Add((viewpoint, change));
                        }
                    }
                }
            }
        }

        /// <summary>Whether a member loses something, and whether they gain something.</summary>
        public (bool Lost, bool Gained) By(Visitor visitor, Action<Pair, byte, byte> note)
        {
            // Staff are concerned everywhere, as they pass everywhere.
            IReadOnlyCollection<Pair> mine = visitor.Grants.Any(g => Staff.Contains((g.Kind, g.Key))) ? scope.pairs
                : [.. visitor.Grants.Select(g => (g.Kind, g.Key)).Append((FactKind.Member, visitor.Email ?? ""))
                .SelectMany(f => byFact.GetValueOrDefault(f) ?? []).Distinct()];
            var (lost, gained) = (losing.Count > mine.Count(losing.Contains), gaining.Count > mine.Count(gaining.Contains));
            foreach (var pair in mine)
            {
                var (was, becomes) = scope.Rights(pair, visitor);
                lost |= (was & ~becomes) != 0;
                gained |= (becomes & ~was) != 0;
                note(pair, was, becomes);
            }

            return (lost, gained);
        }
    }

    private static List<Pair> PairsOf(Policy before, Policy after, DateTimeOffset now)
    {
        var (old, fresh) = (before.At(now), after.At(now));
        var known = new Dictionary<(Gate[], Gate[]), Pair?>(PairsAlike.One);
        for (var place = 0; place < before.Graph.Items.Count; place++)
        {
            var key = (old.OnItem(place), fresh.OnItem(place));
            if (ReferenceEquals(key.Item1, key.Item2))
            {
                continue;
            }

            if (!known.TryGetValue(key, out var pair))
            {
                // By reference: a gate that reads as before may hang on a group whose rule differs.
                var same = key.Item1.AsSpan().SequenceEqual(key.Item2, ReferenceEqualityComparer.Instance);
                known[key] = pair = same ? null : new Pair(key.Item1, key.Item2);
            }

            pair?.Places.Add(place);
        }

        return [.. known.Values.OfType<Pair>()];
    }

    private (byte Before, byte After) Rights(Pair pair, Visitor visitor) => (Rights(before, pair.Old, visitor), Rights(after, pair.Fresh, visitor));

    private byte Rights(Policy policy, Gate[] gates, Visitor visitor)
    {
        if (policy.Settings.StaffPasses && visitor.IsStaff(now))
        {
            return Everything;
        }

        var rights = Everything;
        foreach (var gate in gates)
        {
            rights = (rights & (byte)gate.Guards) == 0 || gate.Admits(visitor, now) ? rights : (byte)(rights & ~(byte)gate.Guards);
        }

        return rights;
    }

    private static int Count(HashSet<Pair> pairs) => pairs.Sum(p => p.Places.Count(place => place != CatalogueGraph.Root));

    /// <summary>Items that close although they also stand in a place that stays open.</summary>
    private List<Item> Elsewhere(HashSet<Pair> closing)
    {
        var graph = before.Graph;
        var closed = new BitArray(graph.Items.Count);
        foreach (var pair in closing)
        {
            pair.Places.ForEach(place => closed[place] = true);
        }

        var guest = new Visitor { IsViewpoint = true };
        return [.. closing.SelectMany(p => p.Places).Order().Where(p => graph.ParentsOf(p).Any(up => closed[up])
            && graph.ParentsOf(p).Any(up => up != CatalogueGraph.Root && !closed[up]
            && Rights(after, after.At(now).OnItem(up), guest) == Everything)).Select(p => graph.Items[p]).Take(MostElsewhere)];
    }

    /// <summary>The rows, and how many are left out.</summary>
    private (List<EffectRow> Rows, int More) Rows()
    {
        var graph = before.Graph;
        var change = ArrayPool<int>.Shared.Rent(graph.Items.Count);
        try
        {
            var told = Number(change);
            var (rows, more) = (new List<EffectRow>(), 0);
            foreach (var place in graph.Order)
            {
                if (change[place] == 0 || ChangesWithParent(place, change))
                {
                    continue;
                }

                var pair = told[change[place] - 1];
                if (rows.Count >= MostRows)
                {
                    more += Groups(pair).Count();
                    continue;
                }

                rows.AddRange(RowsOf(place, AlikeBeneath(place, change), pair));
            }

            return (rows, more);
        }
        finally
        {
            ArrayPool<int>.Shared.Return(change);
        }
    }

    private int AlikeBeneath(int place, int[] change) => before.Graph.Branch(place).Count(p => p != place && change[p] == change[place]);

    private bool ChangesWithParent(int place, int[] change)
    {
        var parents = before.Graph.ParentsOf(place);
        for (var i = 0; i < parents.Count; i++)
        {
            if (change[parents[i]] == change[place])
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Numbers the places, from 1 on, by what changes there: alike where it is told alike. Gives one pair for each number.</summary>
    private List<Pair> Number(int[] change)
    {
        Array.Clear(change);
        var (alike, told) = (new Dictionary<string, int>(StringComparer.Ordinal), new List<Pair>());
        foreach (var pair in pairs.Where(p => p.Changes))
        {
            if (!alike.TryGetValue(pair.Told, out var number))
            {
                told.Add(pair);
                alike[pair.Told] = number = told.Count;
            }

            pair.Places.ForEach(place => change[place] = number);
        }

        return told;
    }

    private IEnumerable<EffectRow> RowsOf(int place, int beneath, Pair pair) => Groups(pair).Select(change => new EffectRow(
        before.Graph.Items[place], beneath, Whom(pair, change), SightOf(change.Before), SightOf(change.After),
        ActNames.NamesOf((Acts)(change.After & ~change.Before)), ActNames.NamesOf((Acts)(change.Before & ~change.After))));

    /// <summary>The different things that happen to somebody.</summary>
    private static IEnumerable<(byte Before, byte After)> Groups(Pair pair) =>
        pair.Others.Select(o => o.Change).Prepend(pair.Plain).Prepend(pair.Guest).Where(c => c.Before != c.After).Distinct();

    /// <summary>
    /// To whom one of them happens: the guest, the plain member and, as to that one, everybody to whom nothing else happens. Those that the gates ask for
    /// come first; where there are too many, how many more there are.
    /// </summary>
    private List<string> Whom(Pair pair, (byte, byte) change)
    {
        // Of ten thousand groups nearly all are as the plain member is: they are counted, and only so many of them are looked for.
        var apart = pair.Others.Select(o => o.Viewpoint.Key).ToHashSet(StringComparer.Ordinal);
        var first = holdingNothing.Where(v => (v.Visitor.IsSignedIn ? pair.Plain : pair.Guest) == change)
            .Concat(pair.Others.Where(o => o.Change == change).Select(o => o.Viewpoint)).ToList();
        var rest = pair.Plain == change ? holders.Count - apart.Count : 0;
        var named = first.Concat(rest == 0 ? [] : holders.Where(v => !apart.Contains(v.Key))).Select(v => v.Title);
        var count = first.Count + rest;
        return count <= MostWhom ? [.. named] : [.. named.Take(MostWhom - 1), Words.Of("effect.others", count - MostWhom + 1)];
    }

    private static Sight SightOf(byte rights) => ((Acts)rights & Acts.List) == 0 ? Sight.Hidden : ((Acts)rights & Acts.Open) != 0 ? Sight.Open : Sight.Listed;

    /// <summary>Two sets are the same where they are one and the same array: equal sets of one policy are kept once.</summary>
    private sealed class PairsAlike : IEqualityComparer<(Gate[], Gate[])>
    {
        public static readonly PairsAlike One = new();

        public bool Equals((Gate[], Gate[]) x, (Gate[], Gate[]) y) => ReferenceEquals(x.Item1, y.Item1) && ReferenceEquals(x.Item2, y.Item2);

        public int GetHashCode((Gate[], Gate[]) pair) => HashCode.Combine(
            System.Runtime.CompilerServices.RuntimeHelpers.GetHashCode(pair.Item1), System.Runtime.CompilerServices.RuntimeHelpers.GetHashCode(pair.Item2));
    }
}
