using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>A closed address, and somebody whom the policy lets in there.</summary>
/// <param name="Address">The address, as it is asked for.</param>
/// <param name="Insider">The viewpoint; null where none that can be looked through gets in.</param>
public sealed record ClosedAddress(string Address, string? Insider)
{
    /// <summary>An address for each thing that is closed to guests.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="now">The time.</param>
    /// <param name="most">At most so many.</param>
    /// <param name="first">The gate whose addresses come first; null for none.</param>
    public static IReadOnlyList<ClosedAddress> Of(Policy policy, DateTimeOffset now, int most, string? first = null)
    {
        var viewpoints = Viewpoint.All(policy).Where(v => v.Key != "guest").ToList();
        return
        [
            .. policy.Gates.Where(g => !g.IsExemption && g.IsInForce(now)).OrderByDescending(g => g.Key == first)
                .SelectMany(g => g.Covers).SelectMany(c => AddressesOf(policy, c)).Distinct(StringComparer.Ordinal)
                .Select(a => Tried(policy, a, viewpoints, now)).OfType<ClosedAddress>().Take(most),
        ];
    }

    /// <summary>The trial of an address; null where a guest may open it, so that there is nothing to turn away from.</summary>
    private static ClosedAddress? Tried(Policy policy, string address, List<Viewpoint> viewpoints, DateTimeOffset now) =>
        !RequestPath.TryNormalise(address, policy.Settings.Paths, out var path, out _) || policy.Allows(Visitor.Guest, path, Acts.Open, now) ? null
            : new ClosedAddress(path.SentWithQuery, viewpoints.FirstOrDefault(v => policy.Allows(v.Visitor, path, Acts.Open, now))?.Key);

    private static IEnumerable<string> AddressesOf(Policy policy, Selector covered) =>
        (covered.Path is { } path ? [path] : policy.Graph.Find(covered.Item!.Value)?.Addresses ?? []).Take(1).Select(PlainOf);

    /// <summary>An address that a pattern stands for: the folder itself.</summary>
    private static string PlainOf(Address address) =>
        !address.IsPattern ? address.Text : address.Text[..address.Text.IndexOf('*', StringComparison.Ordinal)].TrimEnd('/') is { Length: > 0 } folder
            ? folder : "/";
}
