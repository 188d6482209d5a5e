using AngleSharp.Html.Parser;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Service.Catalogue;

/// <summary>
/// Reads what people call the pages that a sitemap names by their addresses alone: from the pages themselves. Those that the catalogue knows keep their titles
/// and are not asked for.
/// </summary>
public sealed class SitemapTitles(Fetcher fetcher, Uri start)
{
    private const int Most = 2000;
    private const int AtOnce = 4;
    private const int MostInVain = 5;
    private static readonly HashSet<string> Pages = new(StringComparer.OrdinalIgnoreCase) { "", ".html", ".htm", ".xhtml", ".php", ".asp", ".aspx", ".jsp" };
    private static readonly HtmlParser Parser = new();

    /// <summary>The same things, with the titles of those pages that gave one.</summary>
    /// <param name="found">What the sitemap names.</param>
    /// <param name="isKnown">Whether the catalogue knows an address.</param>
    /// <param name="tell">Told pages done, and out of how many.</param>
    /// <param name="stop">Cancels it.</param>
    public async Task<IReadOnlyList<DiscoveredItem>> ReadAsync(
        IReadOnlyList<DiscoveredItem> found, Func<string, bool> isKnown, Action<int, int> tell, CancellationToken stop)
    {
        var titles = new string?[found.Count];
        var wanted = Enumerable.Range(0, found.Count).Where(n => found[n] is { Title: null, Address: { } address } && IsPage(address) && !isKnown(address))
            .Take(Most).ToList();
        var (done, inVain) = (0, 0);
        await Parallel.ForEachAsync(wanted, new ParallelOptions { MaxDegreeOfParallelism = AtOnce, CancellationToken = stop }, async (n, cancel) =>
        {
            // A site that answers none of the first answers none: what it is called by its address is good enough.
            if (Volatile.Read(ref inVain) < MostInVain)
            {
                titles[n] = await TitleAtAsync(found[n].Address!, cancel);
                inVain = titles[n] is null ? inVain + 1 : int.MinValue;
            }

            tell(Interlocked.Increment(ref done), wanted.Count);
        });
        return PageTitles.WithoutSiteName([.. found.Select((item, n) => titles[n] is { } title ? item with { Title = title } : item)]);
    }

    private static bool IsPage(string address) => Pages.Contains(Path.GetExtension(address.Split('?')[0]));

    private async Task<string?> TitleAtAsync(string address, CancellationToken stop)
    {
        try
        {
            var fetched = await fetcher.GetAsync(new Uri(start, address), stop);
            if (fetched.Status != 200 || !fetched.Type.Contains("html", StringComparison.Ordinal))
            {
                return null;
            }

            using var document = Parser.ParseDocument(new MemoryStream(fetched.Body));
            return SiteWalk.TitleOf(document);
        }
        catch (SourceException)
        {
            return null;
        }
    }
}
