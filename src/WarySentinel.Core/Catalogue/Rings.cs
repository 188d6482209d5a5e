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
    /// The strongly connected parts of more than one place, each in an order along its edges as far as one ring of them goes. Tarjan's way,
    /// in linear time, without recursion.
    /// </summary>
    public static IReadOnlyList<IReadOnlyList<int>> Of(int[][] parents)
    {
        var found = new List<IReadOnlyList<int>>();
        var (number, low, next) = (new int[parents.Length], new int[parents.Length], new int[parents.Length]);
        var onStack = new bool[parents.Length];
        var (stack, walk) = (new Stack<int>(), new Stack<int>());
        var count = 0;
        for (var start = 0; start < parents.Length; start++)
        {
            if (number[start] != 0)
            {
                continue;
            }

            walk.Push(start);
            while (walk.TryPeek(out var at))
            {
                if (number[at] == 0)
                {
                    number[at] = low[at] = ++count;
                    stack.Push(at);
                    onStack[at] = true;
                }

                if (next[at] < parents[at].Length)
                {
                    var up = parents[at][next[at]++];
                    if (number[up] == 0)
                    {
                        walk.Push(up);
                    }
                    else if (onStack[up])
                    {
                        low[at] = Math.Min(low[at], number[up]);
                    }

                    continue;
                }

                walk.Pop();
                if (walk.TryPeek(out var below))
                {
                    low[below] = Math.Min(low[below], low[at]);
                }

                if (low[at] == number[at])
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
                        found.Add(Along(parents, part));
                    }
                }
            }
        }

        return found;
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
}
