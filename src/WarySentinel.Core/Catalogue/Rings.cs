namespace WarySentinel.Core.Catalogue;

/// <summary>Finds rings of parents.</summary>
internal static class Rings
{
    private const int MostTold = 12;

    /// <summary>A ring as people read it.</summary>
    public static Wording Told(IEnumerable<ItemId> ring)
    {
        var names = ring.Select(i => i.ToString()).ToList();
        return names.Count <= MostTold ? Wording.Plain(string.Join(" → ", names.Append(names[0])))
            : Wording.Of("item.ring-more", string.Join(" → ", names.Take(MostTold)), names.Count - MostTold);
    }

    /// <summary>
    /// The strongly connected parts of more than one place, each in an order along its edges as far as one ring of them goes.
    /// </summary>
    public static IReadOnlyList<IReadOnlyList<int>> Of(int[][] parents)
    {
        var search = new Search(parents);
        for (var start = 0; start < parents.Length; start++)
        {
            search.From(start);
        }

        return search.Found;
    }

    /// <summary>The part, beginning with one ring in it in order.</summary>
    private static List<int> Along(int[][] parents, List<int> part)
    {
        var inside = part.ToHashSet();
        var (seen, way) = (new Dictionary<int, int>(), new List<int>());
        var at = part.Min();
        while (seen.TryAdd(at, way.Count))
        {
            way.Add(at);
            at = parents[at].First(inside.Contains);
        }

        way.RemoveRange(0, seen[at]);
        return [.. way, .. part.Except(way)];
    }

    /// <summary>Tarjan's way, in linear time, without recursion.</summary>
    private sealed class Search(int[][] parents)
    {
        private readonly int[] number = new int[parents.Length];
        private readonly int[] low = new int[parents.Length];
        private readonly int[] next = new int[parents.Length];
        private readonly bool[] onStack = new bool[parents.Length];
        private readonly Stack<int> stack = [];
        private readonly Stack<int> walk = [];
        private int count;

        public List<IReadOnlyList<int>> Found { get; } = [];

        public void From(int start)
        {
            if (number[start] != 0)
            {
                return;
            }

            walk.Push(start);
            while (walk.TryPeek(out var at))
            {
                Reach(at);
                if (next[at] < parents[at].Length)
                {
                    Follow(at, parents[at][next[at]++]);
                    continue;
                }

                walk.Pop();
                Leave(at);
            }
        }

        private void Leave(int at)
        {
            if (walk.TryPeek(out var below))
            {
                low[below] = Math.Min(low[below], low[at]);
            }

            if (low[at] == number[at])
            {
                Close(at);
            }
        }

        private void Reach(int at)
        {
            if (number[at] == 0)
            {
                number[at] = low[at] = ++count;
                stack.Push(at);
                onStack[at] = true;
            }
        }

        private void Follow(int at, int up)
        {
            if (number[up] == 0)
            {
                walk.Push(up);
            }
            else if (onStack[up])
            {
                low[at] = Math.Min(low[at], number[up]);
            }
        }

        /// <summary>Takes a part that nothing leads out of off the stack.</summary>
        private void Close(int at)
        {
            var part = new List<int>();
            int member;
            do
            {
                member = stack.Pop();
                onStack[member] = false;
                part.Add(member);
            }
            while (member != at);
            if (part.Count > 1 || parents[at].Contains(at))
            {
                Found.Add(Along(parents, part));
            }
        }
    }
}
