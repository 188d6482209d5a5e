using System.Globalization;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;

namespace WarySentinel.Core.Prices;

/// <summary>A coupon as people write it.</summary>
public sealed record CouponDraft
{
    private const int LongestTitle = 200;
    private const int MostItems = 200;
    private const int MostUses = 1_000_000;

    /// <summary>Its name.</summary>
    public string? Key { get; init; }

    /// <summary>What is typed in the cart; its key in capital letters unless said.</summary>
    public string? Code { get; init; }

    /// <summary>What people call it; its code unless said.</summary>
    public string? Title { get; init; }

    /// <summary>Who may use it: an audience expression; everybody unless said.</summary>
    public string? Audience { get; init; }

    /// <summary>Percent off, such as <c>10</c>.</summary>
    public string? Off { get; init; }

    /// <summary>Or an amount off the whole cart in decimals, such as <c>5.00</c>.</summary>
    public string? Amount { get; init; }

    /// <summary>The currency of the amount (ISO 4217).</summary>
    public string? Currency { get; init; }

    /// <summary>What it counts for, with all beneath; everything unless said.</summary>
    public IReadOnlyList<string>? Items { get; init; }

    /// <summary>Since when it counts: a moment, or a day in the site's time zone.</summary>
    public string? From { get; init; }

    /// <summary>Until when it counts: a moment, or a day that is the last to count.</summary>
    public string? Until { get; init; }

    /// <summary>How often one person uses it: a number, or <c>any</c>; once unless said.</summary>
    public string? PerPerson { get; init; }

    /// <summary>How often it is used by all together; any number of times unless said.</summary>
    public int? Most { get; init; }

    /// <summary>The draft that says what a coupon says.</summary>
    public static CouponDraft Of(Coupon coupon) => new()
    {
        Key = coupon.Key, Code = coupon.Code, Title = coupon.Title, Audience = coupon.Audience.ToString(),
        Off = coupon.Off?.ToString(CultureInfo.InvariantCulture), Amount = coupon.Amount?.Amount, Currency = coupon.Amount?.Currency,
        Items = coupon.Items.Count == 0 ? null : [.. coupon.Items.Select(i => i.ToString())],
        From = coupon.From is { } from ? SiteDates.Write(from) : null, Until = coupon.Until is { } until ? SiteDates.Write(until) : null,
        PerPerson = coupon.PerPerson switch { 1 => null, null => "any", var many => many.Value.ToString(CultureInfo.InvariantCulture) }, Most = coupon.Most,
    };

    /// <summary>Reads the draft, or gives every fault found in it.</summary>
    /// <param name="known">The keys that audiences may name; null where a coupon that is stored is read.</param>
    /// <param name="graph">Knows the items; null where a coupon that is stored is read.</param>
    /// <param name="zone">The site's time zone.</param>
    public Outcome<Coupon> Read(IKnownKeys? known, CatalogueGraph? graph, string zone)
    {
        var faults = new Faults();
        faults.Unless(CatalogueKey.IsValid(Key), "key", "key-form", Key);
        var code = PlainText.OrNull(Code)?.Trim() ?? Key?.ToUpperInvariant() ?? "";
        faults.Unless(code.Length is >= 3 and <= 40 && code.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' or '.'), "code", "coupon-code", code);
        var title = PlainText.OrNull(Title) ?? code;
        faults.Unless(title.Length <= LongestTitle && PlainText.IsClean(title), "title", "page-title", LongestTitle);
        var audience = PriceDraft.AudienceOf(Audience, known, faults);
        var (off, amount) = ReadValue(faults);
        List<ItemId> items = [];
        faults.Unless((Items?.Count ?? 0) <= MostItems, "items", "coupon-items", MostItems);
        foreach (var (text, n) in (Items ?? []).Take(MostItems).Select((t, n) => (t, n)))
        {
            if (PriceDraft.ItemOf(text, $"items[{n}]", graph, faults) is { } item)
            {
                items.Add(item);
            }
        }

        var (from, until) = SiteDates.ReadBoth(zone, From, Until, faults.Bad);
        int? per = 1;
        if (PlainText.OrNull(PerPerson)?.Trim() is { } often)
        {
            var isNumber = int.TryParse(often, NumberStyles.None, CultureInfo.InvariantCulture, out var many) && many is >= 1 and <= MostUses;
            faults.Unless(isNumber || often == "any", "perPerson", "coupon-per-person", often);
            per = isNumber ? many : null;
        }

        faults.Unless(Most is null or (>= 1 and <= MostUses), "most", "coupon-most", Most);
        return faults.Any ? faults.ToProblem() : new Coupon
        {
            Key = Key!, Code = code, Title = title, Audience = audience!, Off = off, Amount = amount, Items = [.. items.Distinct()], From = from, Until = until,
            PerPerson = per, Most = Most,
        };
    }

    private (decimal? Off, Money? Amount) ReadValue(Faults faults)
    {
        var (off, amount) = (PlainText.OrNull(Off), PlainText.OrNull(Amount));
        if (off is null == amount is null)
        {
            faults.Bad("off", "coupon-value");
            return (null, null);
        }

        if (off is not null)
        {
            var percent = PriceDraft.PercentOf(off, "off", faults);
            faults.Unless(percent is null or > 0, "off", "price-off", off);
            return (percent, null);
        }

        if (!Money.IsCurrency(Currency))
        {
            faults.Bad("currency", "price-currency", Currency);
            return (null, null);
        }

        var isGood = PriceDraft.TryAmount(amount!, Currency!, out var money) && money.Units > 0;
        faults.Unless(isGood, "amount", "price-amount", amount, Currency);
        return (null, isGood ? money : null);
    }
}
