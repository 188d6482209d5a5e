namespace WarySentinel.Core.Catalogue;

/// <content>Items by their titles: found by any part, and in the order of the site's language. Both are made when first asked for.</content>
public sealed partial class CatalogueGraph
{
    private string[]? searched;
    private (string Language, int[] Ranks)? sorted;

    /// <summary>The places whose title or name holds the text, without regard to case, accents and how they were typed.</summary>
    public IEnumerable<int> Search(string text)
    {
        var part = Spelling.Folded(text.Trim());
        var texts = searched ??= Array.ConvertAll(items, i => $"{Spelling.Folded(i.Title)}\n{i.Id}");
        return Enumerable.Range(0, items.Length).Where(place => texts[place].Contains(part, StringComparison.Ordinal));
    }

    /// <summary>For each place, where its title stands in the order of a language.</summary>
    /// <param name="language">Its tag (RFC 5646).</param>
    public int[] RanksIn(string language)
    {
        if (sorted is { } known && known.Language == language)
        {
            return known.Ranks;
        }

        var ranks = Spelling.RanksOf(Array.ConvertAll(items, i => i.Title), language);
        sorted = (language, ranks);
        return ranks;
    }
}
