using WarySentinel.Contract.Catalogue;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Web;
using Rules = WarySentinel.Core.Catalogue;
using Wire = WarySentinel.Contract;

namespace WarySentinel.Service.Catalogue;

/// <summary>Items between the wire and the rules.</summary>
public static class CatalogueWire
{
    /// <summary>The name of an item.</summary>
    public static ItemName ToName(this Item item) => new(item.Id.ToString(), item.Title);

    /// <summary>An item as it is told.</summary>
    public static ItemView ToWire(this Item item, Policy policy) => new(
        item.Id.ToString(), ItemId.NameOf(item.Id.Kind), item.Title, [.. item.Parents.Select(p => p.ToString())], [.. item.Addresses.Select(a => a.Text)],
        policy.Graph.PlaceOf(item.Id) is >= 0 and var place ? policy.Graph.ChildrenOf(place).Count : 0, item.Version);

    /// <summary>What was sent, for the rules to read.</summary>
    public static Rules.ItemDraft ToCore(this Wire.Catalogue.ItemDraft draft) => new(draft.Id, draft.Title, draft.Parents, draft.Addresses);

    /// <summary>What came of an import.</summary>
    public static Wire.Catalogue.ImportResult ToWire(this Rules.ImportResult result) => new(
        result.Added, result.Changed, result.Same, result.Faults.ToReader(), result.FaultyRows, result.Stored);

    /// <summary>One thing of the site that changes.</summary>
    public static Wire.SiteChange ToWire(this SiteChange change) => new(change.Section, change.Key, change.What, change.Changes.ToWire());

    /// <summary>The fields that a change made other.</summary>
    public static IReadOnlyList<Wire.FieldChange> ToWire(this IReadOnlyList<FieldChange> changes) =>
        [.. changes.Select(c => new Wire.FieldChange(c.Field, c.Before, c.After))];
}
