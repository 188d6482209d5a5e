using WarySentinel.Core.Catalogue;

namespace WarySentinel.Storage.Catalogue;

internal sealed class ItemRow
{
    public required string Id { get; set; }

    public required string Title { get; set; }

    public string[] Parents { get; set; } = [];

    public string[] Addresses { get; set; } = [];

    public int Version { get; set; }

    public static ItemRow Of(Item item) => new()
    {
        Id = item.Id.ToString(),
        Title = item.Title,
        Parents = [.. item.Parents.Select(p => p.ToString())],
        Addresses = [.. item.Addresses.Select(a => a.Text)],
        Version = item.Version,
    };

    public Item ToItem() => new(Parse(Id), Title, Array.ConvertAll(Parents, Parse), Array.ConvertAll(Addresses, Address.Parse), Version);

    private static ItemId Parse(string text) =>
        ItemId.TryParse(text, out var id) ? id : throw new InvalidDataException($"The store holds “{text}” where an item's name belongs.");
}
