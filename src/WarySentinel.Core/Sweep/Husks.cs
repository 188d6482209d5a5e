using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using WarySentinel.Core.Entries;

namespace WarySentinel.Core.Sweep;

/// <summary>
/// Finds husks: what is left of an entry about something hidden when only its link is gone. An entry is what <see cref="EntryFinder"/> finds; a husk is a text
/// that stands nowhere in the origin's page but in that entry, and stands in what an outsider got all the same.
/// </summary>
public sealed class Husks
{
    private const int ShortestText = 4;
    private const int MostEntries = 500;
    private readonly List<(string About, IReadOnlyList<string> Texts)> entries = [];

    private Husks()
    {
    }

    /// <summary>Reads the page as the origin gives it.</summary>
    /// <param name="html">The page.</param>
    /// <param name="isItem">Whether an address in a link leads to something of the catalogue.</param>
    /// <param name="leads">Whether it leads to a page of the site.</param>
    public static Husks Of(string html, Func<string, bool> isItem, Func<string, bool> leads)
    {
        var husks = new Husks();
        var page = new HtmlParser().ParseDocument(html);
        var all = Texts(page.DocumentElement).GroupBy(t => t, StringComparer.Ordinal).ToDictionary(g => g.Key, g => g.Count(), StringComparer.Ordinal);
        foreach (var found in EntryFinder.OnPage(html, isItem, leads).Where(f => f.Items > 0))
        {
            foreach (var entry in page.QuerySelectorAll(found.Draft.Entry!).Take(MostEntries))
            {
                var own = Texts(entry).GroupBy(t => t, StringComparer.Ordinal).Where(g => g.Count() == all[g.Key]).Select(g => g.Key).ToList();
                if (EntryFinder.AboutOf(entry, leads) is { } about && own.Count > 0)
                {
                    husks.entries.Add((about, own));
                }
            }
        }

        return husks;
    }

    /// <summary>What hidden entries are about of which a text is left in a page.</summary>
    /// <param name="html">The page as somebody got it.</param>
    /// <param name="isHidden">Whether an address leads to something that they may not know of.</param>
    public IReadOnlyList<string> LeftIn(string html, Func<string, bool> isHidden)
    {
        var hidden = entries.Where(e => isHidden(e.About)).ToList();
        if (hidden.Count == 0)
        {
            return [];
        }

        var left = Texts(new HtmlParser().ParseDocument(html).DocumentElement).ToHashSet(StringComparer.Ordinal);
        return [.. hidden.Where(e => e.Texts.Any(left.Contains)).Select(e => e.About).Distinct(StringComparer.Ordinal)];
    }

    /// <summary>Texts of a page that say something, as one reads them.</summary>
    private static IEnumerable<string> Texts(INode node) => node.Descendants<IText>()
        .Where(t => t.ParentElement is not { LocalName: "script" or "style" or "noscript" or "template" })
        .Select(t => string.Join(' ', t.Data.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries))).Where(t => t.Length >= ShortestText);
}
