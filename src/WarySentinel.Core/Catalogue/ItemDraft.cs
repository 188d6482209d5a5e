namespace WarySentinel.Core.Catalogue;

/// <summary>An item as people write it; nothing in it is checked yet.</summary>
/// <param name="Id"><c>kind:key</c>.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Parents">Items it stands beneath.</param>
/// <param name="Addresses">Its addresses.</param>
/// <param name="Line">The line of the file it stands on, from 1.</param>
public sealed record ItemDraft(string? Id, string? Title, IReadOnlyList<string>? Parents, IReadOnlyList<string>? Addresses, int? Line = null)
{
    /// <summary>The draft that says what an item says.</summary>
    public static ItemDraft Of(Item item) =>
        new(item.Id.ToString(), item.Title, [.. item.Parents.Select(p => p.ToString())], [.. item.Addresses.Select(a => a.Text)]);

    /// <summary>Reads the draft; faults go to the list, and then there is no item.</summary>
    public Item? Read(IReadOnlyList<string> reserved, ICollection<Fault> faults)
    {
        var before = faults.Count;
        if (!ItemId.TryParse(Id, out var id))
        {
            Bad(faults, "id", Wording.Of("item.id-form", Id), 1);
        }

        var title = Title?.Trim() ?? "";
        if (title.Length is 0 or > 300 || !PlainText.IsClean(title))
        {
            Bad(faults, "title", Wording.Of("item.title", 300), 2);
        }

        var (parents, addresses) = (ReadParents(id, faults), ReadAddresses(reserved, faults));
        if (id == ItemId.Site && parents.Count > 0)
        {
            Bad(faults, "parents", Wording.Of("item.site-parent"), 3);
        }

        return faults.Count > before ? null : new Item(id, title, parents, addresses);
    }

    private List<ItemId> ReadParents(ItemId id, ICollection<Fault> faults)
    {
        var (parents, seen) = (new List<ItemId>(), new HashSet<ItemId>());
        foreach (var text in Parents ?? [])
        {
            if (!ItemId.TryParse(text, out var parent))
            {
                Bad(faults, "parents", Wording.Of("item.parent-form", text), 3);
            }
            else if (parent == id)
            {
                Bad(faults, "parents", Wording.Of("item.own-parent", text), 3);
            }
            else if (seen.Add(parent))
            {
                parents.Add(parent);
            }
        }

        return parents;
    }

    private List<Address> ReadAddresses(IReadOnlyList<string> reserved, ICollection<Fault> faults)
    {
        var (addresses, seen) = (new List<Address>(), new HashSet<Address>());
        foreach (var text in Addresses ?? [])
        {
            if (!Address.TryParse(text, out var address, out var reason))
            {
                Bad(faults, "addresses", reason, 4);
            }
            else if (reserved.Any(r => RequestPath.IsUnder(address.PathText, r)))
            {
                Bad(faults, "addresses", Wording.Of("item.reserved-address", text), 4);
            }
            else if (seen.Add(address))
            {
                addresses.Add(address);
            }
        }

        return addresses;
    }

    private void Bad(ICollection<Fault> faults, string field, Wording message, int column) =>
        faults.Add(new Fault(field, message, Line, Line is null ? null : column));
}
