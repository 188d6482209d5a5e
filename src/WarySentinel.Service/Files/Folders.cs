using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Files;
using WarySentinel.Service.Pages;

namespace WarySentinel.Service.Files;

/// <summary>Which areas somebody may have, for letters and pages.</summary>
public sealed class Folders(AreaShelf shelf) : IFolders
{
    /// <inheritdoc/>
    public IReadOnlyList<FolderLink> For(Policy policy, Visitor visitor, DateTimeOffset now) =>
        [.. AreaBook.Of(policy).All.Where(a => policy.Allows(visitor, a, now) && policy.Guards(a, now))
            .Select(a => new FolderLink(a.Title, StandingPath(a), null))];

    /// <inheritdoc/>
    public IReadOnlyList<FolderLink> Given(Policy policy, Visitor with, Visitor without, IReadOnlyCollection<ItemId> bought, DateTimeOffset now) =>
        [.. AreaBook.Of(policy).All
            .Where(a => policy.Allows(with, a, now) && (IsAmong(policy, a, bought) || !policy.Allows(without, a, now)))
            .Select(a => a.Opens == AreaOpens.Gate ? new FolderLink(a.Title, StandingPath(a), null) : Present(policy, a, now))];

    /// <inheritdoc/>
    public IReadOnlyList<FolderLink> Open(Policy policy, IReadOnlyCollection<ItemId> items, DateTimeOffset now) =>
        [.. AreaBook.Of(policy).All.Where(a => a.Opens == AreaOpens.Address && IsAmong(policy, a, items)).Select(a => Present(policy, a, now))];

    /// <summary>The address that leads to wherever an area is found, for whoever may have it.</summary>
    internal static string StandingPath(Area area) => "/folder/" + area.Key;

    /// <summary>An area's address as it is now.</summary>
    internal static string PathOf(string token) => $"/files/{token}/";

    private FolderLink Present(Policy policy, Area area, DateTimeOffset now) =>
        new(area.Title, PathOf(shelf.TokenOf(policy, area, now)), area.WorksUntil(new SiteDates(policy.Settings.TimeZone), now));

    private static bool IsAmong(Policy policy, Area area, IReadOnlyCollection<ItemId> items) =>
        items.Any(i => i == area.Item || (policy.Graph.PlaceOf(i) is >= 0 and var above && policy.Graph.PlaceOf(area.Item) is >= 0 and var place
            && policy.Graph.Branch(above).Contains(place)));
}
