namespace WarySentinel.Contract;

/// <summary>How the service is.</summary>
/// <param name="Version">The version of the build.</param>
/// <param name="SiteName">What the owner calls the site.</param>
/// <param name="SiteUrl">The address that visitors know.</param>
/// <param name="Origin">The guarded site behind it; empty where the service stands beside it.</param>
/// <param name="Database"><c>sqlite</c> or <c>postgres</c>.</param>
/// <param name="Revision">How often the policy was changed.</param>
/// <param name="Items">Items of the catalogue.</param>
/// <param name="Gates">Gates.</param>
/// <param name="GatesInForce">Gates that count now.</param>
/// <param name="Members">Members.</param>
/// <param name="StartedAt">When this process started.</param>
/// <param name="LettersGivenUp">Letters that could not be sent.</param>
/// <param name="Faults">What is stored and cannot be read.</param>
/// <param name="OriginFault">Why the guarded site cannot be reached from the machine that was asked; null where it can.</param>
public sealed record StatusView(
    string Version, string SiteName, string SiteUrl, string Origin, string Database, long Revision, int Items, int Gates, int GatesInForce, int Members,
    DateTimeOffset StartedAt, int LettersGivenUp, IReadOnlyList<FaultView> Faults, OriginFaultView? OriginFault = null);

/// <summary>Why the guarded site cannot be reached.</summary>
/// <param name="Reason">What is wrong and what to do, in the reader's language.</param>
/// <param name="Since">Since when.</param>
public sealed record OriginFaultView(string Reason, DateTimeOffset Since);

/// <summary>Something stored that cannot be read; what it covered is closed until it is mended.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Key">Its name.</param>
/// <param name="Reason">What is wrong.</param>
/// <param name="Closed">What is closed for it.</param>
/// <param name="Mend">What to do.</param>
public sealed record FaultView(string Kind, string Key, string Reason, IReadOnlyList<string> Closed, string Mend);

/// <summary>Something unreadable that is to be dropped.</summary>
public sealed record MendDraft(string? Kind, string? Key);

/// <summary>One field that a change made other.</summary>
public sealed record FieldChange(string Field, string? Before, string? After);

/// <summary>An entry of the change history, field by field where that is on record.</summary>
public sealed record HistoryView(
    long Id, DateTimeOffset At, string By, string Action, string Subject, string? Before, string? After, IReadOnlyList<FieldChange> Changes);

/// <summary>One thing of the site that changes: in which section, its name, and whether it is <c>added</c>, <c>changed</c> or <c>removed</c>.</summary>
public sealed record SiteChange(string Section, string Key, string What, IReadOnlyList<FieldChange> Changes);
