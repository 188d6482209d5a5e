using System.Data.Common;
using System.Text.Json;
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

    public string? Home { get; set; }

    /// <summary>The links of the account menu, as JSON; null where there are none.</summary>
    public string? Links { get; set; }

    /// <summary>Of a plan: how long it lasts (ISO 8601); null for as long as nobody ends it.</summary>
    public string? Length { get; set; }

    /// <summary>Of a plan: how long it goes on after its end where it is paid for (ISO 8601); null for not at all.</summary>
    public string? Grace { get; set; }

    /// <summary>Of a plan: how long before its end whoever has it is reminded (ISO 8601); null for not at all.</summary>
    public string? Remind { get; set; }

    /// <summary>Of a plan: when what is paid for begins.</summary>
    public int Starts { get; set; }

    /// <summary>Asks for what <see cref="Read"/> takes.</summary>
    public const string Columns = """SELECT "Kind", "Key", "Title", "Version", "Home", "Links", "Length", "Grace", "Remind", "Starts" FROM standings""";

    public static FactDefinitionRow Of(FactDefinition standing) => new()
    {
        Kind = (int)standing.Kind, Key = standing.Key, Title = standing.Title, Version = standing.Version, Home = standing.Home,
        Links = standing.Links.Count == 0 ? null : JsonSerializer.Serialize(standing.Links), Length = standing.Length?.ToString(),
        Grace = standing.Grace?.ToString(), Remind = standing.Remind?.ToString(), Starts = (int)standing.Starts,
    };

    /// <summary>A row straight from its columns.</summary>
    public static FactDefinitionRow Read(DbDataReader r) => new()
    {
        Kind = r.GetInt32(0), Key = r.GetString(1), Title = r.GetString(2), Version = r.GetInt32(3), Home = r.IsDBNull(4) ? null : r.GetString(4),
        Links = r.IsDBNull(5) ? null : r.GetString(5), Length = r.IsDBNull(6) ? null : r.GetString(6),
        Grace = r.IsDBNull(7) ? null : r.GetString(7), Remind = r.IsDBNull(8) ? null : r.GetString(8), Starts = r.GetInt32(9),
    };

    /// <summary>The role, group, plan or kind of pass, or what of it cannot be read.</summary>
    public (FactDefinition? FactDefinition, StoredFault? Fault) ToDefinition()
    {
        if ((FactKind)Kind is not (FactKind.Role or FactKind.Group or FactKind.Plan or FactKind.Pass))
        {
            return (null, StoredFault.Harmless("standing", $"{Kind}:{Key}", Wording.Of("stored.value", Kind)));
        }

        var isLength = PlanLength.TryParse(Length, out var length);
        var made = new FactDefinition((FactKind)Kind, Key, Title, Version)
        {
            Home = Home, Length = length,
            Grace = PlanLength.TryParse(Grace, out var grace) ? grace : null,
            Remind = PlanLength.TryParse(Remind, out var remind) ? remind : null,
            // What no version knows begins when somebody says so: it opens nothing by itself.
            Starts = Enum.IsDefined((PlanStart)Starts) ? (PlanStart)Starts : PlanStart.ByHand,
        };
        if (Length is not null && !isLength)
        {
            // Who holds it is let in until their end; whoever is given it now is given no more than a day, until somebody says the length anew.
            return (made with { Length = new PlanLength(0, 1) }, StoredFault.Harmless("plan", Key, Wording.Of("stored.value", Length)));
        }

        try
        {
            return (Links is null ? made : made with { Links = JsonSerializer.Deserialize<List<MenuLink>>(Links) ?? [] }, null);
        }
        catch (JsonException)
        {
            // Who holds it is let in all the same; what it adds to a menu is not known.
            return (made, StoredFault.Harmless("menu", Key, Wording.Of("stored.value", Links)));
        }
    }

    public static void Map(EntityTypeBuilder<FactDefinitionRow> e)
    {
        e.ToTable("standings");
        e.HasKey(r => new { r.Kind, r.Key });
    }
}
