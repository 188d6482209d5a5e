namespace WarySentinel.Contract.Catalogue;

/// <summary>An item's name and title.</summary>
public sealed record ItemName(string Id, string Title);

/// <summary>An item.</summary>
public sealed record ItemView(
    string Id, string Kind, string Title, IReadOnlyList<string> Parents, IReadOnlyList<string> Addresses, int Children, int Version);

/// <summary>An item to be added or changed.</summary>
/// <param name="Id">Kind and key, such as <c>product:moss-filter</c>.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Parents">The items that it stands beneath; none for the site.</param>
/// <param name="Addresses">Paths or path patterns on the guarded site.</param>
public sealed record ItemDraft(string? Id, string? Title, IReadOnlyList<string>? Parents, IReadOnlyList<string>? Addresses);

/// <summary>Something that opens to somebody when an item goes.</summary>
/// <param name="What">An address, or an item.</param>
/// <param name="ForWhom">To whom.</param>
/// <param name="Before"><c>listed</c> or <c>hidden</c>.</param>
/// <param name="After"><c>open</c> or <c>listed</c>.</param>
public sealed record OpeningView(string What, IReadOnlyList<string> ForWhom, string Before, string After);

/// <summary>What removing an item would do.</summary>
public sealed record RemovalView(ItemView Item, IReadOnlyList<OpeningView> Opens);

/// <summary>What an import did, or would do.</summary>
/// <param name="Added">Items added.</param>
/// <param name="Changed">Items changed.</param>
/// <param name="Same">Items that are as the file says.</param>
/// <param name="Faults">What is wrong, a bounded number of them.</param>
/// <param name="FaultyRows">Rows with a fault.</param>
/// <param name="Stored">Whether anything was stored.</param>
public sealed record ImportResult(int Added, int Changed, int Same, IReadOnlyList<Fault> Faults, int FaultyRows, bool Stored);

/// <summary>A line of an import's answer: how far it is, and at last what came of it.</summary>
/// <param name="Stage"><c>reading</c>, <c>checking</c>, <c>storing</c>, <c>done</c> or <c>failed</c>.</param>
/// <param name="Done">Rows or items done.</param>
/// <param name="Total">Out of how many; 0 while not known.</param>
/// <param name="Result">What came of it, on the last line.</param>
/// <param name="Detail">Why it failed, on a failed line.</param>
public sealed record ImportLine(string Stage, int Done, int Total, ImportResult? Result = null, string? Detail = null);
