using System.Collections.Concurrent;
using System.Text.RegularExpressions;

namespace WarySentinel.Oracle;

/// <summary>What the evaluator says.</summary>
public sealed record Verdict(bool Allowed, string? Gate, string? Answer);

/// <summary>
/// The decision rules as they are written, once more, plain and slow: every upward route is walked one by one, every address compared with every
/// pattern. It shares nothing with the service, not even how paths are read. See docs/explanation/decisions.md.
/// </summary>
public sealed class Evaluator(World world)
{
    private const int OfPath = 1_000_000;
    private const int OfSite = 2_000_000;

    private static readonly string[] IndexNames =
        ["index.html", "index.htm", "index.xhtml", "index.shtml", "index.php", "default.html", "default.htm", "default.aspx"];

    /// <summary>May this visitor do this act on the item of that name?</summary>
    public Verdict OnItem(OracleVisitor visitor, string id, string act, DateTimeOffset now)
    {
        var item = Find(id);
        return Conclude(visitor, [act], now,
            Requirements(now).Select(g => (g, Distance(g, item, null, now))).Where(r => r.Item2 is not null).Select(r => (r.g, r.Item2!.Value)));
    }

    /// <summary>May this visitor do this act at that address?</summary>
    public Verdict AtPath(OracleVisitor visitor, string target, string act, DateTimeOffset now)
    {
        var request = Read(target);
        var items = Resolve(request);
        var acts = new List<string> { act };
        if (act == "open")
        {
            acts.AddRange(items.Any(i => i.Id.StartsWith("download:", StringComparison.Ordinal)) ? ["download"] : []);
            acts.AddRange(items.Any(i => i.Id.StartsWith("episode:", StringComparison.Ordinal)) ? ["listen"] : []);
        }

        var reached = new List<(OracleGate, int)>();
        foreach (var gate in Requirements(now))
        {
            var distances = items.Count > 0 ? items.Select(i => Distance(gate, i, request, now)) : [DistanceOfNothing(gate, request, now)];
            if (distances.Where(d => d is not null).Min() is { } nearest)
            {
                reached.Add((gate, nearest));
            }
        }

        return Conclude(visitor, acts, now, reached);
    }

    /// <summary>Whether no item stands above itself.</summary>
    public static bool IsWithoutRings(IReadOnlyList<OracleItem> items)
    {
        var evaluator = new Evaluator(new World(items, [], [], false));
        bool Reaches(OracleItem from, OracleItem to, int steps) => steps > 0 && evaluator.Parents(from).Any(p => p.Id == to.Id || Reaches(p, to, steps - 1));
        return items.All(i => !Reaches(i, i, items.Count + 1));
    }

    private IEnumerable<OracleGate> InForce(DateTimeOffset now) => world.Gates.Where(g => g.Enabled && !(g.From > now) && !(g.Until <= now));

    private IEnumerable<OracleGate> Requirements(DateTimeOffset now) => InForce(now).Where(g => !g.Exempts);

    private IEnumerable<Address> ExemptPaths(DateTimeOffset now) =>
        InForce(now).Where(g => g.Exempts).SelectMany(g => g.Covers).Where(c => c.StartsWith("path:", StringComparison.Ordinal)).Select(c => Read(c[5..]));

    private bool IsExempt(OracleItem item, bool itself, DateTimeOffset now) =>
        InForce(now).Any(g => g.Exempts && g.Covers.Contains(item.Id) && (itself || !g.ItemOnly));

    private OracleItem Find(string id) => world.Items.FirstOrDefault(i => i.Id == id) ?? new OracleItem("site", [], []);

    /// <summary>How near an unlifted way of the gate to the item is; null where there is none.</summary>
    private int? Distance(OracleGate gate, OracleItem item, Address? request, DateTimeOffset now)
    {
        var ways = new List<int>();
        foreach (var cover in gate.Covers)
        {
            if (cover.StartsWith("path:", StringComparison.Ordinal))
            {
                var pattern = Read(cover[5..]);
                var reaches = item.Addresses.Any(a => pattern.Holds(Read(a))) || (request is not null && pattern.Holds(request));
                if (reaches && !IsExempt(item, true, now) && !IsLiftedByPaths(item, request, pattern.Rank, now))
                {
                    ways.Add(OfPath);
                }
            }
            else if (Steps(item, cover, gate.ItemOnly, now) is { } steps && !(cover == "site" && IsLiftedByPaths(item, request, -1, now)))
            {
                ways.Add(cover == "site" ? OfSite : steps);
            }
        }

        return ways.Count == 0 ? null : ways.Min();
    }

