using System.Text.Json;

namespace WarySentinel.StandIns.Shop;

/// <summary>What the stand-in shop sells and says, read from a file.</summary>
public sealed record ShopData(
    string Name, string Line, IReadOnlyList<MenuEntry> Menu, IReadOnlyList<ShopCategory> Categories, IReadOnlyList<ShopProduct> Products,
    IReadOnlyList<ShopFile> Downloads, IReadOnlyList<ShopEpisode> Episodes, IReadOnlyList<ShopPage> Pages)
{
    /// <summary>Reads the data.</summary>
    public static ShopData Read(string path) =>
        JsonSerializer.Deserialize<ShopData>(File.ReadAllText(path), JsonSerializerOptions.Web) ?? throw new InvalidDataException(path);
}

/// <summary>An entry of the menu.</summary>
public sealed record MenuEntry(string Words, string Address, IReadOnlyList<MenuEntry>? Under);

/// <summary>A category.</summary>
public sealed record ShopCategory(string Key, string Title, string Parent, string Words);

/// <summary>A product; the price in euros.</summary>
public sealed record ShopProduct(string Key, string Title, int Price, IReadOnlyList<string> Categories, bool IsNew, string Words);

/// <summary>A file to download.</summary>
public sealed record ShopFile(string Key, string Title, string Address);

/// <summary>An episode.</summary>
public sealed record ShopEpisode(int Number, string Title);

/// <summary>A plain page.</summary>
public sealed record ShopPage(string Address, string Title, IReadOnlyList<string> Words, IReadOnlyList<MenuEntry>? Links);
