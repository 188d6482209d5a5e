namespace WarySentinel.Contract.Catalogue;

/// <summary>What the catalogue is to be read from.</summary>
/// <param name="Source"><c>sitemap</c>, <c>feed</c> or <c>walk</c>.</param>
/// <param name="Url">Where it begins; the guarded site itself unless said.</param>
/// <param name="Map">What addresses stand for, where the source doesn't say: <c>/product/*=product</c>.</param>
/// <param name="MostPages">Most pages of a walk.</param>
/// <param name="PauseMilliseconds">Pause between two pages of a walk.</param>
/// <param name="Pages">Whether a walk brings in plain pages too.</param>
/// <param name="Resume">Whether to go on with a walk that broke off.</param>
/// <param name="SameAs">Further hosts that are the same site, such as <c>www.shop.example</c>, where a sitemap names it by another.</param>
public sealed record DiscoverDraft(
    string? Source, string? Url, IReadOnlyList<string>? Map, int? MostPages, int? PauseMilliseconds, bool? Pages, bool? Resume,
    IReadOnlyList<string>? SameAs = null);

/// <summary>A host that a source names and that is not the site's.</summary>
/// <param name="Host">The host, with its port where it has one.</param>
/// <param name="Addresses">How many addresses of it were left out.</param>
public sealed record ElsewhereHost(string Host, int Addresses);

/// <summary>An address that people ask for and the catalogue has no item for.</summary>
/// <param name="Address">The address on the site.</param>
/// <param name="Times">How often it was asked for.</param>
public sealed record AskedAddress(string Address, int Times);

/// <summary>What was found: what would change, and under which name it can be stored.</summary>
/// <param name="Find">Names the find; good for half an hour.</param>
/// <param name="Found">How many things the source told of.</param>
/// <param name="Whole">Whether it was read to its end; a walk may break off at its bound and go on later.</param>
/// <param name="Result">What storing would do.</param>
/// <param name="Changes">The changes, a bounded number of them.</param>
/// <param name="MoreChanges">How many were left out.</param>
/// <param name="Vanished">Known items that the source no longer names; nothing happens to them.</param>
public sealed record DiscoverResult(
    Guid Find, int Found, bool Whole, ImportResult Result, IReadOnlyList<SiteChange> Changes, int MoreChanges, IReadOnlyList<ItemName> Vanished)
{
    /// <summary>Hosts that the source names and that are not the site's.</summary>
    public IReadOnlyList<ElsewhereHost> Elsewhere { get; init; } = [];

    /// <summary>Of a web server's log: what is asked for and lacking, the most asked for first.</summary>
    public IReadOnlyList<AskedAddress> Asked { get; init; } = [];

    /// <summary>Of a web server's log: how many lines it has.</summary>
    public int Lines { get; init; }

    /// <summary>Of a web server's log: how many requests were counted.</summary>
    public int Requests { get; init; }
}

/// <summary>How far it is; the last line carries the result.</summary>
public sealed record DiscoverLine(string Stage, int Done, int Total, DiscoverResult? Result = null, string? Detail = null);
