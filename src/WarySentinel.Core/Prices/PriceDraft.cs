using System.Globalization;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;

namespace WarySentinel.Core.Prices;

/// <summary>A line of a price list as people write it.</summary>
/// <param name="Item">The item, such as <c>product:sky-1</c>.</param>
/// <param name="Quantity">From which quantity on; 1 unless said.</param>
/// <param name="Price">The price of one in decimals, such as <c>12.90</c>.</param>
/// <param name="Off">Or percent off the usual price, such as <c>15</c>.</param>
public sealed record PriceLineDraft(string? Item, int? Quantity = null, string? Price = null, string? Off = null);

/// <summary>A price list as people write it.</summary>
public sealed record PriceDraft
{
    /// <summary>Most lines of one list.</summary>
    public const int MostLines = 20_000;

    private const int LongestTitle = 200;
    private const int MostFaults = 50;

    /// <summary>Its name.</summary>
    public string? Key { get; init; }

    /// <summary>What people call it; its key unless said.</summary>
    public string? Title { get; init; }

    /// <summary>Whom it is for: an audience expression; everybody unless said.</summary>
    public string? Audience { get; init; }

    /// <summary>The currency (ISO 4217).</summary>
    public string? Currency { get; init; }

    /// <summary>Since when it counts: a moment, or a day in the site's time zone.</summary>
    public string? From { get; init; }

    /// <summary>Until when it counts: a moment, or a day that is the last to count.</summary>
    public string? Until { get; init; }

    /// <summary>What reckoned prices are whole multiples of, such as <c>0.05</c>; the smallest unit of the currency unless said.</summary>
    public string? Rounding { get; init; }

    /// <summary>Its lines.</summary>
    public IReadOnlyList<PriceLineDraft>? Lines { get; init; }

    /// <summary>The draft that says what a list says.</summary>
    public static PriceDraft Of(PriceList list) => Head(list) with { Lines = [.. list.Lines.Select(l => Of(l, list.Currency))] };

    /// <summary>The same without its lines.</summary>
    public static PriceDraft Head(PriceList list) => new()
    {
        Key = list.Key, Title = list.Title, Audience = list.Audience.ToString(), Currency = list.Currency,
        From = list.From is { } from ? SiteDates.Write(from) : null, Until = list.Until is { } until ? SiteDates.Write(until) : null,
        Rounding = list.Step == 1 ? null : new Money(list.Step, list.Currency).Amount,
    };

    private static PriceLineDraft Of(PriceLine line, string currency) => new(
        line.Item.ToString(), line.Quantity == 1 ? null : line.Quantity, line.Units is { } units ? new Money(units, currency).Amount : null,
        line.Off?.ToString(CultureInfo.InvariantCulture));

    /// <summary>Reads the draft, or gives every fault found in it.</summary>
    /// <param name="known">The keys that audiences may name; null where a list that is stored is read.</param>
    /// <param name="graph">Knows the items; null where a list that is stored is read.</param>
    /// <param name="zone">The site's time zone.</param>
    public Outcome<PriceList> Read(IKnownKeys? known, CatalogueGraph? graph, string zone)
    {
        var faults = new Faults();
        faults.Unless(CatalogueKey.IsValid(Key), "key", "key-form", Key);
        var title = PlainText.OrNull(Title) ?? Key ?? "";
        faults.Unless(title.Length <= LongestTitle && PlainText.IsClean(title), "title", "page-title", LongestTitle);
        var audience = AudienceOf(Audience, known, faults);
        var currency = (Currency ?? "").Trim();
        faults.Unless(Money.IsCurrency(currency), "currency", "price-currency", Currency);
        var (from, until) = SiteDates.ReadBoth(zone, From, Until, faults.Bad);
        var step = 1;
        if (!string.IsNullOrWhiteSpace(Rounding))
        {
            var read = Money.TryParse(Rounding.Trim(), Money.IsCurrency(currency) ? currency : "EUR", out var by);
            faults.Unless(read && by.Units is > 0 and <= 1_000_000, "rounding", "price-rounding", Rounding);
            step = read && by.Units is > 0 and <= 1_000_000 ? (int)by.Units : 1;
        }

        var lines = ReadLines(Lines ?? [], currency, graph, faults);
        return faults.Any ? faults.ToProblem() : new PriceList
        {
            Key = Key!, Title = title, Audience = audience!, Currency = currency, From = from, Until = until, Step = step, Lines = lines,
        };
    }

