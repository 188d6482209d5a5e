using System.Globalization;
using System.Text.Json;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Entries;

namespace WarySentinel.Core.Sweep;

/// <summary>A price that stands in an answer.</summary>
/// <param name="Item">Whose it is.</param>
/// <param name="Amount">As it stands there.</param>
public sealed record ShownPrice(ItemId Item, string Amount);

/// <summary>
/// Finds prices of items that somebody may not know: beside the links to them, on their own pages, in data that name them. What is a price is told by how
/// it is written or marked (schema.org <c>price</c>, a class of that name, the sign of a currency); running text is left out.
/// </summary>
public static class ClosedPrices
{
    private const int MostWords = 80;
    private const int LongestPrice = 40;
    private const int MostLevels = 8;
    private const int MostFound = 50;
    private static readonly HashSet<string> Around = ["body", "main", "html", "nav", "header", "footer"];

    /// <summary>Prices that stand in a page or in data.</summary>
    /// <param name="text">What somebody got.</param>
    /// <param name="own">The item whose page it is, or null.</param>
    /// <param name="itemAt">The item that an address, as it stands in a link, leads to; null for none.</param>
    /// <param name="itemOf">The item that data name by a value, such as its key; null for none.</param>
    /// <param name="isClosed">Whether they may not know its price.</param>
    public static IReadOnlyList<ShownPrice> In(
        string text, ItemId? own, Func<string, ItemId?> itemAt, Func<string, ItemId?> itemOf, Func<ItemId, bool> isClosed)
    {
        var start = text.AsSpan().TrimStart();
        var found = start is ['<', ..] ? OnPage(new HtmlParser().ParseDocument(text), own, itemAt, itemOf, isClosed)
            : start is ['{' or '[', ..] ? InData(text, own, itemAt, itemOf, isClosed) : [];
        return [.. found.Distinct().Take(MostFound)];
    }

    private static IEnumerable<ShownPrice> OnPage(
        IDocument page, ItemId? own, Func<string, ItemId?> itemAt, Func<string, ItemId?> itemOf, Func<ItemId, bool> isClosed)
    {
        var links = page.QuerySelectorAll("a[href]").Select(a => (At: a, Item: itemAt(a.GetAttribute("href")!))).Where(l => l.Item is not null).ToList();
        var cards = links.Where(l => l.Item != own).Select(l => (Card: CardOf(l.At, l.Item!.Value, itemAt), l.Item)).ToList();
        foreach (var (card, item) in cards.Where(c => isClosed(c.Item!.Value)))
        {
            foreach (var amount in AmountsIn(card))
            {
                yield return new ShownPrice(item!.Value, amount);
            }
        }

        var taken = cards.Select(c => c.Card).ToHashSet();
        if (own is { } here && isClosed(here))
        {
            foreach (var amount in AmountsIn(page.DocumentElement, e => taken.Contains(e) || e.LocalName is "nav" or "header" or "footer"))
            {
                yield return new ShownPrice(here, amount);
            }
        }

        // Data in the page, such as those that search engines read.
        foreach (var script in page.QuerySelectorAll("script").Where(s => s.GetAttribute("type")?.Contains("json", StringComparison.OrdinalIgnoreCase) == true))
        {
            foreach (var price in InData(script.TextContent, own, itemAt, itemOf, isClosed))
            {
                yield return price;
            }
        }
    }

    /// <summary>The widest element about one item and nothing else.</summary>
    private static IElement CardOf(IElement link, ItemId item, Func<string, ItemId?> itemAt)
    {
        var card = link;
        for (var level = 0; level < MostLevels && card.ParentElement is { } around && !Around.Contains(around.LocalName); level++, card = around)
        {
            if (around.QuerySelector("h1") is not null || WordsOf(around) > MostWords
                || around.QuerySelectorAll("a[href]").Select(a => itemAt(a.GetAttribute("href")!)).Any(i => i is not null && i != item))
            {
                break;
            }
        }

        return card;
    }

