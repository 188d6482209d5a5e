using WarySentinel.Contract;
using WarySentinel.Contract.Catalogue;

namespace WarySentinel.Client;

/// <summary>Items, and the site as text.</summary>
public sealed partial class SentinelClient
{
    /// <summary>One item.</summary>
    public async Task<ItemView> ItemAsync(string id, CancellationToken cancellationToken) =>
        (await GetAsync<ItemView>("items/" + Uri.EscapeDataString(id), cancellationToken)).Value;

    /// <summary>What removing an item would open, and the entity tag to remove it with.</summary>
    public Task<(RemovalView Value, string? Tag)> RemovalAsync(string id, CancellationToken cancellationToken) =>
        GetAsync<RemovalView>($"items/{Uri.EscapeDataString(id)}/removal", cancellationToken);

    /// <summary>Removes an item.</summary>
    public Task RemoveItemAsync(string id, string tag, CancellationToken cancellationToken) =>
        SendAsync<object>(HttpMethod.Delete, "items/" + Uri.EscapeDataString(id), null, tag, cancellationToken);

    /// <summary>Adds an item.</summary>
    public async Task<ItemView> AddItemAsync(
        string id, string title, IReadOnlyList<string> parents, IReadOnlyList<string> addresses, CancellationToken cancellationToken) =>
        (await SendAsync<ItemView>(HttpMethod.Post, "items", new ItemDraft(id, title, parents, addresses), null, cancellationToken)).Value;

    /// <summary>Imports items from a CSV or YAML file, line by line how far it is.</summary>
    public IAsyncEnumerable<ImportLine> ImportAsync(Stream file, bool yaml, bool keepGood, bool dryRun, CancellationToken cancellationToken) =>
        LinesAsync<ImportLine>($"items/import?keepGood={(keepGood ? "true" : "false")}&dryRun={(dryRun ? "true" : "false")}",
            Content(file, yaml ? "application/yaml" : "text/csv"), cancellationToken);

    /// <summary>Looks what a sitemap, a feed or a walk over the site would bring; nothing is stored.</summary>
    public IAsyncEnumerable<DiscoverLine> DiscoverAsync(DiscoverDraft draft, CancellationToken cancellationToken) =>
        LinesAsync<DiscoverLine>("items/discover", System.Net.Http.Json.JsonContent.Create(draft, options: ApiJson.Options), cancellationToken);

    /// <summary>Looks what a sitemap, a feed or the log of a web server in a file would bring; nothing is stored.</summary>
    public IAsyncEnumerable<DiscoverLine> DiscoverAsync(
        Stream file, IReadOnlyList<string> map, IReadOnlyList<string> sameAs, string? source, int? least, CancellationToken cancellationToken) =>
        LinesAsync<DiscoverLine>("items/discover/file?" + string.Join('&', map.Select(m => "map=" + Uri.EscapeDataString(m))
            .Concat(sameAs.Select(h => "sameAs=" + Uri.EscapeDataString(h))).Append(source is null ? "" : "source=" + source)
            .Append(least is null ? "" : $"least={least}").Where(p => p.Length > 0)),
            Content(file, "application/xml"), cancellationToken);

    /// <summary>Stores what was found.</summary>
    public async Task<ImportResult> StoreDiscoveredAsync(Guid find, CancellationToken cancellationToken) =>
        (await SendAsync<ImportResult>(HttpMethod.Post, $"items/discover/{find}/store", null, null, cancellationToken)).Value;
}
