namespace WarySentinel.Contract.Entries;

/// <summary>A rule of entries: at these addresses, one entry is this.</summary>
/// <param name="Key">Its name.</param>
/// <param name="At">The addresses that it is for: paths or path patterns.</param>
/// <param name="Sort"><c>card</c>, an element of a page, or <c>data</c>, a value of JSON.</param>
/// <param name="Entry">A CSS selector, or a JSONPath.</param>
/// <param name="Link">Of a card: a CSS selector of what in it says what it is about; its first link where null.</param>
/// <param name="Price">What in an entry goes where the price is guarded: a CSS selector, or a JSONPath from the entry.</param>
/// <param name="About">Of data: the item or the address that an entry is about; the addresses in it where null.</param>
/// <param name="Behind">Of data: the name in a script behind which it stands, or <c>#</c> and the id of a script that is data.</param>
/// <param name="Blank">Of data: whether entries are emptied and keep their places.</param>
/// <param name="Beside">Of data that is emptied: lists in step with the entries.</param>
/// <param name="Points">Of data that is emptied: numbers that are places of entries.</param>
/// <param name="IsUnreadable">Whether what is stored of it cannot be read: what it is for is closed until somebody says it again.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record EntryView(
    string Key, IReadOnlyList<string> At, string Sort, string? Entry, string? Link, string? Price, string? About, string? Behind, bool Blank,
    IReadOnlyList<string> Beside, IReadOnlyList<string> Points, bool IsUnreadable, int Version);

/// <summary>A rule of entries to be stored.</summary>
public sealed record EntryDraft
{
    /// <summary>Its name.</summary>
    public string? Key { get; init; }

    /// <summary>The addresses that it is for: paths or path patterns.</summary>
    public IReadOnlyList<string>? At { get; init; }

    /// <summary><c>card</c> or <c>data</c>; told by the entry unless said: a JSONPath begins with <c>$</c>.</summary>
    public string? Sort { get; init; }

    /// <summary>A CSS selector, or a JSONPath (RFC 9535).</summary>
    public string? Entry { get; init; }

    /// <summary>Of a card: a CSS selector of what in it says what it is about.</summary>
    public string? Link { get; init; }

    /// <summary>What in an entry goes where the price is guarded: a CSS selector, or a JSONPath from the entry (<c>@.price</c>).</summary>
    public string? Price { get; init; }

    /// <summary>Of data: the item or address that an entry is about, such as <c>product:{sku}</c>.</summary>
    public string? About { get; init; }

    /// <summary>Of data: the name in a script behind which it stands, or <c>#</c> and the id of a script that is data.</summary>
    public string? Behind { get; init; }

    /// <summary>Of data: whether entries are emptied and keep their places.</summary>
    public bool? Blank { get; init; }

    /// <summary>Of data that is emptied: lists in step with the entries.</summary>
    public IReadOnlyList<string>? Beside { get; init; }

    /// <summary>Of data that is emptied: numbers that are places of entries.</summary>
    public IReadOnlyList<string>? Points { get; init; }
}

/// <summary>Asks what entries an address has.</summary>
/// <param name="Address">An address on the site.</param>
public sealed record EntrySearch(string? Address);

/// <summary>What looks like entries at an address.</summary>
/// <param name="Address">The address.</param>
/// <param name="Proposals">The likeliest first.</param>
public sealed record EntryProposals(string Address, IReadOnlyList<EntryProposal> Proposals);

/// <summary>A rule that could be made.</summary>
/// <param name="Draft">The rule.</param>
/// <param name="Count">How many entries it finds there.</param>
/// <param name="Items">How many of them are about items of the catalogue.</param>
/// <param name="Example">Words of the first of them.</param>
public sealed record EntryProposal(EntryDraft Draft, int Count, int Items, string Example);

/// <summary>Asks what a rule would do.</summary>
/// <param name="Draft">The rule.</param>
/// <param name="Address">An address on the site.</param>
/// <param name="As">A viewpoint or a member; a guest unless said.</param>
public sealed record EntryTrial(EntryDraft Draft, string? Address, string? As = null);

/// <summary>What a rule does at an address.</summary>
/// <param name="Who">For whom, in words.</param>
/// <param name="Goes">How many entries go.</param>
/// <param name="Stays">How many stay.</param>
/// <param name="Entries">The entries in order; two hundred at most.</param>
/// <param name="Page">Of a page: itself, with each entry marked by <c>data-wary-entry</c>; without scripts.</param>
public sealed record EntryTried(string Who, int Goes, int Stays, IReadOnlyList<EntrySeen> Entries, string? Page);

/// <summary>An entry that a rule finds.</summary>
/// <param name="Words">Its words, or its JSON, cut off.</param>
/// <param name="About">What it is about; null where that is not known.</param>
/// <param name="Item">The title of the item, where the catalogue has it.</param>
/// <param name="Fate"><c>goes</c>, <c>stays</c>, or <c>without-price</c>.</param>
public sealed record EntrySeen(string Words, string? About, string? Item, string Fate);
