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
    public async Task<RedirectView> PutRedirectAsync(string key, RedirectDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<RedirectView>(HttpMethod.Put, "redirects/" + Uri.EscapeDataString(key), draft, null, cancellationToken)).Value;

    /// <summary>Stores a redirect that does not insist.</summary>
    public Task<RedirectView> PutRedirectAsync(string key, string on, string audience, string to, int? position, CancellationToken cancellationToken) =>
        PutRedirectAsync(key, new RedirectDraft(key, on, audience, to, position), cancellationToken);

    /// <summary>Puts redirects into an order.</summary>
    public async Task<IReadOnlyList<RedirectView>> OrderRedirectsAsync(IReadOnlyList<string> keys, CancellationToken cancellationToken) =>
        (await SendAsync<PageOf<RedirectView>>(HttpMethod.Post, "redirects/order", new OrderedKeys(keys), null, cancellationToken)).Value.Items;

    /// <summary>Asks where somebody would land, and why.</summary>
    public async Task<LandingView> TryRedirectAsync(LandingQuestion question, CancellationToken cancellationToken) =>
        (await SendAsync<LandingView>(HttpMethod.Post, "redirects/try", question, null, cancellationToken)).Value;

    /// <summary>Removes a redirect.</summary>
    public Task RemoveRedirectAsync(string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, "redirects/" + Uri.EscapeDataString(key), null, null, cancellationToken);
}
