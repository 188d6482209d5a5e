using WarySentinel.Contract;
using WarySentinel.Contract.Redirects;

namespace WarySentinel.Client;

/// <summary>Redirects.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Redirects, in the order in which they are tried.</summary>
    public async Task<IReadOnlyList<RedirectView>> RedirectsAsync(CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<RedirectView>>("redirects", cancellationToken)).Value.Items;

    /// <summary>Stores a redirect.</summary>
    public async Task<RedirectView> PutRedirectAsync(string key, string on, string audience, string to, int? position, CancellationToken cancellationToken) =>
        (await SendAsync<RedirectView>(HttpMethod.Put, "redirects/" + Uri.EscapeDataString(key),
            new RedirectDraft(key, on, audience, to, position), null, cancellationToken)).Value;

    /// <summary>Removes a redirect.</summary>
    public Task RemoveRedirectAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, "redirects/" + Uri.EscapeDataString(key), null, null, cancellationToken);
}
