using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>Where somebody lands whom a gate lets in.</summary>
public static class Landing
{
    /// <summary>The first address on the site that the gate covers and the visitor may open; null where it covers none.</summary>
    public static string? Of(Policy policy, Gate gate, Visitor visitor, DateTimeOffset now)
    {
        foreach (var selector in gate.Covers)
        {
            if (selector.Path is { } path)
            {
                var folder = path.IsPattern ? path.PathText[..path.LiteralPrefix].TrimEnd('/') : path.Text;
                if (IsOpen(policy, folder.Length == 0 ? "/" : folder, visitor, now))
                {
                    return folder.Length == 0 ? "/" : folder;
                }

                continue;
            }

            var place = policy.Graph.PlaceOf(selector.Item!.Value);
            foreach (var inside in place < 0 ? [] : place == CatalogueGraph.Root ? [place] : policy.Graph.Branch(place))
            {
                if (policy.Graph.Items[inside].Addresses.FirstOrDefault(a => !a.IsPattern) is { } address && IsOpen(policy, address.Text, visitor, now))
                {
                    return address.Text;
                }
            }

            if (place == CatalogueGraph.Root)
            {
                return "/";
            }
        }

        return null;
    }

    /// <summary>Whether somebody may open the page at an address of this site; false of any other address.</summary>
    public static bool IsOpen(Policy policy, string address, Visitor visitor, DateTimeOffset now) => ReturnTo.IsOnThisSite(address)
        && RequestPath.TryNormalise(address.Split('#', 2)[0], policy.Settings.Paths, out var path, out _) && policy.Judge(visitor, path, now).Allowed;
}
