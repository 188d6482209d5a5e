using System.Xml;
using System.Xml.Linq;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Service.Catalogue;

/// <summary>Reads sitemaps (sitemaps.org 0.9, with index files) and feeds (RSS 2.0, Atom, RFC 4287).</summary>
public static class XmlSources
{
    private const int Deepest = 64;
    private const int MostFiles = 500;
    private const int MostFound = 1_000_000;

    /// <summary>What a document tells, and the further sitemaps that it names.</summary>
    /// <param name="body">The XML.</param>
    /// <param name="site">Gives the path and query on the site that an address stands for; null where it leads elsewhere.</param>
    public static (IReadOnlyList<DiscoveredItem> Found, IReadOnlyList<string> Further) Read(Stream body, Func<string, string?> site)
    {
        XDocument document;
        try
        {
            CheckDepth(body);
            using var reader = ReaderOf(body);
            document = XDocument.Load(reader);
        }
        catch (XmlException fault)
        {
            throw new SourceException(Wording.Of("discover.xml", fault.LineNumber, fault.LinePosition, fault.Message));
        }

        var root = document.Root!;
        return root.Name.LocalName switch
        {
            "sitemapindex" => ([], [.. root.Elements().Where(e => e.Name.LocalName == "sitemap").Select(e => Text(e, "loc")).OfType<string>()]),
            "urlset" => ([.. root.Elements().Where(e => e.Name.LocalName == "url").Select(e => site(Text(e, "loc") ?? "")).OfType<string>()
            .Select(a => new DiscoveredItem(a, null, null))], []),
            "rss" or "RDF" =>
            ([.. root.Descendants().Where(e => e.Name.LocalName == "item")
            .SelectMany(e => Entry(e, Text(e, "link") ?? Text(e, "guid"), Text(e, "guid"), site))], []),
            "feed" => ([.. root.Elements().Where(e => e.Name.LocalName == "entry").SelectMany(e => Entry(e, AtomLink(e), null, site))], []),
            var other => throw new SourceException(Wording.Of("discover.xml-kind", other)),
        };
    }

    // No document type: neither entities that grow nor files of this machine.
    private static XmlReader ReaderOf(Stream body) =>
        XmlReader.Create(body, new XmlReaderSettings
        { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null, MaxCharactersInDocument = 200_000_000, CloseInput = false });

    /// <summary>Looks the document through once: what stands too deep would take the whole stack when it is read.</summary>
    private static void CheckDepth(Stream body)
    {
        using (var reader = ReaderOf(body))
        {
            while (reader.Read())
            {
                if (reader.Depth > Deepest)
                {
                    throw new SourceException(Wording.Of("discover.deep", Deepest));
                }
            }
        }

        body.Position = 0;
    }

    /// <summary>Reads a sitemap or feed with all that it names in turn.</summary>
    public static async Task<IReadOnlyList<DiscoveredItem>> FetchAsync(
        Fetcher fetcher, Uri start, Func<string, string?> site, Action<int, int> tell, CancellationToken stop)
    {
        var (waiting, seen, found) = (new Queue<Uri>([start]), new HashSet<string>(StringComparer.Ordinal) { start.AbsoluteUri }, new List<DiscoveredItem>());
        var files = 0;
        while (waiting.TryDequeue(out var address))
        {
            var fetched = await fetcher.GetAsync(address, stop);
            if (fetched.Status != 200)
            {
                throw new SourceException(Wording.Of("discover.status", address, fetched.Status));
            }

            var (here, further) = Read(new MemoryStream(fetched.Body), site);
            found.AddRange(here);
            foreach (var next in further)
            {
                // The host that a sitemap names is the public one; we fetch from where we were sent.
                if (site(next) is { } path && new Uri(start, path) is var url && seen.Add(url.AbsoluteUri))
                {
                    waiting.Enqueue(url);
                }
            }

            tell(++files, files + waiting.Count);
            if (files + waiting.Count > MostFiles || found.Count > MostFound)
            {
                throw new SourceException(Wording.Of("discover.too-many", MostFiles, MostFound));
            }
        }

        return found;
    }

    private static IEnumerable<DiscoveredItem> Entry(XElement entry, string? link, string? id, Func<string, string?> site)
    {
        if (site(link ?? "") is not { } address)
        {
            yield break;
        }

        var categories = entry.Elements().Where(e => e.Name.LocalName is "category" or "product_type")
            .SelectMany(e => ((string?)e.Attribute("term") ?? e.Value).Split('>', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .TakeLast(1)).Where(t => t.Length <= 200).Distinct().ToList();
        foreach (var category in categories)
        {
            yield return new DiscoveredItem(null, ItemKind.Category, category);
        }

        var key = id is not null && !id.Contains('/', StringComparison.Ordinal) ? id : null;
        yield return new DiscoveredItem(address, ItemKind.Product, Text(entry, "title"), key, null, categories);
    }

    private static string? AtomLink(XElement entry)
    {
        var links = entry.Elements().Where(e => e.Name.LocalName == "link").ToList();
        return (string?)(links.Find(l => (string?)l.Attribute("rel") is null or "alternate") ?? links.FirstOrDefault())?.Attribute("href");
    }

    private static string? Text(XElement element, string name) =>
        element.Elements().FirstOrDefault(e => e.Name.LocalName == name)?.Value.Trim() is { Length: > 0 } text ? text : null;
}
