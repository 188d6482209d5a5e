namespace WarySentinel.Core.Sweep;

/// <summary>Titles of hidden items, found in data of any sort: an index, a list, a feed.</summary>
public sealed class HiddenTitles
{
    private const int MostWords = 12;
    private const int LeastWords = 2;
    private const int LeastLetters = 9;
    private readonly Dictionary<ulong, (string Item, string Title)> itemOf = [];
    private readonly Dictionary<ulong, int> longest = [];
    private readonly HashSet<ulong> open = [];

    /// <summary>Reads titles.</summary>
    /// <param name="hidden">Items that an outsider may not know of, with their titles.</param>
    /// <param name="open">Titles that are no secret.</param>
    public HiddenTitles(IEnumerable<(string Item, string Title)> hidden, IEnumerable<string> open)
    {
        var known = open.Select(Key).ToHashSet();
        foreach (var (item, title) in hidden)
        {
            using var words = WordRun.Of(title);
            if (words.Count is < LeastWords or > MostWords)
            {
                continue;
            }

            var (key, said) = (words.Join(0, words.Count), words.Words(0, words.Count));
            if (said.Length >= LeastLetters && !known.Contains(key) && itemOf.TryAdd(key, (item, said)))
            {
                longest[words[0]] = Math.Max(longest.GetValueOrDefault(words[0]), words.Count);
            }
        }
    }

    /// <summary>Notes titles that stand on an open page as an outsider reads it: they are no secret.</summary>
    public void Open(IEnumerable<ulong> titles)
    {
        lock (open)
        {
            open.UnionWith(titles);
        }
    }

    /// <summary>The titles that stand in a text, by number.</summary>
    public IReadOnlyList<ulong> In(string text)
    {
        if (itemOf.Count == 0)
        {
            return [];
        }

        using var words = WordRun.Of(text);
        var met = new HashSet<ulong>();
        for (var at = 0; at < words.Count; at++)
        {
            if (!longest.TryGetValue(words[at], out var most))
            {
                continue;
            }

            for (var many = LeastWords; many <= most && at + many <= words.Count; many++)
            {
                if (words.Join(at, many) is var key && itemOf.ContainsKey(key))
                {
                    met.Add(key);
                }
            }
        }

        return [.. met];
    }

    /// <summary>The items whose titles these are, but for those that are no secret, with the titles.</summary>
    public IReadOnlyList<(string Item, string Title)> Of(IEnumerable<ulong> titles) => [.. titles.Where(t => !open.Contains(t)).Select(t => itemOf[t])];

    private static ulong Key(string title)
    {
        using var words = WordRun.Of(title);
        return words.Join(0, words.Count);
    }
}
