using WarySentinel.Contract.SiteFile;

namespace WarySentinel.Client;

/// <summary>The site as a file.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Everything as a site file, in YAML.</summary>
    public Task<string> ExportAsync(CancellationToken cancellationToken) => http.GetStringAsync("site.yaml", cancellationToken);

    /// <summary>The JSON Schema of site files.</summary>
    public Task<string> SchemaAsync(CancellationToken cancellationToken) => http.GetStringAsync("site.schema.json", cancellationToken);

    /// <summary>Compares a site file with what is there and, unless it is a dry run, stores it.</summary>
    public IAsyncEnumerable<ApplyLine> ApplyAsync(Stream file, bool prune, bool dryRun, long? revision, CancellationToken cancellationToken) =>
        LinesAsync<ApplyLine>(
            $"apply?prune={(prune ? "true" : "false")}&dryRun={(dryRun ? "true" : "false")}{(revision is null ? "" : $"&revision={revision}")}",
            Content(file, "application/yaml"), cancellationToken);
}
