using System.Text;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using WarySentinel.Contract.Entries;
using WarySentinel.Core.Access;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Markup;

namespace WarySentinel.Service.Entries;

/// <summary>Tries a rule on one page or one answer of data: what each entry is about, and what becomes of it.</summary>
internal sealed class EntryTrying(Policy policy, PageDecider decider)
{
    private const int MostWords = 160;
    private const int MostSheets = 5;

    /// <summary>The entries of a page, and the page with each of them marked.</summary>
    public async Task<(List<EntrySeen> Entries, string? Page)?> OnPageAsync(string html, TaughtEntry card, Func<string, Task<string>> styles)
    {
        var page = new HtmlParser().ParseDocument(html);
        var seen = new List<EntrySeen>();
        foreach (var element in page.QuerySelectorAll(card.Entry.Text))
        {
            var about = AboutOf(element, card);
            var fate = FateOf(about, card.Price is not null && element.QuerySelector(card.Price.Text) is not null);
            element.SetAttribute("data-wary-entry", fate);
            seen.Add(new EntrySeen(Cut(EntryFinder.WordsOf(element)), about, TitleOf(about), fate));
        }

        await InlineAsync(page, styles);
        foreach (var script in page.QuerySelectorAll("script, noscript, base, meta[http-equiv]").ToList())
        {
            script.Remove();
        }

        return (seen, page.DocumentElement.OuterHtml);
    }

    /// <summary>The page is looked at where it can fetch nothing: its style sheets come with it.</summary>
    private async Task InlineAsync(IDocument page, Func<string, Task<string>> styles)
    {
        foreach (var link in page.QuerySelectorAll("link[rel~=stylesheet][href]").Take(MostSheets).ToList())
        {
            if (decider.PathOf(link.GetAttribute("href")!) is not { } path)
            {
                continue;
            }

            var sheet = page.CreateElement("style");
            sheet.TextContent = (await styles(path.SentWithQuery)).Replace("</", "<\\/", StringComparison.Ordinal);
            link.Replace(sheet);
        }
    }

    /// <summary>The entries of data; null where there is no such data.</summary>
    public (List<EntrySeen> Entries, string? Page)? InData(byte[] body, JsonEntries rule)
    {
        if (JsonLook.At(body, rule) is not { } look)
        {
            return null;
        }

        return (look.Select(e => new EntrySeen(
            Cut(e.Text), FirstOf(e.About), TitleOf(FirstOf(e.About)),
            e.About.Select(a => FateOf(a, rule.Price is not null)).DefaultIfEmpty("stays")
                .MinBy(f => f == "goes" ? 0 : f == "stays" ? 2 : 1)!)).ToList(), null);
    }

    private static string? FirstOf(IReadOnlyList<string> about) => about.Count > 0 ? about[0] : null;

    private string FateOf(string? about, bool hasPrice) => about is null ? "stays"
        : decider.OfNamed(about) == Fate.Drop ? "goes" : hasPrice && !decider.ShowsPrice(about) ? "without-price" : "stays";

    private static string? AboutOf(IElement entry, TaughtEntry card)
    {
        var among = card.Link is { } link ? Own(entry, link.Text) : Own(entry, "a[href], area[href]");
        return among.Select(e => e.GetAttribute("href") ?? e.GetAttribute("src") ?? e.Attributes.FirstOrDefault(a => a.Value.StartsWith('/')
            || a.Value.StartsWith('.') || a.Value.StartsWith("http", StringComparison.OrdinalIgnoreCase))?.Value)
            .FirstOrDefault(a => !string.IsNullOrWhiteSpace(a) && a[0] != '#');
    }

    private static IEnumerable<IElement> Own(IElement entry, string selector) =>
        entry.Matches(selector) ? entry.QuerySelectorAll(selector).Prepend(entry) : entry.QuerySelectorAll(selector);

    private string? TitleOf(string? about) => about is null ? null
        : Core.Catalogue.ItemId.TryParse(about, out var id) ? policy.Graph.PlaceOf(id) is >= 0 and var place ? policy.Graph.Items[place].Title : null
        : decider.PathOf(about) is { } path ? policy.ItemsAt(path) is [var first, ..] ? first.Title : null : null;

    private static string Cut(string text)
    {
        var plain = string.Join(' ', text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        return plain.Length > MostWords ? plain[..MostWords] + "…" : plain;
    }
}
