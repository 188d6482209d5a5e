namespace WarySentinel.Core.Markup;

/// <summary>What becomes of a link or a marked element.</summary>
public enum Fate
{
    /// <summary>Stays as it is.</summary>
    Keep,
    /// <summary>Goes, with the list entry that holds it.</summary>
    Drop,
    /// <summary>Stays, and is marked as closed.</summary>
    Mark,
}

/// <summary>A price as a page says it.</summary>
/// <param name="Text">As people read it, such as <c>12,90 €</c>.</param>
/// <param name="Amount">As programs read it, such as <c>12.90</c>.</param>
public sealed record PriceSaid(string Text, string Amount)
{
    /// <summary>Nothing at all.</summary>
    public static readonly PriceSaid Nothing = new("", "");
}

/// <summary>Decides what becomes of what a page holds, for one visitor.</summary>
public interface IMarkupDecider
{
    /// <summary>The fate of a link, as it stands in the page.</summary>
    Fate OfLink(string href);

    /// <summary>The fate of an entry that is about this: the name of an item, or an address. A name that the catalogue does not have stays.</summary>
    Fate OfNamed(string about) => OfLink(about);

    /// <summary>Whether the visitor may know the price of this: the name of an item, or an address.</summary>
    bool ShowsPrice(string about) => true;

    /// <summary>Told of data that the owner spoke of and that cannot be read: it is left out.</summary>
    void Unreadable() => TooLarge();

    /// <summary>Whether the visitor may list the item of that name; false for a name that is none.</summary>
    bool MayList(string item);

    /// <summary>
    /// Whether the visitor may do an act on the item of that name, or may not where the act is written <c>not price</c>; false for what
    /// cannot be read.
    /// </summary>
    bool May(string item, string act);

    /// <summary>
    /// What stands in place of a price in the page: that of the visitor's list; nothing where they may not know it, or the item's name is none. Null where the
    /// page's own stays.
    /// </summary>
    /// <param name="item">The name of the item.</param>
    /// <param name="quantity">From how many on, as it is written; null for one.</param>
    /// <param name="currency">In which currency, as it is written; null for the usual one.</param>
    PriceSaid? PriceOf(string item, string? quantity, string? currency) => null;

    /// <summary>The form of that name, in the page's encoding; empty where there is none.</summary>
    ReadOnlySpan<byte> Form(string name, string? to);

    /// <summary>Whether the audience expression admits the visitor; false for one that cannot be read.</summary>
    bool Admits(string audience);

    /// <summary>The page says from where its links are counted.</summary>
    void SetBase(string href);

    /// <summary>What is written before the end of a link that is marked, in the page's encoding.</summary>
    ReadOnlySpan<byte> Mark { get; }

    /// <summary>Whether the words of a hidden link in running text stay, as plain words; else an ellipsis stands in their place.</summary>
    bool KeepsHiddenWords { get; }

    /// <summary>What is written behind words that stay so, in the page's encoding; empty for nothing.</summary>
    ReadOnlySpan<byte> HiddenMark { get; }

    /// <summary>Told of a tag or entry that is too large to be judged, and is left out.</summary>
    void TooLarge();

    /// <summary>What is written at the start of the page's body; empty for nothing.</summary>
    ReadOnlySpan<byte> AfterBody { get; }
}
