namespace WarySentinel.Core.Catalogue;

/// <summary>Tells of an item that somebody named and that is not there.</summary>
public static class UnknownItem
{
    private const int MostLookedAt = 2000;

    /// <summary>Notes that a field names an item that is not there, and which of its kind is near.</summary>
    public static void Tell(Faults faults, string field, ItemId id, CatalogueGraph graph)
    {
        var names = graph.Items.Where(i => i.Id.Kind == id.Kind).Take(MostLookedAt).Select(i => i.Id.ToString());
        if (Nearest.To(id.ToString(), names) is { } near)
        {
            faults.Bad(field, "item-unknown-near", id, near);
        }
        else
        {
            faults.Bad(field, "item-unknown", id);
        }
    }
}
