namespace WarySentinel.Core.Catalogue;

/// <summary>
/// Paths and path patterns in a tree by their segments, so that what matches a path is found in the time its length takes,
/// however many patterns there are. Query parts are the caller's to compare.
/// </summary>
/// <param name="inDoubt">Whether a pattern counts where it is too much to work out that it matches all that another stands for.</param>
internal sealed class PathTree<T>(bool inDoubt)
{
    private readonly Node root = new();

    /// <summary>Whether nothing stands in it.</summary>
    public bool IsEmpty { get; private set; } = true;

    /// <summary>Adds what stands under an address.</summary>
    public void Add(string[] segments, T value)
    {
        IsEmpty = false;
        var at = root;
        for (var n = 0; n < segments.Length; n++)
        {
            var segment = segments[n];
            if (Glob.IsGlob(segment) || (segment == "**" && n < segments.Length - 1))
            {
                (at.Odd ??= []).Add((segments[n..], value));
                return;
            }

            if (segment == "**")
            {
                (at.Rest ??= []).Add(value);
                return;
            }

            at = segment == "*" ? at.Star ??= new Node() : at.Literal(segment);
        }

        (at.Here ??= []).Add(value);
    }

    /// <summary>Adds to the list what stands under every address that matches the path, or that matches all a pattern stands for.</summary>
    /// <param name="segments">The path's segments.</param>
    /// <param name="asPattern">Whether stars in it are stars.</param>
    /// <param name="found">Taken in no particular order.</param>
    public void Find(string[] segments, bool asPattern, List<T> found)
    {
        if (!IsEmpty)
        {
            Find(root, segments, 0, asPattern, found);
        }
    }

    private void Find(Node at, string[] segments, int next, bool asPattern, List<T> found)
    {
        foreach (var (pattern, value) in at.Odd ?? [])
        {
            if (asPattern ? Address.CoversSegments(pattern, segments[next..], true, inDoubt) : Glob.Matches(pattern, segments.AsSpan(next)))
            {
                found.Add(value);
            }
        }

        if (at.Rest is not null)
        {
            found.AddRange(at.Rest);
        }

        if (next == segments.Length)
        {
            found.AddRange(at.Here ?? []);
            return;
        }

        var segment = segments[next];
        if (asPattern && segment == "**")
        {
            return;
        }

        if (at.Star is not null && segment.Length > 0)
        {
            Find(at.Star, segments, next + 1, asPattern, found);
        }

        if (!(asPattern && segment.Contains('*', StringComparison.Ordinal)) && at.Literals is not null && at.Literals.TryGetValue(segment, out var inner))
        {
            Find(inner, segments, next + 1, asPattern, found);
        }
    }

    private sealed class Node
    {
        public Dictionary<string, Node>? Literals { get; private set; }

        public Node? Star { get; set; }

        public List<T>? Rest { get; set; }

        /// <summary>Patterns that go beyond whole segments from here on.</summary>
        public List<(string[] Pattern, T Value)>? Odd { get; set; }

        public List<T>? Here { get; set; }

        public Node Literal(string segment)
        {
            Literals ??= new Dictionary<string, Node>(StringComparer.Ordinal);
            if (!Literals.TryGetValue(segment, out var inner))
            {
                Literals.Add(segment, inner = new Node());
            }

            return inner;
        }
    }
}
