namespace WarySentinel.Client;

/// <summary>Something wrong that a sweep found.</summary>
public sealed record SweepFinding(string Kind, bool IsLeak, string Address, string? Item, string As, string Via, string? Gate, string What, string Mend);

/// <summary>What a sweep found.</summary>
public sealed record SweepReport(
    Guid Id, DateTimeOffset StartedAt, DateTimeOffset EndedAt, string By, string Site, string? Origin, string? Cache, IReadOnlyList<string> As,
    int Addresses, int Guarded, int Requests, int LeftOut, int Leaks, int Closed, int Missing, IReadOnlyList<SweepFinding> Findings);

/// <summary>How far a sweep is.</summary>
public sealed record SweepLine(string Stage, int Done, int Total, int Leaks, SweepReport? Report, string? Detail);

/// <summary>What a sweep is to do.</summary>
public sealed record SweepDraft(IReadOnlyList<string>? As, string? Site, string? Origin, string? Cache, int? Most);

/// <summary>The sweep.</summary>
public sealed partial class SentinelClient
{
    /// <summary>Runs a sweep, line by line how far it is.</summary>
    public IAsyncEnumerable<SweepLine> SweepAsync(SweepDraft draft, CancellationToken stop) =>
        LinesAsync<SweepLine>("sweeps", System.Net.Http.Json.JsonContent.Create(draft, options: Json), stop);

    /// <summary>The report of the newest sweep.</summary>
    public async Task<SweepReport> LatestSweepAsync(CancellationToken stop) => (await GetAsync<SweepReport>("sweeps/latest", stop)).Value;
}
