using WarySentinel.Contract;
using WarySentinel.Contract.Pages;

namespace WarySentinel.Client;

/// <summary>The pages that the service has for visitors.</summary>
public sealed partial class SentinelClient
{
    /// <summary>All of them.</summary>
    public async Task<IReadOnlyList<VisitorPageView>> VisitorPagesAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<VisitorPageView>>("visitor-pages", cancellationToken)).Value.Items;

    /// <summary>Stores what is set of one.</summary>
    public async Task<VisitorPageView> SetVisitorPageAsync(string key, VisitorPageDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<VisitorPageView>(HttpMethod.Put, "visitor-pages/" + Uri.EscapeDataString(key), draft, "*", cancellationToken)).Value;
}
