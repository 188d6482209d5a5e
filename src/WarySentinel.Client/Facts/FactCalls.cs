namespace WarySentinel.Client;

/// <summary>A role, group or plan.</summary>
public sealed record FactDefinition(string Key, string Title, int Members, int Version, bool BuiltIn);

/// <summary>Roles, groups and plans.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Roles, groups or plans (<c>roles</c>, <c>groups</c>, <c>plans</c>).</summary>
    public async Task<IReadOnlyList<FactDefinition>> FactDefinitionsAsync(string kind, CancellationToken stop) =>
        (await GetAsync<PageOf<FactDefinition>>(kind, stop)).Value.Items;

    /// <summary>Adds a role, group or plan.</summary>
    public async Task<FactDefinition> AddFactDefinitionAsync(string kind, string? key, string title, CancellationToken stop) =>
        (await SendAsync<FactDefinition>(HttpMethod.Post, kind, new { key, title }, null, stop)).Value;

    /// <summary>Removes a role, group or plan.</summary>
    public Task RemoveFactDefinitionAsync(string kind, string key, CancellationToken stop) =>
        SendAsync<object>(HttpMethod.Delete, $"{kind}/{Uri.EscapeDataString(key)}", null, null, stop);
}
