using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Tests;

/// <summary>Builders that every test arranges with.</summary>
internal static class Scene
{
    public static readonly DateTimeOffset Now = new(2026, 5, 3, 12, 0, 0, TimeSpan.Zero);

    public static readonly string[] Reserved = ["/account", "/sentinel"];

    public static Item Item(string id, string[]? parents = null, string[]? addresses = null) => new(
        Id(id), "Title of " + id, [.. (parents ?? []).Select(Id)], [.. (addresses ?? []).Select(Address.Parse)]);

    public static ItemId Id(string text) => ItemId.TryParse(text, out var id) ? id : throw new FormatException(text);

    public static Gate Gate(string key, string covers, string audience = "role:dealer", bool hidden = false, bool itemOnly = false) => new()
    {
        Key = key,
        Title = "Gate " + key,
        Covers = [.. covers.Split(',').Select(Selector.Parse)],
        Audience = AudienceParser.Parse(audience).Value,
        Presence = hidden ? Presence.Hidden : Presence.Listed,
        ItemOnly = itemOnly,
    };

    public static Gate Exemption(string key, string covers, bool itemOnly = false) => Gate(key, covers, "anyone", false, itemOnly) with { IsExemption = true };

    public static Policy Policy(IEnumerable<Item> items, params Gate[] gates) =>
        Core.Access.Policy.Build(items, gates,
            [new(FactKind.Role, "dealer", "Dealers"), new(FactKind.Role, "guide", "Guides"), new(FactKind.Group, "schools", "Schools")],
            new SiteSettings()).Value;

    /// <summary>The policy after an edit that fits.</summary>
    public static Policy After(this Policy policy, Edit edit) => policy.TryAfter(edit).Value;

    public static Visitor Role(string role) => new()
    { IsSignedIn = true, Email = role + "@shop.example", Name = role, Grants = [new Grant(FactKind.Role, role)] };

    public static RequestPath Path(string target) =>
        RequestPath.TryNormalise(target, new PathRules(), out var path, out var fault) ? path : throw new FormatException(fault.ToString());

    public static bool Opens(this Policy policy, Visitor visitor, string item, Acts act = Acts.Open, DateTimeOffset? at = null) =>
        policy.Allows(visitor, Id(item), act, at ?? Now);

    public static bool OpensPath(this Policy policy, Visitor visitor, string path) => policy.Judge(visitor, Path(path), Now).Allowed;

    /// <summary>A shop: filters and dealer stock, a product in each, one in both.</summary>
    public static Item[] Shop() =>
    [
        Item("section:shop", null, ["/shop"]),
        Item("category:filters", ["section:shop"], ["/shop/filters"]),
        Item("category:dealer", ["section:shop"], ["/shop/dealer"]),
        Item("category:spares", ["category:dealer"], ["/shop/spares"]),
        Item("product:moss", ["category:filters"], ["/product/moss"]),
        Item("product:gear", ["category:spares"], ["/product/gear"]),
        Item("product:barlow", ["category:filters", "category:spares"], ["/product/barlow"]),
        Item("section:members", null, ["/members", "/members/**"]),
        Item("page:calendar", null, ["/members/calendar"]),
    ];
}
