using System.Net.Http.Headers;
using System.Text.Json;

namespace WarySentinel.Client;

/// <summary>An item.</summary>
public sealed record Item(string Id, string Kind, string Title, IReadOnlyList<string> Parents, IReadOnlyList<string> Addresses, int Children, int Version);

/// <summary>What an import did, or would do.</summary>
public sealed record ImportResult(int Added, int Changed, int Same, IReadOnlyList<Fault> Faults, int FaultyRows, bool Stored);

/// <summary>How far an import is; the last line carries the result.</summary>
public sealed record ImportLine(string Stage, int Done, int Total, ImportResult? Result, string? Detail);

/// <summary>Items.</summary>
public sealed partial class SentinelClient
{
    /// <summary>One item.</summary>
    public async Task<Item> ItemAsync(string id, CancellationToken stop) => (await GetAsync<Item>("items/" + Uri.EscapeDataString(id), stop)).Value;

    /// <summary>Adds an item.</summary>
    public async Task<Item> AddItemAsync(string id, string title, IReadOnlyList<string> parents, IReadOnlyList<string> addresses, CancellationToken stop) =>
        (await SendAsync<Item>(HttpMethod.Post, "items", new { id, title, parents, addresses }, null, stop)).Value;

    /// <summary>Imports items from a CSV or YAML file, line by line how far it is.</summary>
    public async IAsyncEnumerable<ImportLine> ImportAsync(
        Stream file, bool yaml, bool keepGood, bool dryRun, [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken stop)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, $"items/import?keepGood={(keepGood ? "true" : "false")}&dryRun={(dryRun ? "true" : "false")}") { Content = new StreamContent(file) };
        request.Content.Headers.ContentType = new MediaTypeHeaderValue(yaml ? "application/yaml" : "text/csv");
        // A file that is too large is refused by its length before it is sent.
        request.Headers.ExpectContinue = true;
        using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop);
        await ThrowIfRefusedAsync(response, stop);
        using var lines = new StreamReader(await response.Content.ReadAsStreamAsync(stop));
        while (await lines.ReadLineAsync(stop) is { } line)
        {
            yield return JsonSerializer.Deserialize<ImportLine>(line, Json)!;
        }
    }
}
