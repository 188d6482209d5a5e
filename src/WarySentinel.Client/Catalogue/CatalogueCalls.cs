namespace WarySentinel.Client;

/// <summary>An item.</summary>
public sealed record Item(string Id, string Kind, string Title, IReadOnlyList<string> Parents, IReadOnlyList<string> Addresses, int Children, int Version);

/// <summary>Something that opens to somebody when an item goes.</summary>
public sealed record Opening(string What, IReadOnlyList<string> ForWhom, string Before, string After);

/// <summary>What removing an item would do.</summary>
public sealed record Removal(Item Item, IReadOnlyList<Opening> Opens);

/// <summary>What an import did, or would do.</summary>
public sealed record ImportResult(int Added, int Changed, int Same, IReadOnlyList<Fault> Faults, int FaultyRows, bool Stored);

/// <summary>How far an import is; the last line carries the result.</summary>
public sealed record ImportLine(string Stage, int Done, int Total, ImportResult? Result, string? Detail);

/// <summary>One thing that changes.</summary>
public sealed record SiteChange(string Section, string Key, string What, IReadOnlyList<FieldChange> Changes);

/// <summary>What the catalogue is to be read from.</summary>
public sealed record DiscoverDraft(string Source, string? Url, IReadOnlyList<string>? Map, int? MostPages, int? PauseMilliseconds, bool? Pages, bool? Resume);

/// <summary>What was found.</summary>
public sealed record DiscoverResult(
    Guid Plan, int Found, bool Whole, ImportResult Result, IReadOnlyList<SiteChange> Changes, int MoreChanges, IReadOnlyList<ItemName> Vanished);

/// <summary>How far it is.</summary>
public sealed record DiscoverLine(string Stage, int Done, int Total, DiscoverResult? Result, string? Detail);

/// <summary>Items, and the site as text.</summary>
public sealed partial class SentinelClient
{
    /// <summary>One item.</summary>
    public async Task<Item> ItemAsync(string id, CancellationToken stop) => (await GetAsync<Item>("items/" + Uri.EscapeDataString(id), stop)).Value;

    /// <summary>What removing an item would open, and the entity tag to remove it with.</summary>
    public Task<(Removal Value, string? Tag)> RemovalAsync(string id, CancellationToken stop) =>
        GetAsync<Removal>($"items/{Uri.EscapeDataString(id)}/removal", stop);

    /// <summary>Removes an item.</summary>
    public Task RemoveItemAsync(string id, string tag, CancellationToken stop) =>
        SendAsync<object>(HttpMethod.Delete, "items/" + Uri.EscapeDataString(id), null, tag, stop);

    /// <summary>Adds an item.</summary>
    public async Task<Item> AddItemAsync(string id, string title, IReadOnlyList<string> parents, IReadOnlyList<string> addresses, CancellationToken stop) =>
        (await SendAsync<Item>(HttpMethod.Post, "items", new { id, title, parents, addresses }, null, stop)).Value;

    /// <summary>Imports items from a CSV or YAML file, line by line how far it is.</summary>
    public IAsyncEnumerable<ImportLine> ImportAsync(Stream file, bool yaml, bool keepGood, bool dryRun, CancellationToken stop) =>
        LinesAsync<ImportLine>($"items/import?keepGood={(keepGood ? "true" : "false")}&dryRun={(dryRun ? "true" : "false")}",
            Content(file, yaml ? "application/yaml" : "text/csv"), stop);

    /// <summary>Looks what a sitemap, a feed or a walk over the site would bring; nothing is stored.</summary>
    public IAsyncEnumerable<DiscoverLine> DiscoverAsync(DiscoverDraft draft, CancellationToken stop) =>
        LinesAsync<DiscoverLine>("items/discover", System.Net.Http.Json.JsonContent.Create(draft, options: Json), stop);

    /// <summary>Looks what a sitemap or feed in a file would bring; nothing is stored.</summary>
    public IAsyncEnumerable<DiscoverLine> DiscoverAsync(Stream file, IReadOnlyList<string> map, CancellationToken stop) =>
        LinesAsync<DiscoverLine>("items/discover/file?" + string.Join('&', map.Select(m => "map=" + Uri.EscapeDataString(m))),
            Content(file, "application/xml"), stop);

    /// <summary>Stores what was found.</summary>
    public async Task<ImportResult> StoreDiscoveredAsync(Guid plan, CancellationToken stop) =>
        (await SendAsync<ImportResult>(HttpMethod.Post, $"items/discover/{plan}/store", null, null, stop)).Value;
}