    /// <summary>An audience as it is written; everybody unless said. Null where it cannot be read.</summary>
    internal static Audience? AudienceOf(string? text, IKnownKeys? known, Faults faults)
    {
        var said = string.IsNullOrWhiteSpace(text) ? "anyone" : text;
        var read = known is null ? AudienceParser.ParseStored(said) : AudienceParser.Parse(said, known);
        if (read.Problem is { } problem)
        {
            faults.Take(problem);
            return null;
        }

        return read.Value;
    }

    private static List<PriceLine> ReadLines(IReadOnlyList<PriceLineDraft> drafts, string currency, CatalogueGraph? graph, Faults faults)
    {
        if (drafts.Count > MostLines)
        {
            faults.Bad("lines", "price-lines-many", MostLines);
            return [];
        }

        var (lines, seen, bad) = (new List<PriceLine>(drafts.Count), new HashSet<(ItemId, int)>(), 0);
        for (var n = 0; n < drafts.Count && bad < MostFaults; n++)
        {
            var found = new Faults();
            if (ReadLine(drafts[n], $"lines[{n}]", currency, graph, found) is { } line)
            {
                found.Unless(seen.Add((line.Item, line.Quantity)), $"lines[{n}].item", "price-twice", line.Item, line.Quantity);
                lines.Add(line);
            }

            if (found.Any)
            {
                bad++;
                faults.Take(found.ToProblem());
            }
        }

        return lines;
    }

    private static PriceLine? ReadLine(PriceLineDraft? draft, string place, string currency, CatalogueGraph? graph, Faults faults)
    {
        if (draft is null)
        {
            faults.Bad(place, "price-line-one");
            return null;
        }

        var item = ItemOf(draft.Item, $"{place}.item", graph, faults);
        var quantity = draft.Quantity ?? 1;
        faults.Unless(quantity is >= 1 and <= 1_000_000, $"{place}.quantity", "price-quantity", draft.Quantity);
        var (price, off) = (PlainText.OrNull(draft.Price), PlainText.OrNull(draft.Off));
        if (price is null == off is null)
        {
            faults.Bad($"{place}.price", "price-line-one");
            return null;
        }

        long? units = null;
        decimal? percent = null;
        if (price is not null)
        {
            var isGood = TryAmount(price, currency, out var money);
            faults.Unless(isGood || !Money.IsCurrency(currency), $"{place}.price", "price-amount", price, currency);
            units = isGood ? money.Units : null;
        }
        else
        {
            percent = PercentOf(off!, $"{place}.off", faults);
        }

        return item is null || (units is null && percent is null) ? null : new PriceLine(item.Value, quantity, units, percent);
    }

    /// <summary>Reads an amount whose digits behind the point are no more than its currency has: <c>1.200</c> of euros is not 1.20.</summary>
    internal static bool TryAmount(string text, string currency, out Money money)
    {
        money = default;
        var point = text.IndexOf('.', StringComparison.Ordinal);
        return (point < 0 || text.Length - point - 1 <= Money.DecimalsOf(currency)) && Money.TryParse(text, currency, out money);
    }

    /// <summary>Reads percents from 0 to 100 with at most two decimals.</summary>
    internal static decimal? PercentOf(string text, string place, Faults faults)
    {
        var isGood = decimal.TryParse(text.TrimEnd('%').Trim(), NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var read)
            && read is >= 0 and <= 100 && decimal.Round(read, 2) == read;
        faults.Unless(isGood, place, "price-off", text);
        return isGood ? read : null;
    }

    /// <summary>The item of that name; tells where there is none, and which is near.</summary>
    internal static ItemId? ItemOf(string? text, string place, CatalogueGraph? graph, Faults faults)
    {
        if (!ItemId.TryParse(text?.Trim(), out var id))
        {
            faults.Bad(place, "price-item", text);
            return null;
        }

        if (graph is null || graph.PlaceOf(id) >= 0)
        {
            return id;
        }

        UnknownItem.Tell(faults, place, id, graph);
        return null;
    }
}