    private int? DistanceOfNothing(OracleGate gate, Address request, DateTimeOffset now)
    {
        var ways = new List<int>();
        foreach (var cover in gate.Covers)
        {
            if (cover.StartsWith("path:", StringComparison.Ordinal) && Read(cover[5..]) is var pattern && pattern.Holds(request)
                && !IsLiftedByPaths(null, request, pattern.Rank, now))
            {
                ways.Add(OfPath);
            }
            else if (cover == "site" && !gate.ItemOnly && !IsLiftedByPaths(null, request, -1, now))
            {
                ways.Add(OfSite);
            }
        }

        return ways.Count == 0 ? null : ways.Min();
    }

    /// <summary>Whether a longer exempt pattern lifts: at the address asked for, or, by name, at each address that the item has.</summary>
    private bool IsLiftedByPaths(OracleItem? item, Address? request, int rank, DateTimeOffset now)
    {
        var exempt = ExemptPaths(now).Where(e => e.Rank > rank).ToList();
        return request is not null ? exempt.Exists(e => e.Holds(request))
            : item!.Addresses.Length > 0 && item.Addresses.All(a => exempt.Exists(e => e.Holds(Read(a))));
    }

    /// <summary>The fewest steps of an upward route to an item on which nothing before it is exempt; null where each route meets an exemption.</summary>
    private int? Steps(OracleItem start, string to, bool itemOnly, DateTimeOffset now)
    {
        var found = new List<int>();
        void Walk(OracleItem at, int steps)
        {
            if (at.Id == to)
            {
                found.Add(steps);
                return;
            }

            if (IsExempt(at, at.Id == start.Id, now))
            {
                return;
            }

            foreach (var parent in Parents(at))
            {
                Walk(parent, steps + 1);
            }
        }

        if (itemOnly)
        {
            return start.Id == to ? 0 : null;
        }

        Walk(start, 0);
        return found.Count == 0 ? null : found.Min();
    }

    private List<OracleItem> Parents(OracleItem item)
    {
        if (item.Id == "site")
        {
            return [];
        }

        var mine = item.Addresses.Select(Read).Where(a => !a.IsPattern).ToList();
        var above = item.Parents.Select(Find).ToList();
        above.AddRange(world.Items.Where(o => o.Id != item.Id && o.Id != "site" && !above.Contains(o)
            && o.Addresses.Select(Read).Any(p => p.IsPattern && mine.Exists(p.Holds))));
        return above.Count > 0 ? above : [Find("site")];
    }

    private List<OracleItem> Resolve(Address request)
    {
        var all = world.Items.SelectMany(i => i.Addresses.Select(a => (Item: i, Address: Read(a)))).Where(m => m.Address.Holds(request)).ToList();
        if (all.Exists(m => m.Address.Pairs.Length > 0))
        {
            all.RemoveAll(m => m.Address.Pairs.Length == 0);
        }

        var literal = all.Where(m => !m.Address.IsPattern).ToList();
        var longest = all.Select(m => m.Address.Prefix).DefaultIfEmpty().Max();
        return [.. (literal.Count > 0 ? literal : all.Where(m => m.Address.Prefix == longest)).Select(m => m.Item).Distinct()];
    }

