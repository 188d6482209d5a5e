namespace WarySentinel.Contract.Catalogue;

/// <summary>What the catalogue is to be read from.</summary>
/// <param name="Source"><c>sitemap</c>, <c>feed</c> or <c>walk</c>.</param>
/// <param name="Url">Where it begins; the guarded site itself unless said.</param>
/// <param name="Map">What addresses stand for, where the source doesn't say: <c>/product/*=product</c>.</param>
/// <param name="MostPages">Most pages of a walk.</param>
/// <param name="PauseMilliseconds">Pause between two pages of a walk.</param>
/// <param name="Pages">Whether a walk brings in plain pages too.</param>
/// <param name="Resume">Whether to go on with a walk that broke off.</param>
public sealed record DiscoverDraft(string? Source, string? Url, IReadOnlyList<string>? Map, int? MostPages, int? PauseMilliseconds, bool? Pages, bool? Resume);

/// <summary>What was found: what would change, and under which name it can be stored.</summary>
/// <param name="Find">Names the find; good for half an hour.</param>
/// <param name="Found">How many things the source told of.</param>
/// <param name="Whole">Whether it was read to its end; a walk may break off at its bound and go on later.</param>
/// <param name="Result">What storing would do.</param>
/// <param name="Changes">The changes, a bounded number of them.</param>
/// <param name="MoreChanges">How many were left out.</param>
/// <param name="Vanished">Known items that the source no longer names; nothing happens to them.</param>
public sealed record DiscoverResult(
    Guid Find, int Found, bool Whole, ImportResult Result, IReadOnlyList<SiteChange> Changes, int MoreChanges, IReadOnlyList<ItemName> Vanished);

/// <summary>How far it is; the last line carries the result.</summary>
public sealed record DiscoverLine(string Stage, int Done, int Total, DiscoverResult? Result = null, string? Detail = null);
