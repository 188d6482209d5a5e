namespace WarySentinel.Core.Markup;

/// <summary>An entry of a page, as the owner taught it: an element that stands for the item that its link leads to.</summary>
/// <param name="Entry">Which elements are entries.</param>
/// <param name="Link">Which element in an entry says what it is about, by its <c>href</c> or another address in it; null for its first link.</param>
/// <param name="Price">What in an entry goes where its price is guarded; null for nothing.</param>
public sealed record TaughtEntry(CssSelector Entry, CssSelector? Link, CssSelector? Price);

/// <summary>What the owner taught of the pages at an address.</summary>
/// <param name="Entries">Entries of other elements than lists.</param>
/// <param name="Data">Data in scripts.</param>
public sealed record Taught(IReadOnlyList<TaughtEntry> Entries, IReadOnlyList<JsonEntries> Data)
{
    /// <summary>Nothing.</summary>
    public static readonly Taught Nothing = new([], []);
}

/// <summary>A taught entry while it is open.</summary>
internal sealed class TaughtState(TaughtEntry rule, int number)
{
    public TaughtEntry Rule => rule;

    /// <summary>The number of its rule.</summary>
    public int Number => number;

    /// <summary>Whether its link has come.</summary>
    public bool IsKnown;

    /// <summary>Whether it goes: it is about something hidden.</summary>
    public bool Goes;

    /// <summary>Whether its prices go.</summary>
    public bool HidesPrice;

    /// <summary>Prices that came before the link.</summary>
    public readonly List<(long From, long To)> Prices = [];
}
