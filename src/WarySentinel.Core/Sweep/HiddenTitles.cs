namespace WarySentinel.Core.Sweep;

/// <summary>Titles of hidden items, found in data of any sort: an index, a list, a feed.</summary>
public sealed class HiddenTitles
{
    private const int MostWords = 12;
    private const int LeastWords = 2;
    private const int LeastLetters = 9;
    private readonly Dictionary<string, string> itemOf = new(StringComparer.Ordinal);
    private readonly Dictionary<string, int> longest = new(StringComparer.Ordinal);
    private readonly HashSet<string> open = new(StringComparer.Ordinal);

    /// <summary>Reads titles.</summary>
    /// <param name="hidden">Items that an outsider may not know of, with their titles.</param>
    /// <param name="open">Titles that are no secret.</param>
    public HiddenTitles(IEnumerable<(string Item, string Title)> hidden, IEnumerable<string> open)
    {
        var known = open.Select(Key).ToHashSet(StringComparer.Ordinal);
        foreach (var (item, title) in hidden)
        {
            var words = Phrases.WordsOf(title);
            var key = string.Join(' ', words);
            if (words.Count is >= LeastWords and <= MostWords && key.Length >= LeastLetters && !known.Contains(key) && itemOf.TryAdd(key, item))
            {
                longest[words[0]] = Math.Max(longest.GetValueOrDefault(words[0]), words.Count);
            }
        }
    }

    /// <summary>Notes the words of an open page as an outsider reads it: a title that stands there is no secret.</summary>
    public void Open(string text)
    {
        foreach (var title in Met(text))
        {
            lock (open)
            {
                open.Add(title);
            }
        }
    }

    /// <summary>The titles that stand in a text.</summary>
    public IReadOnlyList<string> In(string text) => [.. Met(text).Distinct(StringComparer.Ordinal)];

    /// <summary>The items whose titles these are, but for those that are no secret, with the titles.</summary>
    public IReadOnlyList<(string Item, string Title)> Of(IEnumerable<string> titles) =>
        [.. titles.Where(t => !open.Contains(t)).Select(t => (itemOf[t], t))];

    private static string Key(string title) => string.Join(' ', Phrases.WordsOf(title));

    private IEnumerable<string> Met(string text)
    {
        if (itemOf.Count == 0)
        {
            yield break;
        }

        var words = Phrases.WordsOf(text);
        for (var at = 0; at < words.Count; at++)
        {
            if (!longest.TryGetValue(words[at], out var most))
            {
                continue;
            }

            var key = words[at];
            for (var n = 1; n < most && at + n < words.Count; n++)
            {
                key += " " + words[at + n];
                if (itemOf.ContainsKey(key))
                {
                    yield return key;
                }
            }
        }
    }
}
