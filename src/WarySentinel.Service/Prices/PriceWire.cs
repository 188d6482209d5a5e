using WarySentinel.Contract.Prices;
using WarySentinel.Core;
using WarySentinel.Core.Prices;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Prices;

/// <summary>Prices, coupons and carts as the API has them.</summary>
internal static class PriceWire
{
    public static PriceListView ToWire(this PriceList list, bool whole)
    {
        var head = PriceDraft.Head(list);
        return new PriceListView(
            list.Key, list.Title, head.Audience!, list.Currency, list.From, list.Until, head.Rounding, list.Lines.Count,
            whole ? [.. PriceDraft.Of(list).Lines!.Select(l => new Contract.Prices.PriceLine(l.Item, l.Quantity ?? 1, l.Price, l.Off))] : null, list.Version);
    }

    public static PriceDraft ToCore(this PriceListDraft draft, string key) => new()
    {
        Key = key, Title = draft.Title, Audience = draft.Audience, Currency = draft.Currency, From = draft.From, Until = draft.Until, Rounding = draft.Rounding,
        Lines = draft.Lines is null ? null
            : [.. draft.Lines.Select(l => l is null ? new PriceLineDraft(null) : new PriceLineDraft(l.Item, l.Quantity, l.Price, l.Off))],
    };

    public static QuoteView ToWire(this Quote quote, string who, Coupon? coupon, Problem? fault) => new(
        who,
        [.. quote.Lines.Select(q => new QuoteLine(
            q.Line.Item.ToString(), q.Line.Quantity, q.MayPrice, q.MayBuy, q.Price?.Unit.Amount, q.Price?.Usual?.Amount, q.Price?.List, q.Total?.Amount,
            q.Discount?.Amount))],
        quote.Currency, quote.Sum?.Amount, quote.Discount?.Amount, quote.Total?.Amount, coupon?.Key, fault?.Detail.ToReader());

    public static CouponView ToWire(this Coupon coupon, int used)
    {
        var draft = Core.Prices.CouponDraft.Of(coupon);
        return new CouponView(
            coupon.Key, coupon.Code, coupon.Title, draft.Audience!, draft.Off, draft.Amount, draft.Currency, draft.Items ?? [], coupon.From, coupon.Until,
            coupon.PerPerson, coupon.Most, used, coupon.Version);
    }

    public static Core.Prices.CouponDraft ToCore(this Contract.Prices.CouponDraft draft, string key) => new()
    {
        Key = key, Code = draft.Code, Title = draft.Title, Audience = draft.Audience, Off = draft.Off, Amount = draft.Amount, Currency = draft.Currency,
        Items = draft.Items, From = draft.From, Until = draft.Until, PerPerson = draft.PerPerson, Most = draft.Most,
    };

    public static CouponUseView ToWire(this CouponUse use, string? address = null) =>
        new(use.Coupon, use.Order, address ?? use.Person, use.Serial, use.At, use.Discount?.Amount, use.Discount?.Currency);

    public static CartView ToWire(this Cart cart) =>
        new(cart.Key, [.. cart.At.Select(a => a.Text)], cart.Fields, cart.Item, cart.PassesUnknown ? "pass" : "refuse", cart.Version);

    public static Core.Prices.CartDraft ToCore(this Contract.Prices.CartDraft draft, string key) =>
        new() { Key = key, At = draft.At, Fields = draft.Fields, Item = draft.Item, Unknown = draft.Unknown };
}
