namespace WarySentinel.Contract.SiteFile;

/// <summary>What a site file would change, or did.</summary>
/// <param name="Added">Things added.</param>
/// <param name="Changed">Things changed.</param>
/// <param name="Removed">Things removed.</param>
/// <param name="Same">Things that are as the file says.</param>
/// <param name="Beside">Things that the file doesn't name, and that stay.</param>
/// <param name="Changes">The changes, a bounded number of them.</param>
/// <param name="MoreChanges">How many were left out.</param>
/// <param name="Kept">What would be removed but for those who hold it.</param>
/// <param name="Faults">What is wrong with the file; then nothing is stored.</param>
public sealed record SiteDifference(
    int Added, int Changed, int Removed, int Same, int Beside, IReadOnlyList<SiteChange> Changes, int MoreChanges, IReadOnlyList<string> Kept,
    IReadOnlyList<Fault> Faults)
{
    /// <summary>Whether nothing would change.</summary>
    public bool IsEmpty => Added + Changed + Removed == 0;
}

/// <summary>A line of an apply's answer: how far it is, and at last what came of it.</summary>
/// <param name="Stage"><c>reading</c>, <c>comparing</c>, <c>storing</c>, <c>done</c> or <c>failed</c>.</param>
/// <param name="Done">Entries or items done.</param>
/// <param name="Total">Out of how many; 0 while not known.</param>
/// <param name="Difference">What changes, on the last line.</param>
/// <param name="Stored">Whether it was stored.</param>
/// <param name="Revision">The revision it was compared with; a later call may ask that it be the same still.</param>
/// <param name="Detail">Why it failed, on a failed line.</param>
public sealed record ApplyLine(
    string Stage, int Done, int Total, SiteDifference? Difference = null, bool Stored = false, long? Revision = null, string? Detail = null);
