using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>Something that opens to somebody when an item goes.</summary>
/// <param name="What">An address, or the name of an item.</param>
/// <param name="ForWhom">The viewpoints to which it opens.</param>
/// <param name="Before">How it met them.</param>
/// <param name="After">How it would.</param>
public sealed record Opening(string What, IReadOnlyList<string> ForWhom, Sight Before, Sight After)
{
    private const int Most = 100;

    /// <summary>
    /// What opens by removing an item: its addresses belong to no item then, so that no gate on it or on what it stands beneath reaches them; and items
    /// that stood beneath it by their address lose what it brought them.
    /// </summary>
    public static IReadOnlyList<Opening> By(Policy before, Policy after, Item gone, DateTimeOffset now)
    {
        var found = new List<Opening>();
        var viewpoints = Viewpoint.All(before);
        foreach (var address in gone.Addresses)
        {
            if (RequestPath.TryNormalise(address.Text.Replace('*', '-'), before.Settings.Paths, out var path, out _))
            {
                Add(found, address.Text, viewpoints, v => SightOf(before, v, path, now), v => SightOf(after, v, path, now));
            }
        }

        var place = before.Graph.PlaceOf(gone.Id);
        foreach (var beneath in before.Graph.Branch(place).Where(p => p != place))
        {
            var id = before.Graph.Items[beneath].Id;
            if (found.Count < Most && after.Graph.PlaceOf(id) is >= 0 and var then)
            {
                Add(found, id.ToString(), viewpoints, v => before.SightOf(v, beneath, now), v => after.SightOf(v, then, now));
            }
        }

        return found;
    }

    private static void Add(List<Opening> found, string what, IReadOnlyList<Viewpoint> viewpoints, Func<Visitor, Sight> before, Func<Visitor, Sight> after)
    {
        foreach (var group in viewpoints.Select(v => (v.Title, Before: before(v.Visitor), After: after(v.Visitor))).Where(v => v.After < v.Before)
            .GroupBy(v => (v.Before, v.After)))
        {
            found.Add(new Opening(what, [.. group.Select(g => g.Title)], group.Key.Before, group.Key.After));
        }
    }

    private static Sight SightOf(Policy policy, Visitor visitor, RequestPath path, DateTimeOffset now) =>
        !policy.Allows(visitor, path, Acts.List, now) ? Sight.Hidden : policy.Allows(visitor, path, Acts.Open, now) ? Sight.Open : Sight.Listed;
}
