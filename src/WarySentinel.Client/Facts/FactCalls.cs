using WarySentinel.Contract;
using WarySentinel.Contract.Facts;

namespace WarySentinel.Client;

/// <summary>Roles, groups and plans.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Roles, groups or plans (<c>roles</c>, <c>groups</c>, <c>plans</c>).</summary>
    public async Task<IReadOnlyList<FactDefinitionView>> FactDefinitionsAsync(string kind, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<FactDefinitionView>>(kind, cancellationToken)).Value.Items;

    /// <summary>Adds a role, group or plan.</summary>
    public async Task<FactDefinitionView> AddFactDefinitionAsync(string kind, string? key, string title, CancellationToken cancellationToken) =>
        (await SendAsync<FactDefinitionView>(HttpMethod.Post, kind, new FactDefinitionDraft(key, title), null, cancellationToken)).Value;

    /// <summary>Removes a role, group or plan.</summary>
    public Task RemoveFactDefinitionAsync(string kind, string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, $"{kind}/{Uri.EscapeDataString(key)}", null, null, cancellationToken);
}
