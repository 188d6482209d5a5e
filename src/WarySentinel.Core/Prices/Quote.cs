using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;

namespace WarySentinel.Core.Prices;

/// <summary>A line of a cart.</summary>
/// <param name="Item">What.</param>
/// <param name="Quantity">How many, 1 or more.</param>
public readonly record struct CartLine(ItemId Item, int Quantity);

/// <summary>What a line of a cart costs somebody.</summary>
/// <param name="Line">The line.</param>
/// <param name="MayPrice">Whether they may know its price.</param>
/// <param name="MayBuy">Whether they may buy it; what they may not is in no sum.</param>
/// <param name="Price">What one costs; null where no list says, or they may not know.</param>
/// <param name="Total">What the line costs, before the coupon.</param>
/// <param name="Discount">What the coupon takes off it.</param>
public sealed record QuotedLine(CartLine Line, bool MayPrice, bool MayBuy, Price? Price, Money? Total, Money? Discount);

/// <summary>What a cart costs somebody: the very prices that their pages show.</summary>
/// <param name="Lines">Its lines, as they were asked.</param>
/// <param name="Currency">The currency; null where nothing has a price.</param>
/// <param name="Sum">What may be bought costs, before the coupon.</param>
/// <param name="Discount">What the coupon takes off.</param>
/// <param name="Total">What is to be paid of it.</param>
public sealed record Quote(IReadOnlyList<QuotedLine> Lines, string? Currency, Money? Sum, Money? Discount, Money? Total)
{
    /// <summary>Most lines of a cart.</summary>
    public const int MostLines = 1000;

    /// <summary>Most of one thing in a cart.</summary>
    public const int MostQuantity = 1_000_000;

    /// <summary>Reckons a cart.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="visitor">Who pays.</param>
    /// <param name="lines">What is in it; of the same item, all lines count for the quantity.</param>
    /// <param name="currency">The currency; null for that of the first line that has a price.</param>
    /// <param name="coupon">A coupon that they may use; null for none.</param>
    /// <param name="now">The time.</param>
    public static Quote Of(Policy policy, Visitor visitor, IReadOnlyList<CartLine> lines, string? currency, Coupon? coupon, DateTimeOffset now)
    {
        var (book, quoted) = (PriceBook.Of(policy), new List<QuotedLine>());
        var many = lines.GroupBy(l => l.Item).ToDictionary(g => g.Key, g => (int)Math.Min(g.Sum(l => (long)l.Quantity), MostQuantity));
        foreach (var line in lines)
        {
            var (mayPrice, mayBuy) = (policy.Allows(visitor, line.Item, Acts.Price, now), policy.Allows(visitor, line.Item, Acts.Buy, now));
            var price = mayPrice ? book.For(policy.Graph, line.Item, many[line.Item], currency, now, l => l.Audience.Admits(visitor, "", now)) : null;
            currency ??= price?.Unit.Currency;
            quoted.Add(new QuotedLine(
                line, mayPrice, mayBuy, price, price is null || !mayBuy ? null : price.Unit with { Units = price.Unit.Units * line.Quantity }, null));
        }

        if (currency is null)
        {
            return new Quote(quoted, null, null, null, null);
        }

        var off = coupon is null ? [] : Shares(policy.Graph, coupon, quoted, currency);
        quoted = [.. quoted.Select((q, n) => q.Total is null || coupon is null ? q : q with { Discount = new Money(off[n], currency) })];
        var (sum, less) = (quoted.Sum(q => q.Total?.Units ?? 0), off.Sum());
        return new Quote(
            quoted, currency, new Money(sum, currency), coupon is null ? null : new Money(less, currency), new Money(sum - less, currency));
    }

    /// <summary>What a coupon takes off each line: percents of each; an amount in the proportion of the lines, to the last smallest unit.</summary>
    private static long[] Shares(CatalogueGraph graph, Coupon coupon, List<QuotedLine> lines, string currency)
    {
        var covered = lines.Select(q => q.Total is { } total && coupon.Covers(graph, q.Line.Item) ? total.Units : 0).ToArray();
        if (coupon.Off is { } percent)
        {
            return [.. covered.Select(units => Money.Rounded(units * percent / 100))];
        }

        var sum = covered.Sum();
        if (sum == 0 || coupon.Amount!.Value.Currency != currency)
        {
            return new long[covered.Length];
        }

        var amount = Math.Min(sum, coupon.Amount.Value.Units);
        var shares = covered.Select(units => (long)((Int128)amount * units / sum)).ToArray();
        var rest = (int)(amount - shares.Sum());
        // Those that lost most by rounding down get the rest, one each.
        foreach (var n in Enumerable.Range(0, covered.Length).OrderByDescending(n => (Int128)amount * covered[n] % sum).ThenBy(n => n).Take(rest))
        {
            shares[n]++;
        }

        return shares;
    }
}
