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

    /// <summary>How many pages are drawn in a browser at most, to see what their scripts add; 100 unless said, 0 for none.</summary>
    public int? Draw { get; init; }

    /// <summary>Go on with the sweep that was broken off, as it was asked for then; the rest of this draft says nothing.</summary>
    public bool Resume { get; init; }
}

/// <summary>A sweep that has not ended.</summary>
/// <param name="StartedAt">When it began.</param>
/// <param name="By">Who began it.</param>
/// <param name="Notes">How many steps of it are done.</param>
/// <param name="IsRunning">Whether it runs at present.</param>
/// <param name="CanResume">Whether it can be gone on with: once a gate or an item has changed, it says nothing any more.</param>
public sealed record SweepUnfinished(DateTimeOffset StartedAt, string By, int Notes, bool IsRunning, bool CanResume);

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

    /// <summary>How many pages were drawn in a browser.</summary>
    public int Drawn { get; init; }

    /// <summary>How many more have scripts.</summary>
    public int Undrawn { get; init; }
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
/// <param name="Stage"><c>asking</c>, <c>drawing</c>, <c>done</c> or <c>failed</c>.</param>
/// <param name="Done">Addresses done.</param>
/// <param name="Total">Out of how many.</param>
/// <param name="Leaks">Leaks found so far.</param>
/// <param name="Report">What was found, on the last line.</param>
/// <param name="Detail">Why it failed, on a failed line.</param>
public sealed record SweepLine(string Stage, int Done, int Total, int Leaks, SweepReport? Report = null, string? Detail = null);
