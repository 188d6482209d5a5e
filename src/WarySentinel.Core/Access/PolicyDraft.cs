using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Redirects;

namespace WarySentinel.Core.Access;

/// <summary>A policy while changes are made to it. Items are gathered only when one of them changes: there may be many.</summary>
internal sealed class PolicyDraft(Policy before)
{
    private Dictionary<ItemId, Item>? items;

    public Dictionary<string, Gate> Gates { get; } = before.Gates.ToDictionary(g => g.Key, StringComparer.Ordinal);

    public Dictionary<(FactKind Kind, string Key), Standing> Standings { get; } = before.Standings.ToDictionary(s => (s.Kind, s.Key));

    public Dictionary<string, Redirect> Redirects { get; } = before.Extras.Redirects.ToDictionary(r => r.Key, StringComparer.Ordinal);

    public List<PasswordAsk> Asks { get; } = [.. before.Extras.Asks];

    public Dictionary<ItemId, Item> Items => items ??= before.Graph.Items.ToDictionary(i => i.Id);

    public SiteSettings Settings { get; set; } = before.Settings;

    /// <summary>The policy as it stands after the changes, or why it would not fit together.</summary>
    public Outcome<Policy> Build()
    {
        var extras = new PolicyExtras(PolicyExtras.Ordered(Redirects.Values), Asks);
        return items is null && Settings.Paths == before.Settings.Paths
            ? before.With(Gates.Values, Standings.Values, Settings, extras)
            : Policy.Build(items?.Values ?? (IEnumerable<Item>)before.Graph.Items, Gates.Values, Standings.Values, Settings, extras);
    }
}
