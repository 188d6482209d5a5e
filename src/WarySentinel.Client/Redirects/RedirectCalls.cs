namespace WarySentinel.Client;

/// <summary>Where people land.</summary>
public sealed record Redirect(string Key, string On, string Audience, string To, int Position, int Version);

/// <summary>Redirects.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Redirects, in the order in which they are tried.</summary>
    public async Task<IReadOnlyList<Redirect>> RedirectsAsync(CancellationToken stop) => (await GetAsync<PageOf<Redirect>>("redirects", stop)).Value.Items;

    /// <summary>Stores a redirect.</summary>
    public async Task<Redirect> PutRedirectAsync(string key, string on, string audience, string to, int? position, CancellationToken stop) =>
        (await SendAsync<Redirect>(HttpMethod.Put, "redirects/" + Uri.EscapeDataString(key), new { key, on, audience, to, position }, null, stop)).Value;

    /// <summary>Removes a redirect.</summary>
    public Task RemoveRedirectAsync(string key, CancellationToken stop) =>
        SendAsync<object>(HttpMethod.Delete, "redirects/" + Uri.EscapeDataString(key), null, null, stop);
}