    private static int WordsOf(IElement element) => element.TextContent.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries).Length;

    /// <summary>Prices in an element; not in those parts of it that are passed over.</summary>
    private static IEnumerable<string> AmountsIn(IElement element, Func<IElement, bool>? isPassed = null)
    {
        if (isPassed?.Invoke(element) == true || element.LocalName is "script" or "style" or "template" or "noscript")
        {
            yield break;
        }

        if ((element.GetAttribute("data-price") ?? element.GetAttribute("data-amount")) is { } said && Amounts.IsOne(said))
        {
            yield return said.Trim();
        }

        var isMarked = element.GetAttribute("itemprop") == "price"
            || element.GetAttribute("property")?.EndsWith("price:amount", StringComparison.Ordinal) == true
            || element.ClassList.Any(c => c.Contains("price", StringComparison.OrdinalIgnoreCase));
        if (isMarked && element.GetAttribute("content") is { } content && Amounts.IsOne(content))
        {
            yield return content.Trim();
        }

        var found = element.Children.SelectMany(c => AmountsIn(c, isPassed))
            .Concat(element.ChildNodes.OfType<IText>().Select(t => t.Data.Trim()).Where(t => t.Length is > 0 and < LongestPrice).Select(Amounts.In)
                .OfType<string>()).ToList();
        foreach (var amount in found)
        {
            yield return amount;
        }

        // A number without a sign where a price is said to be, or one whose sign stands in an element of its own.
        var text = string.Join(' ', element.TextContent.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        if (found.Count == 0 && text.Length is > 0 and < LongestPrice && (isPassed is null || !element.QuerySelectorAll("*").Any(isPassed))
            && (isMarked && Amounts.IsOne(text) ? text : Amounts.In(text)) is { } split)
        {
            yield return split;
        }
    }

    /// <summary>What an amount comes to, however it is written: a sign before one or two last digits parts off the smaller unit.</summary>
    public static decimal ValueOf(string amount)
    {
        var digits = string.Concat(amount.Where(char.IsAsciiDigit));
        var last = amount.LastIndexOfAny(['.', ',']);
        var behind = last < 0 ? 0 : amount[(last + 1)..].Count(char.IsAsciiDigit);
        return !decimal.TryParse(digits, NumberStyles.None, CultureInfo.InvariantCulture, out var value) ? 0
            : behind switch { 1 => value / 10, 2 => value / 100, _ => value };
    }



    private static List<ShownPrice> InData(
        string json, ItemId? own, Func<string, ItemId?> itemAt, Func<string, ItemId?> itemOf, Func<ItemId, bool> isClosed)
    {
        var found = new List<ShownPrice>();
        try
        {
            using var document = JsonDocument.Parse(json.TrimStart('\uFEFF'), new JsonDocumentOptions
            {
                AllowTrailingCommas = true, CommentHandling = JsonCommentHandling.Skip, MaxDepth = 64,
            });
            Walk(document.RootElement, own);
        }
        catch (JsonException)
        {
            // No data after all.
        }

        return found;

        void Walk(JsonElement at, ItemId? about)
        {
            if (at.ValueKind == JsonValueKind.Array)
            {
                foreach (var each in at.EnumerateArray())
                {
                    Walk(each, about);
                }
            }
            else if (at.ValueKind == JsonValueKind.Object)
            {
                // What an entry is about is said in it; what is deeper is about the same, unless it says otherwise.
                about = at.EnumerateObject().Where(p => p.Value.ValueKind == JsonValueKind.String).Select(p => p.Value.GetString()!)
                    .Select(v => (v.StartsWith('/') || v.StartsWith("http", StringComparison.OrdinalIgnoreCase) ? itemAt(v) : null) ?? itemOf(v))
                    .FirstOrDefault(i => i is not null) ?? about;
                foreach (var member in at.EnumerateObject())
                {
                    if (about is { } item && isClosed(item) && IsPrice(member))
                    {
                        found.Add(new ShownPrice(item, member.Value.ToString()));
                    }

                    Walk(member.Value, about);
                }
            }
        }
    }

    private static bool IsPrice(JsonProperty member) => member.Name.Contains("price", StringComparison.OrdinalIgnoreCase)
        && !member.Name.Contains("currency", StringComparison.OrdinalIgnoreCase)
        && (member.Value.ValueKind == JsonValueKind.Number || (member.Value.ValueKind == JsonValueKind.String
            && (Amounts.IsOne(member.Value.GetString()!) || Amounts.In(member.Value.GetString()!) is not null)));
}
