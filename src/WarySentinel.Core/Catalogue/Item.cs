using System.Diagnostics.CodeAnalysis;

namespace WarySentinel.Core.Catalogue;

/// <summary>The kinds of things that can be guarded.</summary>
public enum ItemKind
{
    /// <summary>The whole site: the one root.</summary>
    Site,
    /// <summary>A part of the site.</summary>
    Section,
    /// <summary>One page.</summary>
    Page,
    /// <summary>A product category.</summary>
    Category,
    /// <summary>A product tag.</summary>
    Tag,
    /// <summary>A product.</summary>
    Product,
    /// <summary>A file to download.</summary>
    Download,
    /// <summary>An audio show.</summary>
    Show,
    /// <summary>One episode of a show.</summary>
    Episode,
}

/// <summary>The name of an item, written <c>kind:key</c>; the root is written <c>site</c>.</summary>
public readonly record struct ItemId(ItemKind Kind, string Key) : IComparable<ItemId>
{
    /// <summary>The one root.</summary>
    public static readonly ItemId Site = new(ItemKind.Site, "");

    private static readonly string[] Names = [.. Enum.GetNames<ItemKind>().Select(n => n.ToLowerInvariant())];

    /// <summary>Reads <c>kind:key</c> or <c>site</c>; false when it is neither.</summary>
    public static bool TryParse([NotNullWhen(true)] string? text, out ItemId id)
    {
        id = default;
        if (text is null)
        {
            return false;
        }

        if (text == "site")
        {
            id = Site;
            return true;
        }

        var colon = text.IndexOf(':', StringComparison.Ordinal);
        if (colon <= 0 || !TryKind(text.AsSpan(0, colon), out var kind) || kind == ItemKind.Site || !CatalogueKey.IsValid(text.AsSpan(colon + 1)))
        {
            return false;
        }

        id = new ItemId(kind, text[(colon + 1)..]);
        return true;
    }

    /// <summary>Reads the name of a kind in lower case.</summary>
    public static bool TryKind(ReadOnlySpan<char> text, out ItemKind kind)
    {
        for (var at = 0; at < Names.Length; at++)
        {
            if (text.SequenceEqual(Names[at]))
            {
                kind = (ItemKind)at;
                return true;
            }
        }

        kind = default;
        return false;
    }

    /// <summary>The name of a kind as it is written.</summary>
    public static string NameOf(ItemKind kind) => Names[(int)kind];

    /// <inheritdoc/>
    public bool Equals(ItemId other) => Kind == other.Kind && string.Equals(Key, other.Key, StringComparison.Ordinal);

    /// <inheritdoc/>
    public override int GetHashCode() => (Key is null ? 0 : string.GetHashCode(Key, StringComparison.Ordinal)) ^ (int)Kind;

    /// <inheritdoc/>
    public override string ToString() => Kind == ItemKind.Site ? "site" : $"{NameOf(Kind)}:{Key}";

    /// <inheritdoc/>
    public int CompareTo(ItemId other) =>
        Kind != other.Kind ? Kind.CompareTo(other.Kind) : string.CompareOrdinal(Key, other.Key);

    /// <summary>Order by kind, then key.</summary>
    public static bool operator <(ItemId left, ItemId right) => left.CompareTo(right) < 0;

    /// <summary>Order by kind, then key.</summary>
    public static bool operator >(ItemId left, ItemId right) => left.CompareTo(right) > 0;

    /// <summary>Order by kind, then key.</summary>
    public static bool operator <=(ItemId left, ItemId right) => left.CompareTo(right) <= 0;

    /// <summary>Order by kind, then key.</summary>
    public static bool operator >=(ItemId left, ItemId right) => left.CompareTo(right) >= 0;
}

/// <summary>The form of keys: 1 to 128 of <c>a-z 0-9 . _ -</c>, beginning with a letter or digit.</summary>
public static class CatalogueKey
{
    /// <summary>Whether the text is a key.</summary>
    public static bool IsValid(ReadOnlySpan<char> key)
    {
        if (key.Length is 0 or > 128 || !char.IsAsciiLetterOrDigit(key[0]))
        {
            return false;
        }

        foreach (var c in key)
        {
            if (!(char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c is '.' or '_' or '-'))
            {
                return false;
            }
        }

        return true;
    }
}

/// <summary>Something that can be guarded.</summary>
/// <param name="Id">Its name.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Parents">The items it stands beneath; none means the site.</param>
/// <param name="Addresses">Its addresses on the guarded site.</param>
/// <param name="Version">Counts its changes, from 1.</param>
public sealed record Item(ItemId Id, string Title, IReadOnlyList<ItemId> Parents, IReadOnlyList<Address> Addresses, int Version = 1)
{
    /// <summary>The root as it is before the owner names it.</summary>
    public static Item Root(string title) => new(ItemId.Site, title, [], []);

    /// <summary>Whether both say the same, versions apart.</summary>
    public bool SaysTheSameAs(Item other) =>
        Id == other.Id && Title == other.Title && Parents.SequenceEqual(other.Parents) && Addresses.SequenceEqual(other.Addresses);
}
