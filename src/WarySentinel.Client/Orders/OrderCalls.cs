using WarySentinel.Contract;
using WarySentinel.Contract.Orders;

namespace WarySentinel.Client;

/// <summary>Orders, what they give, and who tells of them.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Orders, the newest first.</summary>
    public async Task<PageOf<OrderView>> OrdersAsync(
        string? words, string? standing, string? handling, int? limit, string? cursor, CancellationToken cancellationToken)
    {
        var size = limit?.ToString(System.Globalization.CultureInfo.InvariantCulture);
        (string Name, string? Value)[] asked = [("q", words), ("standing", standing), ("handling", handling), ("limit", size), ("cursor", cursor)];
        var query = string.Join('&', asked.Where(a => a.Value is not null).Select(a => $"{a.Name}={Uri.EscapeDataString(a.Value!)}"));
        return (await GetAsync<PageOf<OrderView>>("orders" + (query.Length > 0 ? "?" + query : ""), cancellationToken)).Value;
    }

    /// <summary>One order with its story.</summary>
    public async Task<OrderStoryView> OrderAsync(Guid id, CancellationToken cancellationToken) =>
        (await GetAsync<OrderStoryView>($"orders/{id}", cancellationToken)).Value;

    /// <summary>Tells of an order.</summary>
    public async Task<OrderToldView> TellOrderAsync(OrderDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<OrderToldView>(HttpMethod.Post, "orders", draft, null, cancellationToken)).Value;

    /// <summary>Tells what happened to an order that is there.</summary>
    public async Task<OrderToldView> TellOfOrderAsync(Guid id, OrderDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<OrderToldView>(HttpMethod.Post, $"orders/{id}/events", draft, null, cancellationToken)).Value;

    /// <summary>Looks through a file of orders, or takes it in.</summary>
    public async Task<OrderImportView> ImportOrdersAsync(Stream csv, bool dryRun, CancellationToken cancellationToken) =>
        (await SendAsync<OrderImportView>(
            HttpMethod.Post, "orders/import" + (dryRun ? "?dryRun=true" : ""), Content(csv, "text/csv"), null, cancellationToken)).Value;

    /// <summary>Takes an order up again.</summary>
    public async Task<OrderView> TakeOrderUpAsync(Guid id, CancellationToken cancellationToken) =>
        (await SendAsync<OrderView>(HttpMethod.Post, $"orders/{id}/again", null, null, cancellationToken)).Value;

    /// <summary>What came and cannot be read.</summary>
    public async Task<IReadOnlyList<UnreadableEventView>> UnreadableEventsAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<UnreadableEventView>>("orders/unreadable", cancellationToken)).Value.Items;

    /// <summary>Reads what could not be read again.</summary>
    public async Task<OrderEventView> ReadEventAgainAsync(Guid id, CancellationToken cancellationToken) =>
        (await SendAsync<OrderEventView>(HttpMethod.Post, $"orders/unreadable/{id}/again", null, null, cancellationToken)).Value;

    /// <summary>Drops what cannot be read.</summary>
    public Task DropEventAsync(Guid id, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"orders/unreadable/{id}", null, null, cancellationToken);

    /// <summary>The fulfilment rules.</summary>
    public async Task<IReadOnlyList<FulfilmentView>> FulfilmentAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<FulfilmentView>>("fulfilment", cancellationToken)).Value.Items;

    /// <summary>Stores a fulfilment rule.</summary>
    public async Task<FulfilmentView> PutFulfilmentAsync(string key, FulfilmentDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<FulfilmentView>(HttpMethod.Put, "fulfilment/" + Uri.EscapeDataString(key), draft, null, cancellationToken)).Value;

    /// <summary>Removes a fulfilment rule.</summary>
    public Task RemoveFulfilmentAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, "fulfilment/" + Uri.EscapeDataString(key), null, null, cancellationToken);

    /// <summary>What an order would do.</summary>
    public async Task<FulfilmentTried> TryFulfilmentAsync(FulfilmentTrial trial, CancellationToken cancellationToken) =>
        (await SendAsync<FulfilmentTried>(HttpMethod.Post, "fulfilment/try", trial, null, cancellationToken)).Value;

    /// <summary>Who tells of orders.</summary>
    public async Task<IReadOnlyList<OrderSourceView>> OrderSourcesAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<OrderSourceView>>("order-sources", cancellationToken)).Value.Items;

    /// <summary>Stores a source of orders.</summary>
    public async Task<OrderSourceView> PutOrderSourceAsync(string key, OrderSourceDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<OrderSourceView>(HttpMethod.Put, "order-sources/" + Uri.EscapeDataString(key), draft, null, cancellationToken)).Value;

    /// <summary>Removes a source of orders.</summary>
    public Task RemoveOrderSourceAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, "order-sources/" + Uri.EscapeDataString(key), null, null, cancellationToken);

    /// <summary>Gives a source of orders another secret.</summary>
    public async Task<SourceSecretView> RekeyOrderSourceAsync(string key, SourceSecretDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<SourceSecretView>(HttpMethod.Post, $"order-sources/{Uri.EscapeDataString(key)}/secret", draft, null, cancellationToken)).Value;

    /// <summary>What would be read in a call.</summary>
    public async Task<MappingTried> TryMappingAsync(MappingTrial trial, CancellationToken cancellationToken) =>
        (await SendAsync<MappingTried>(HttpMethod.Post, "order-sources/try", trial, null, cancellationToken)).Value;

    /// <summary>What orders came to, by month and by what was bought, and what is about to lapse.</summary>
    /// <param name="from">The first month, such as <c>2026-01</c>; null for the first there is.</param>
    /// <param name="until">The last month.</param>
    /// <param name="days">How many days ahead it looks; 30 where null.</param>
    /// <param name="cancellationToken">Cancels.</param>
    public async Task<OrderFiguresView> OrderFiguresAsync(string? from, string? until, int? days, CancellationToken cancellationToken) =>
        (await GetAsync<OrderFiguresView>("orders/figures?" + Months(from, until) + (days is { } ahead ? "&days=" + ahead : ""), cancellationToken)).Value;

    /// <summary>The same as CSV.</summary>
    public async Task<string> OrderFiguresFileAsync(string? from, string? until, CancellationToken cancellationToken)
    {
        using var response = await http.GetAsync("orders/figures.csv?" + Months(from, until), cancellationToken);
        await ThrowIfRefusedAsync(response, cancellationToken);
        return await response.Content.ReadAsStringAsync(cancellationToken);
    }

    private static string Months(string? from, string? until) => $"from={Uri.EscapeDataString(from ?? "")}&until={Uri.EscapeDataString(until ?? "")}";
}
