using WarySentinel.Contract;
using WarySentinel.Contract.Facts;

namespace WarySentinel.Client;

/// <summary>Roles, groups and plans.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Roles, groups or plans (<c>roles</c>, <c>groups</c>, <c>plans</c>).</summary>
    public async Task<IReadOnlyList<FactDefinitionView>> FactDefinitionsAsync(string kind, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<FactDefinitionView>>(kind, cancellationToken)).Value.Items;

    /// <summary>One of them, with the tag of its version.</summary>
    public Task<(FactDefinitionView Value, string? Tag)> FactDefinitionAsync(string kind, string key, CancellationToken cancellationToken) =>
        GetAsync<FactDefinitionView>(Of(kind, key), cancellationToken);

    /// <summary>Adds a role, group or plan.</summary>
    public async Task<FactDefinitionView> AddFactDefinitionAsync(string kind, FactDefinitionDraft draft, CancellationToken cancellationToken) =>
        (await SendAsync<FactDefinitionView>(HttpMethod.Post, kind, draft, null, cancellationToken)).Value;

    /// <summary>Adds one by key and title.</summary>
    public Task<FactDefinitionView> AddFactDefinitionAsync(string kind, string? key, string title, CancellationToken cancellationToken) =>
        AddFactDefinitionAsync(kind, new FactDefinitionDraft(key, title), cancellationToken);

    /// <summary>Changes what one is called, its pages, its rule.</summary>
    public async Task<FactDefinitionView> SetFactDefinitionAsync(
        string kind, string key, FactDefinitionDraft draft, string tag, CancellationToken cancellationToken) =>
        (await SendAsync<FactDefinitionView>(HttpMethod.Put, Of(kind, key), draft, tag, cancellationToken)).Value;

    /// <summary>What hangs on one.</summary>
    public async Task<FactUsesView> FactUsesAsync(string kind, string key, CancellationToken cancellationToken) =>
        (await GetAsync<FactUsesView>(Of(kind, key) + "/uses", cancellationToken)).Value;

    /// <summary>Gives one another key; whatever names it, and whoever holds it, goes along.</summary>
    public async Task<FactDefinitionView> RenameFactDefinitionAsync(string kind, string key, string to, CancellationToken cancellationToken) =>
        (await SendAsync<FactDefinitionView>(HttpMethod.Post, Of(kind, key) + "/rename", new FactKeyDraft(to), null, cancellationToken)).Value;

    /// <summary>Retires one; another takes its place, or it ends for whoever holds it.</summary>
    public Task RetireFactDefinitionAsync(string kind, string key, string? to, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Post, Of(kind, key) + "/retire", new FactRetireDraft(to), null, cancellationToken);

    /// <summary>Removes a role, group or plan.</summary>
    public Task RemoveFactDefinitionAsync(string kind, string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, Of(kind, key), null, null, cancellationToken);

    private static string Of(string kind, string key) => $"{kind}/{Uri.EscapeDataString(key)}";
}
