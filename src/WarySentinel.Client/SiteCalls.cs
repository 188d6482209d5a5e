using WarySentinel.Contract;

namespace WarySentinel.Client;

/// <summary>The site as a whole: how it is, its settings, its history.</summary>
public sealed partial class SentinelClient
{
    /// <summary>The change history, newest first.</summary>
    public async Task<IReadOnlyList<HistoryView>> HistoryAsync(string? subject, int most, CancellationToken cancellationToken) =>
        (await GetAsync<PageOf<HistoryView>>($"history?limit={most}{(subject is null ? "" : "&subject=" + Uri.EscapeDataString(subject))}",
            cancellationToken)).Value.Items;

    /// <summary>Drops what is stored of something that cannot be read; what it closed is open again.</summary>
    public Task MendAsync(string kind, string key, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Post, "mend", new MendDraft(kind, key), null, cancellationToken);

    /// <summary>How the service is.</summary>
    public async Task<StatusView> StatusAsync(CancellationToken cancellationToken) => (await GetAsync<StatusView>("status", cancellationToken)).Value;

    /// <summary>The settings as they are, and their entity tag.</summary>
    public Task<(System.Text.Json.JsonElement Value, string? Tag)> SettingsAsync(CancellationToken cancellationToken) =>
        GetAsync<System.Text.Json.JsonElement>("settings", cancellationToken);

    /// <summary>What a page of the site looks like, and a look made of it; nothing is stored.</summary>
    public async Task<Contract.Gates.FoundLookView> TakeLookAsync(string? page, CancellationToken cancellationToken) =>
        (await SendAsync<Contract.Gates.FoundLookView>(
            HttpMethod.Post, "settings/look/take", new Contract.Gates.LookTakeDraft(page), null, cancellationToken)).Value;

    /// <summary>Stores settings; what is left out stays.</summary>
    public async Task<System.Text.Json.JsonElement> SetSettingsAsync(System.Text.Json.JsonElement settings, string tag, CancellationToken cancellationToken) =>
        (await SendAsync<System.Text.Json.JsonElement>(HttpMethod.Put, "settings", settings, tag, cancellationToken)).Value;
}