    private Verdict Conclude(OracleVisitor visitor, IReadOnlyList<string> acts, DateTimeOffset now, IEnumerable<(OracleGate Gate, int Distance)> reached)
    {
        _ = now;
        var signedIn = visitor is { Email: not null, Status: "active" };
        var refused = reached.Where(r => acts.Any(a => Guards(r.Gate, a)) && !r.Gate.Audience.Admits(visitor, r.Gate.Key, signedIn))
            .OrderBy(r => r.Distance).ThenBy(r => r.Gate.Key, StringComparer.Ordinal).Select(r => r.Gate).FirstOrDefault();
        if (refused is null || (world.StaffPasses && signedIn && visitor.Facts.Any(f => f is "role:editor" or "role:owner")))
        {
            return new Verdict(true, null, null);
        }

        var passwordMissing = refused.Audience.AsksForPassword && !visitor.Unlocked.Contains(refused.Key);
        var answer = refused.Answer switch
        {
            "auto" or "password" when passwordMissing => "password",
            "auto" or "password" or "sign-in" => signedIn ? "message" : "sign-in",
            var set => set,
        };
        return new Verdict(false, refused.Key, answer);
    }

    private static bool Guards(OracleGate gate, string act) => act == "list" ? gate.Hidden : gate.Acts.Length == 0 || gate.Acts.Contains(act);

    /// <summary>An address in the form in which addresses are compared.</summary>
    private static Address Read(string text)
    {
        var mark = text.IndexOf('?', StringComparison.Ordinal);
        var segments = new List<string>();
        foreach (var segment in Uri.UnescapeDataString(mark < 0 ? text : text[..mark]).ToLowerInvariant().Split('/'))
        {
            if (segment == "..")
            {
                segments.RemoveAt(segments.Count - 1);
            }
            else if (segment is not ("" or "."))
            {
                segments.Add(segment);
            }
        }

        while (segments.Count > 0 && IndexNames.Contains(segments[^1]))
        {
            segments.RemoveAt(segments.Count - 1);
        }

        return new Address([.. segments], mark < 0 ? [] : text[(mark + 1)..].ToLowerInvariant().Split('&'));
    }

    private sealed record Address(string[] Segments, string[] Pairs)
    {
        private static readonly string[] Paths = [.. Through(4)];
        private static readonly ConcurrentDictionary<string, HashSet<string>> Found = new(StringComparer.Ordinal);

        public bool IsPattern => Segments.Any(s => s.Contains('*'));

        public int Prefix => Segments.TakeWhile(s => !s.Contains('*')).Count();

        private bool IsOdd => Segments.Where((s, at) => s.Contains('*') && s != "*" && (s != "**" || at < Segments.Length - 1)).Any();

        public int Rank => IsPattern ? Prefix : 1000 + Prefix;

        /// <summary>Whether everything that the other stands for is matched by this one.</summary>
        public bool Holds(Address other) => Pairs.All(other.Pairs.Contains)
            && (IsOdd || (other.IsPattern && other.IsOdd) ? HoldsByTrial(other) : Holds(Segments, other.Segments));

        /// <summary>Tries every short path of few letters; one that the other stands for alone says no.</summary>
        private bool HoldsByTrial(Address other) => other.IsPattern ? other.All().IsSubsetOf(All())
            : Reads().IsMatch(string.Concat(other.Segments.Select(s => "/" + s)));

        private HashSet<string> All() => Found.GetOrAdd(string.Join('/', Segments), _ => [.. Paths.Where(path => Reads().IsMatch(path))]);

        private Regex Reads() => new("^" + string.Concat(Segments.Select((s, at) => s == "**" ? at == Segments.Length - 1 ? "(/.*)?" : "(/[^/]+)*"
            : s == "*" ? "/[^/]+" : "/" + s.Replace("[!", "[^/", StringComparison.Ordinal).Replace("*", "[^/]*", StringComparison.Ordinal))) + "$");

        private static IEnumerable<string> Through(int depth) => depth == 0 ? [""]
            : Through(depth - 1).SelectMany(path => new[] { "/a", "/b", "/c", "/x", "/xc", "/qc", "/q" }.Select(s => path + s).Append(path)).Distinct();

        private static bool Holds(ReadOnlySpan<string> mine, ReadOnlySpan<string> theirs) =>
            mine.Length == 0 ? theirs.Length == 0
            : mine[0] == "**" || (theirs.Length > 0 && theirs[0] != "**" && (mine[0] == "*" || (theirs[0] != "*" && mine[0] == theirs[0]))
            && Holds(mine[1..], theirs[1..]));
    }
}
