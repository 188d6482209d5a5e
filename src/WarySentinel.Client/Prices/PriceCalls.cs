using WarySentinel.Contract;
using WarySentinel.Contract.Prices;

namespace WarySentinel.Client;

/// <summary>Prices, coupons and carts.</summary>
public sealed partial class SentinelClient
{
    /// <summary>All price lists, without their lines.</summary>
    public async Task<IReadOnlyList<PriceListView>> PriceListsAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<PriceListView>>("prices", cancellationToken)).Value.Items;

    /// <summary>One of them, with its entity tag.</summary>
    public Task<(PriceListView Value, string? Tag)> PriceListAsync(string key, CancellationToken cancellationToken) =>
        GetAsync<PriceListView>(Named("prices", key), cancellationToken);

    /// <summary>Stores a price list.</summary>
    public async Task<PriceListView> PutPriceListAsync(string key, PriceListDraft draft, string? tag, CancellationToken cancellationToken) =>
        (await SendAsync<PriceListView>(HttpMethod.Put, Named("prices", key), draft, tag ?? "*", cancellationToken)).Value;

    /// <summary>Removes a price list.</summary>
    public Task RemovePriceListAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, Named("prices", key), null, null, cancellationToken);

    /// <summary>The lines of a price list as CSV.</summary>
    public async Task<string> PriceLinesAsync(string key, CancellationToken cancellationToken)
    {
        using var response = await http.GetAsync(Named("prices", key) + "/lines.csv", cancellationToken);
        await ThrowIfRefusedAsync(response, cancellationToken);
        return await response.Content.ReadAsStringAsync(cancellationToken);
    }

    /// <summary>Puts the lines of a CSV file in place of those of a price list, or says what that would change.</summary>
    public async Task<PriceImportView> ImportPricesAsync(string key, Stream csv, bool dryRun, CancellationToken cancellationToken) =>
        (await SendAsync<PriceImportView>(
            HttpMethod.Put, Named("prices", key) + "/lines.csv" + (dryRun ? "?dryRun=true" : ""), Content(csv, "text/csv"), null, cancellationToken)).Value;

    /// <summary>What a cart costs somebody.</summary>
    public async Task<QuoteView> QuoteAsync(QuoteQuestion question, CancellationToken cancellationToken) =>
        (await SendAsync<QuoteView>(HttpMethod.Post, "quotes", question, null, cancellationToken)).Value;

    /// <summary>All coupons.</summary>
    public async Task<IReadOnlyList<CouponView>> CouponsAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<CouponView>>("coupons", cancellationToken)).Value.Items;

    /// <summary>One of them, with its entity tag.</summary>
    public Task<(CouponView Value, string? Tag)> CouponAsync(string key, CancellationToken cancellationToken) =>
        GetAsync<CouponView>(Named("coupons", key), cancellationToken);

    /// <summary>Stores a coupon.</summary>
    public async Task<CouponView> PutCouponAsync(string key, CouponDraft draft, string? tag, CancellationToken cancellationToken) =>
        (await SendAsync<CouponView>(HttpMethod.Put, Named("coupons", key), draft, tag ?? "*", cancellationToken)).Value;

    /// <summary>Removes a coupon.</summary>
    public Task RemoveCouponAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, Named("coupons", key), null, null, cancellationToken);

    /// <summary>Who used a coupon, newest first.</summary>
    public async Task<PageOf<CouponUseView>> CouponUsesAsync(string key, string? after, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<CouponUseView>>(
            Named("coupons", key) + "/uses" + (after is null ? "" : "?after=" + Uri.EscapeDataString(after)), cancellationToken)).Value;

    /// <summary>Uses a coupon for an order.</summary>
    public async Task<CouponUseView> UseCouponAsync(CouponUseDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<CouponUseView>(HttpMethod.Post, "coupon-uses", draft, null, cancellationToken)).Value;

    /// <summary>Gives the use of an order back.</summary>
    public Task ReturnCouponAsync(string key, string order, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, Named("coupons", key) + "/uses/" + Uri.EscapeDataString(order), null, null, cancellationToken);

    /// <summary>All carts.</summary>
    public async Task<IReadOnlyList<CartView>> CartsAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<CartView>>("carts", cancellationToken)).Value.Items;

    /// <summary>One of them, with its entity tag.</summary>
    public Task<(CartView Value, string? Tag)> CartAsync(string key, CancellationToken cancellationToken) =>
        GetAsync<CartView>(Named("carts", key), cancellationToken);

    /// <summary>Stores a cart.</summary>
    public async Task<CartView> PutCartAsync(string key, CartDraft draft, string? tag, CancellationToken cancellationToken) =>
        (await SendAsync<CartView>(HttpMethod.Put, Named("carts", key), draft, tag ?? "*", cancellationToken)).Value;

    /// <summary>Removes a cart.</summary>
    public Task RemoveCartAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, Named("carts", key), null, null, cancellationToken);

    private static string Named(string room, string key) => $"{room}/{Uri.EscapeDataString(key)}";
}
