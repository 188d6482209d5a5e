namespace WarySentinel.Core;

/// <summary>One thing that a site file makes other.</summary>
/// <param name="Section">The section it stands in.</param>
/// <param name="Key">Its name.</param>
/// <param name="What"><c>added</c>, <c>changed</c> or <c>removed</c>.</param>
/// <param name="Changes">Field by field.</param>
public sealed record SiteChange(string Section, string Key, string What, IReadOnlyList<FieldChange> Changes);
