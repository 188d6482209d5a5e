namespace WarySentinel.Client;

/// <summary>One field that a change made other.</summary>
public sealed record FieldChange(string Field, string? Before, string? After);

/// <summary>An entry of the change history.</summary>
public sealed record History(long Id, DateTimeOffset At, string By, string Action, string Subject, string? Before, string? After,
    IReadOnlyList<FieldChange> Changes);

/// <summary>How the service is.</summary>
public sealed record Status(
    string Version, string SiteName, string SiteUrl, string Origin, string Database, long Revision, int Items, int Gates, int GatesInForce, int Members,
    DateTimeOffset StartedAt, int LettersGivenUp,
    IReadOnlyList<StoredFault> Faults);

/// <summary>Something stored that cannot be read; what it covered is closed until it is mended.</summary>
public sealed record StoredFault(string Kind, string Key, string Reason, IReadOnlyList<string> Closed, string Mend);

/// <summary>The site as a whole: how it is, its settings, its history.</summary>
public sealed partial class SentinelClient
{
    /// <summary>The change history, newest first.</summary>
    public async Task<IReadOnlyList<History>> HistoryAsync(string? subject, int most, CancellationToken stop) =>
        (await GetAsync<PageOf<History>>($"history?limit={most}{(subject is null ? "" : "&subject=" + Uri.EscapeDataString(subject))}", stop)).Value.Items;

    /// <summary>Drops what is stored of something that cannot be read; what it closed is open again.</summary>
    public Task MendAsync(string kind, string key, CancellationToken stop) => SendAsync<object>(HttpMethod.Post, "mend", new { kind, key }, null, stop);

    /// <summary>How the service is.</summary>
    public async Task<Status> StatusAsync(CancellationToken stop) => (await GetAsync<Status>("status", stop)).Value;

    /// <summary>The settings as they are, and their entity tag.</summary>
    public Task<(System.Text.Json.JsonElement Value, string? Tag)> SettingsAsync(CancellationToken stop) =>
        GetAsync<System.Text.Json.JsonElement>("settings", stop);

    /// <summary>Stores settings; what is left out stays.</summary>
    public async Task<System.Text.Json.JsonElement> SetSettingsAsync(System.Text.Json.JsonElement settings, string tag, CancellationToken stop) =>
        (await SendAsync<System.Text.Json.JsonElement>(HttpMethod.Put, "settings", settings, tag, stop)).Value;
}
