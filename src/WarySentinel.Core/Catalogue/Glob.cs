using System.Numerics;

namespace WarySentinel.Core.Catalogue;

/// <summary>
/// Path patterns beyond whole segments (docs/reference/audiences.md, “Addresses”): <c>**</c> inside of a path stands for any number of segments, a star
/// beside other characters for any run of them in its segment, and in such a segment <c>[a-f]</c> for one of a class, <c>[!a-f]</c> for one of none.
/// Matching takes time that grows with pattern times path, whatever stands in them.
/// </summary>
internal static class Glob
{
    /// <summary>A pattern of this kind is at most so long: whether it covers another is worked out sign by sign.</summary>
    public const int Longest = 200;

    private const int MostPairs = 50_000;

    /// <summary>Whether a segment is a pattern of its own: a star beside other characters.</summary>
    public static bool IsGlob(string segment) => segment.Length > 1 && segment != "**" && segment.Contains('*', StringComparison.Ordinal);

    /// <summary>Whether a path pattern goes beyond whole segments and a rest at its end.</summary>
    public static bool IsOdd(string[] segments)
    {
        for (var at = 0; at < segments.Length; at++)
        {
            if (IsGlob(segments[at]) || (segments[at] == "**" && at < segments.Length - 1))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>What is wrong with a segment, as a key of words; null for nothing.</summary>
    public static string? FaultOf(string segment)
    {
        if (segment.Contains("**", StringComparison.Ordinal) && segment != "**")
        {
            return "address.stars";
        }

        for (var at = 0; IsGlob(segment) && at < segment.Length; at++)
        {
            if (segment[at] == '[' && (at = EndOfClass(segment, at)) < 0)
            {
                return "address.class";
            }
        }

        return null;
    }

    /// <summary>Whether a path matches a pattern.</summary>
    public static bool Matches(ReadOnlySpan<string> pattern, ReadOnlySpan<string> path)
    {
        // Where a run of segments does not work out, the last one takes one more: the earlier ones need not be tried again.
        var (p, s, deep, from) = (0, 0, -1, 0);
        while (s < path.Length)
        {
            if (p < pattern.Length && pattern[p] == "**")
            {
                if (p == pattern.Length - 1)
                {
                    return true;
                }

                (deep, from) = (p++, s);
            }
            else if (p < pattern.Length && MatchesSegment(pattern[p], path[s]))
            {
                p++;
                s++;
            }
            else if (deep >= 0)
            {
                (p, s) = (deep + 1, ++from);
            }
            else
            {
                return false;
            }
        }

        return p == pattern.Length || (p == pattern.Length - 1 && pattern[p] == "**");
    }

    private static bool MatchesSegment(string pattern, string segment)
    {
        if (!pattern.Contains('*', StringComparison.Ordinal))
        {
            return pattern == segment;
        }

        if (pattern == "*")
        {
            return segment.Length > 0;
        }

        var (p, s, star, from) = (0, 0, -1, 0);
        while (s < segment.Length)
        {
            if (p < pattern.Length && pattern[p] == '*')
            {
                (star, from) = (p++, s);
            }
            else if (p < pattern.Length && MatchesSign(pattern, p, segment[s]) is > 0 and var used)
            {
                p += used;
                s++;
            }
            else if (star >= 0)
            {
                (p, s) = (star + 1, ++from);
            }
            else
            {
                return false;
            }
        }

        while (p < pattern.Length && pattern[p] == '*')
        {
            p++;
        }

        return p == pattern.Length;
    }

    /// <summary>How much of the pattern stands for that sign; 0 where it does not.</summary>
    private static int MatchesSign(string pattern, int at, char sign)
    {
        if (pattern[at] != '[')
        {
            return pattern[at] == sign ? 1 : 0;
        }

        var end = EndOfClass(pattern, at);
        return IsInClass(pattern.AsSpan(at + 1, end - at - 1), sign) ? end - at + 1 : 0;
    }

    private static int EndOfClass(string pattern, int at)
    {
        var from = at + (at + 1 < pattern.Length && pattern[at + 1] == '!' ? 2 : 1);
        // A bracket that stands first is one of the class.
        return from < pattern.Length ? pattern.IndexOf(']', from + 1) : -1;
    }

    private static bool IsInClass(ReadOnlySpan<char> said, char sign)
    {
        var isNot = said[0] == '!';
        said = isNot ? said[1..] : said;
        for (var at = 0; at < said.Length; at++)
        {
            var isRange = at + 2 < said.Length && said[at + 1] == '-';
            if (isRange ? sign >= said[at] && sign <= said[at + 2] : sign == said[at])
            {
                return !isNot;
            }

            at += isRange ? 2 : 0;
        }

        return isNot;
    }

    /// <summary>
    /// Whether everything that one pattern stands for is matched by another; null where that is too much to work out. Both are read as machines over the
    /// signs of a path, of which only those matter that one of them tells apart.
    /// </summary>
    public static bool? Covers(string[] mine, string[] theirs)
    {
        var (a, b) = (new Machine(mine), new Machine(theirs));
        var signs = a.Signs.Union(b.Signs).Append('/').Append('\uFFFE').Distinct().ToArray();
        var seen = new HashSet<(int, BigInteger)>();
        var open = new Stack<(int Theirs, BigInteger Mine)>();
        foreach (var start in b.Closure([0]))
        {
            open.Push((start, Machine.Set(a.Closure([0]))));
        }

        while (open.TryPop(out var pair))
        {
            if (!seen.Add(pair))
            {
                continue;
            }

            if (seen.Count > MostPairs)
            {
                return null;
            }

            if (pair.Theirs == b.Last && (pair.Mine & (BigInteger.One << a.Last)).IsZero)
            {
                return false;
            }

            foreach (var sign in signs)
            {
                var next = b.Closure(b.Step(pair.Theirs, sign));
                if (next.Count > 0)
                {
                    var after = Machine.Set(a.Closure(a.Members(pair.Mine).SelectMany(state => a.Step(state, sign))));
                    next.ForEach(state => open.Push((state, after)));
                }
            }
        }

        return true;
    }

    /// <summary>A pattern as a machine: a state between any two of its signs.</summary>
    private sealed class Machine
    {
        private readonly List<(int From, Func<char, bool> Takes, int To)> steps = [];
        private readonly List<(int From, int To)> free = [];
        private ILookup<int, (int From, Func<char, bool> Takes, int To)>? byState;
        private ILookup<int, (int From, int To)>? freeByState;

        public Machine(string[] segments)
        {
            // A path is its segments, each behind a slash; the root is nothing at all.
            for (var n = 0; n < segments.Length; n++)
            {
                if (segments[n] == "**")
                {
                    // Any number of segments, each behind a slash.
                    var (around, inside) = (Last, New());
                    Add(around, sign => sign == '/', inside);
                    Add(inside, sign => sign != '/', inside);
                    Add(inside, sign => sign == '/', inside);
                    var after = New();
                    free.Add((around, after));
                    free.Add((inside, after));
                    continue;
                }

                Take(sign => sign == '/');
                AddSegment(segments[n]);
            }
        }

        public int Last { get; private set; }

        /// <summary>Signs that it tells apart, and those beside them.</summary>
        public HashSet<char> Signs { get; } = [];

        private int New() => ++Last;

        private void Add(int from, Func<char, bool> takes, int to) => steps.Add((from, takes, to));

        private void Take(Func<char, bool> takes)
        {
            var from = Last;
            Add(from, takes, New());
        }

        private void AddSegment(string segment)
        {
            if (segment == "*")
            {
                Take(sign => sign != '/');
                Add(Last, sign => sign != '/', Last);
                return;
            }

            var isGlob = IsGlob(segment);
            for (var at = 0; at < segment.Length; at++)
            {
                if (isGlob && segment[at] == '*')
                {
                    // A state of its own, so that what came before takes no more.
                    free.Add((Last, New()));
                    Add(Last, sign => sign != '/', Last);
                }
                else if (isGlob && segment[at] == '[')
                {
                    var end = EndOfClass(segment, at);
                    var said = segment[(at + 1)..end];
                    Signs.UnionWith(said.SelectMany(c => new[] { (char)(c - 1), c, (char)(c + 1) }));
                    Take(sign => sign != '/' && IsInClass(said, sign));
                    at = end;
                }
                else
                {
                    var wanted = segment[at];
                    Signs.Add(wanted);
                    Take(sign => sign == wanted);
                }
            }
        }

        public IEnumerable<int> Step(int state, char sign) =>
            (byState ??= steps.ToLookup(s => s.From))[state].Where(s => s.Takes(sign)).Select(s => s.To);

        public List<int> Closure(IEnumerable<int> states)
        {
            var (found, open) = (new HashSet<int>(), new Stack<int>(states));
            while (open.TryPop(out var state))
            {
                if (found.Add(state))
                {
                    foreach (var (_, to) in (freeByState ??= free.ToLookup(f => f.From))[state])
                    {
                        open.Push(to);
                    }
                }
            }

            return [.. found];
        }

        public static BigInteger Set(IEnumerable<int> states) => states.Aggregate(BigInteger.Zero, (set, state) => set | (BigInteger.One << state));

        public IEnumerable<int> Members(BigInteger set) => Enumerable.Range(0, Last + 1).Where(state => !(set & (BigInteger.One << state)).IsZero);
    }
}
