namespace WarySentinel.Core.Catalogue;

/// <summary>The items of a policy while changes are made to them; gathered only when one changes: there may be many.</summary>
public sealed class ItemsDraft(IReadOnlyList<Item> before)
{
    private Dictionary<ItemId, Item>? items;

    /// <summary>Whether any has changed.</summary>
    public bool IsChanged => items is not null;

    /// <summary>The items as they are now.</summary>
    public IEnumerable<Item> All => items?.Values ?? (IEnumerable<Item>)before;

    internal Dictionary<ItemId, Item> ById => items ??= before.ToDictionary(i => i.Id);
}

/// <summary>Stores items; those that exist are replaced.</summary>
public sealed record ItemsPut(IReadOnlyList<Item> Items) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        foreach (var item in Items)
        {
            draft.Part<ItemsDraft>().ById[item.Id] = item;
        }
    }
}

/// <summary>Drops items.</summary>
public sealed record ItemsDropped(IReadOnlyList<ItemId> Ids) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        foreach (var id in Ids)
        {
            draft.Part<ItemsDraft>().ById.Remove(id);
        }
    }
}
