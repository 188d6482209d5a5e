using System.Runtime.CompilerServices;

namespace WarySentinel.Core.Catalogue;

/// <content>Items by their titles: found by any part, and in the order of the site's language. Both are made when first asked for.</content>
public sealed partial class CatalogueGraph
{
    /// <summary>An item outlives the graph that it stands in, and its key with it: after a change of a few, only theirs are made anew.</summary>
    private static readonly ConditionalWeakTable<Item, SortKey> Keys = [];

    private string[]? searched;
    private Sorted? sorted;

    private sealed record SortKey(string Language, byte[] Bytes);

    private sealed record Sorted(string Language, int[] Ranks);

    /// <summary>The places whose title or name holds the text, without regard to case, accents and how they were typed.</summary>
    public IEnumerable<int> Search(string text)
    {
        var part = Spelling.Folded(text.Trim());
        var texts = searched ??= Array.ConvertAll(items, i => $"{Spelling.Folded(i.Title)}\n{i.Id}");
        return Enumerable.Range(0, items.Length).Where(place => texts[place].Contains(part, StringComparison.Ordinal));
    }

    /// <summary>For each place, where its title stands in the order of a language; equal titles stand as their places do.</summary>
    /// <param name="language">Its tag (RFC 5646).</param>
    public int[] RanksIn(string language)
    {
        if (sorted is { } known && known.Language == language)
        {
            return known.Ranks;
        }

        var keys = new byte[items.Length][];
        Parallel.For(0, keys.Length, i => keys[i] = KeyOf(items[i], language));
        int[] order = [.. Enumerable.Range(0, keys.Length)];
        Array.Sort(order, (a, b) => keys[a].AsSpan().SequenceCompareTo(keys[b]) is not 0 and var way ? way : a - b);
        var ranks = new int[order.Length];
        for (var i = 0; i < order.Length; i++)
        {
            ranks[order[i]] = i;
        }

        sorted = new Sorted(language, ranks);
        return ranks;
    }

    private static byte[] KeyOf(Item item, string language)
    {
        if (Keys.TryGetValue(item, out var known) && known.Language == language)
        {
            return known.Bytes;
        }

        var made = new SortKey(language, Spelling.SortKeyOf(item.Title, language));
        Keys.AddOrUpdate(item, made);
        return made.Bytes;
    }
}
