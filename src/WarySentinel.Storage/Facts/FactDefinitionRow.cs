using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Storage.Facts;

internal sealed class FactDefinitionRow
{
    public int Kind { get; set; }

    public required string Key { get; set; }

    public required string Title { get; set; }

    public int Version { get; set; }

    public static FactDefinitionRow Of(FactDefinition standing) =>
        new() { Kind = (int)standing.Kind, Key = standing.Key, Title = standing.Title, Version = standing.Version };

    /// <summary>The role, group or plan, or what of it cannot be read.</summary>
    public (FactDefinition? FactDefinition, StoredFault? Fault) ToDefinition() => (FactKind)Kind is FactKind.Role or FactKind.Group or FactKind.Plan
        ? (new((FactKind)Kind, Key, Title, Version), null)
        : (null, StoredFault.Harmless("standing", $"{Kind}:{Key}", Wording.Of("stored.value", Kind)));

    public static void Map(EntityTypeBuilder<FactDefinitionRow> e)
    {
        e.ToTable("standings");
        e.HasKey(r => new { r.Kind, r.Key });
    }
}
