using AngleSharp.Dom;
using AngleSharp.Html.Parser;

namespace WarySentinel.Core.SetUp;

/// <summary>A part of a site that its front page leads to.</summary>
/// <param name="Address">Its address, such as <c>/members</c>.</param>
/// <param name="Title">The words of the link.</param>
public sealed record FoundPart(string Address, string Title);

/// <summary>What the front page of a site says of it.</summary>
/// <param name="Title">Its name; null where it says none.</param>
/// <param name="Language">Its language (RFC 5646 tag); null where it says none.</param>
/// <param name="Parts">The parts that it leads to, in the order of its links, those of its menu first.</param>
public sealed record FoundSite(string? Title, string? Language, IReadOnlyList<FoundPart> Parts);

/// <summary>Reads the front page of a site, so that its owner need not type what it says.</summary>
public static class SiteFinder
{
    private const int MostParts = 24;
    private const int LongestWords = 60;
    private static readonly string[] Between = [" | ", " – ", " — ", " · ", " - ", ": "];

    /// <summary>Reads a page.</summary>
    /// <param name="html">The page.</param>
    /// <param name="page">Where it stands.</param>
    public static FoundSite Read(string html, Uri page)
    {
        using var document = new HtmlParser().ParseDocument(html);
        foreach (var line in document.QuerySelectorAll("br"))
        {
            line.Replace(document.CreateTextNode(" "));
        }

        var links = document.QuerySelectorAll("header a[href], nav a[href]").Concat(document.QuerySelectorAll("a[href]"));
        var parts = links.Select(l => PartOf(l, page)).OfType<FoundPart>().DistinctBy(p => p.Address).Take(MostParts).ToList();
        var language = document.DocumentElement.GetAttribute("lang")?.Trim();
        return new FoundSite(TitleOf(document), Spelling.IsLanguage(language ?? "") ? language : null, parts);
    }

    /// <summary>What the site calls itself (Open Graph), else the end of its front page's title that names no page.</summary>
    private static string? TitleOf(IDocument document)
    {
        if (Plain(document.QuerySelector("meta[property='og:site_name']")?.GetAttribute("content")) is { } said)
        {
            return said;
        }

        var title = Plain(document.Title);
        foreach (var mark in title is null ? [] : Between)
        {
            if (title!.Split(mark, StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries) is [var first, _, ..] parts)
            {
                // A front page puts its own name before or after; the heading tells which.
                return Plain(document.QuerySelector("header")?.TextContent) is { } head && parts.FirstOrDefault(head.Contains) is { } named ? named : first;
            }
        }

        return title;
    }

    private static FoundPart? PartOf(IElement link, Uri page)
    {
        if (!Uri.TryCreate(page, link.GetAttribute("href"), out var to) || to.Authority != page.Authority || to.Scheme is not ("http" or "https")
            || to.AbsolutePath.Split('/', StringSplitOptions.RemoveEmptyEntries) is not [var first, ..] folders)
        {
            return null;
        }

        // A page at the top is no part; one beneath a folder stands for the folder.
        var isFile = folders.Length == 1 && first.Contains('.', StringComparison.Ordinal);
        var words = Plain(link.TextContent) ?? Plain(link.QuerySelector("img")?.GetAttribute("alt"));
        return isFile ? null : new FoundPart("/" + first, folders.Length == 1 && words is not null ? words : "");
    }

    private static string? Plain(string? text)
    {
        var said = string.Join(' ', (text ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        return said.Length is > 0 and <= LongestWords && PlainText.IsClean(said) ? said : null;
    }
}
