using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.Pages;

/// <summary>What of ours stands at an address already.</summary>
/// <param name="Policy">The policy.</param>
/// <param name="Reserved">Path prefixes that the service serves itself.</param>
internal sealed record PageAddresses(Policy Policy, IReadOnlyList<string> Reserved)
{
    private const int LongestAddress = 200;
    private static readonly string[] OfStandards = ["/.well-known", "/access/v1"];

    /// <summary>What has an address, as the code of a problem and its name; null where it is free.</summary>
    /// <param name="address">The address.</param>
    /// <param name="moved">Whether a page of ours at an address of its own stands in the way.</param>
    /// <param name="self">The item that it is for, which is not in its own way.</param>
    public (string Code, string? By)? TakenBy(string address, Func<PageSetting, RequestPath, bool> moved, ItemId? self = null)
    {
        var rules = Policy.Settings.Paths;
        if (address.Length > LongestAddress || address.AsSpan().IndexOfAny("*?#") >= 0 || !address.StartsWith('/')
            || !RequestPath.TryNormalise(address, rules, out var path, out _) || path.Sent != address || path.Key is "/" or "" || address.EndsWith('/'))
        {
            return ("page-address-form", null);
        }

        if (Reserved.Concat(OfStandards).FirstOrDefault(p => RequestPath.IsUnder(path.Key, p)) is { } ours)
        {
            return ("page-address-ours", ours);
        }

        if (PageBook.Of(Policy).Moved.FirstOrDefault(m => moved(m, path)) is { } other)
        {
            return ("page-address-page", other.Key);
        }

        return Policy.ItemsAt(path).FirstOrDefault(i => i.Id != self && (self is null || HasLiterally(i, path, rules))) is { } item
            ? ("page-address-item", item.Id.ToString()) : null;
    }

    /// <summary>Whether a page of ours that has moved answers at a path.</summary>
    public bool Answers(PageSetting moved, RequestPath path) =>
        RequestPath.TryNormalise(moved.Address!, Policy.Settings.Paths, out var at, out _)
        && (at.Key == path.Key || (VisitorPages.Find(moved.Key)!.HasMore && RequestPath.IsUnder(path.Key, at.Key)));

    private static bool HasLiterally(Item item, RequestPath path, PathRules rules) => item.Addresses.Any(a => !a.IsPattern && a.Matches(path, rules));
}
