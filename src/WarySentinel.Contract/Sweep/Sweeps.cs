namespace WarySentinel.Contract.Sweep;

/// <summary>What a sweep is to do.</summary>
/// <param name="As">Viewpoints beside the guest.</param>
/// <param name="Site">The public address; the service's own unless said.</param>
/// <param name="Origin">The guarded site as outsiders might reach it around the service; not asked where empty.</param>
/// <param name="Cache">A page cache in front; the one of the settings file unless said.</param>
/// <param name="Most">Most addresses asked for.</param>
public sealed record SweepDraft(IReadOnlyList<string>? As, string? Site, string? Origin, string? Cache, int? Most)
{
    /// <summary>Only what this gate has a say in, as after a change of it.</summary>
    public string? Gate { get; init; }

    /// <summary>How many requests are on their way at once, from 1 to 64; 8 unless said.</summary>
    public int? AtOnce { get; init; }
}

/// <summary>Something that a sweep found.</summary>
public sealed record SweepFindingView(
    string Kind, bool IsLeak, string Address, string? Item, string As, string Via, string? Gate, string What, string Mend);

/// <summary>What a sweep found.</summary>
public sealed record SweepReport(
    Guid Id, DateTimeOffset StartedAt, DateTimeOffset EndedAt, string By, string Site, string? Origin, string? Cache, IReadOnlyList<string> As,
    int Addresses, int Guarded, int Requests, int LeftOut, int Leaks, int Closed, int Missing, IReadOnlyList<SweepFindingView> Findings)
{
    /// <summary>Where it proved less than it seems, or nothing.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];
}

/// <summary>A sweep that ran.</summary>
/// <param name="Id">Its id.</param>
/// <param name="StartedAt">When it began.</param>
/// <param name="EndedAt">When it ended.</param>
/// <param name="By">Who ran it.</param>
/// <param name="Leaks">How many leaks it found.</param>
/// <param name="Addresses">How many addresses it asked for.</param>
/// <param name="Guarded">How many of them are guarded.</param>
/// <param name="As">As whom it asked.</param>
public sealed record SweepSummary(
    Guid Id, DateTimeOffset StartedAt, DateTimeOffset EndedAt, string By, int Leaks, int Addresses, int Guarded, IReadOnlyList<string> As);

/// <summary>How far a sweep is; the last line carries the report.</summary>
/// <param name="Stage"><c>asking</c>, <c>done</c> or <c>failed</c>.</param>
/// <param name="Done">Addresses done.</param>
/// <param name="Total">Out of how many.</param>
/// <param name="Leaks">Leaks found so far.</param>
/// <param name="Report">What was found, on the last line.</param>
/// <param name="Detail">Why it failed, on a failed line.</param>
public sealed record SweepLine(string Stage, int Done, int Total, int Leaks, SweepReport? Report = null, string? Detail = null);
