using WarySentinel.Contract;
using WarySentinel.Contract.Sweep;

namespace WarySentinel.Client;

/// <summary>The sweep.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Runs a sweep, line by line how far it is.</summary>
    public IAsyncEnumerable<SweepLine> SweepAsync(SweepDraft draft, CancellationToken cancellationToken) =>
        LinesAsync<SweepLine>("sweeps", System.Net.Http.Json.JsonContent.Create(draft, options: ApiJson.Options), cancellationToken);

    /// <summary>What past sweeps came to, the newest first.</summary>
    public async Task<IReadOnlyList<SweepSummary>> SweepsAsync(CancellationToken cancellationToken) =>
        (await SendAsync<PageOf<SweepSummary>>(HttpMethod.Get, "sweeps", null, null, cancellationToken)).Value.Items;

    /// <summary>The sweep that has not ended, or null.</summary>
    public async Task<SweepUnfinished?> UnfinishedSweepAsync(CancellationToken cancellationToken) =>
        (await SendAsync<SweepUnfinished?>(HttpMethod.Get, "sweeps/unfinished", null, null, cancellationToken)).Value;

    /// <summary>The report of the newest sweep.</summary>
    public async Task<SweepReport> LatestSweepAsync(CancellationToken cancellationToken) =>
        (await GetAsync<SweepReport>("sweeps/latest", cancellationToken)).Value;
}
