using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Access;

/// <summary>The keys that expressions may name: those of a policy, and the members that a delegate knows.</summary>
public sealed class KnownKeys(Policy policy, Func<string, bool> isMember) : IKnownKeys
{
    private const int MostOffered = 5000;

    /// <inheritdoc/>
    public bool Knows(FactKind kind, string key) => kind switch
    {
        FactKind.Bought => ItemId.TryParse(key, out var id) && policy.Graph.PlaceOf(id) >= 0,
        FactKind.Member => isMember(key),
        FactKind.Role when Visitor.StaffRoles.Contains(key) => true,
        _ => policy.FindDefinition(kind, key) is not null,
    };

    /// <inheritdoc/>
    public IEnumerable<string> KeysOf(FactKind kind) => kind switch
    {
        FactKind.Bought => policy.Graph.Items.Take(MostOffered).Select(i => i.Id.ToString()),
        FactKind.Role => policy.Definitions.Where(s => s.Kind == kind).Select(s => s.Key).Take(MostOffered).Concat(Visitor.StaffRoles),
        _ => policy.Definitions.Where(s => s.Kind == kind).Select(s => s.Key).Take(MostOffered),
    };
}
