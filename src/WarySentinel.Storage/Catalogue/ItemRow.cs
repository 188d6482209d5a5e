using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
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

    /// <summary>The item as far as it can be read, and what cannot: what that covered is closed.</summary>
    public (Item? Item, StoredFault? Fault) ToItem()
    {
        var (wrong, closed, addresses, parents) = (new List<Wording>(), new List<Selector>(), new List<Address>(), new List<ItemId>());
        foreach (var text in Addresses)
        {
            if (Address.TryParse(text, out var address, out _))
            {
                addresses.Add(address);
            }
            else
            {
                wrong.Add(Wording.Of("stored.address", text));
                closed.Add(Salvage.Beginning(text));
            }
        }

        if (!ItemId.TryParse(Id, out var id))
        {
            return (null, new StoredFault("item", Id, Wording.Of("item.id-form", Id), [.. closed, .. addresses.Select(a => new Selector(null, a))]));
        }

        foreach (var text in Parents)
        {
            if (ItemId.TryParse(text, out var parent))
            {
                parents.Add(parent);
            }
            else
            {
                wrong.Add(Wording.Of("item.parent-form", text));
            }
        }

        return (new Item(id, Title, parents, addresses, Version), wrong.Count == 0 ? null
            : new StoredFault("item", Id, Wording.Joined(wrong), [new Selector(id, null), .. closed]));
    }

    public static void Map(EntityTypeBuilder<ItemRow> e)
    {
        e.ToTable("items");
        e.HasKey(r => r.Id);
    }
}
