using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Files;

namespace WarySentinel.Storage.Files;

/// <summary>An area.</summary>
internal sealed class AreaRow
{
    private const int MostShown = 200;

    public required string Key { get; set; }

    /// <summary>The area as people write it.</summary>
    public required string Body { get; set; }

    public Guid Run { get; set; }

    public DateTimeOffset Since { get; set; }

    public int First { get; set; }

    public int Version { get; set; }

    public static AreaRow Of(Area area) => new()
    {
        Key = area.Key, Body = JsonSerializer.Serialize(AreaDraft.Of(area), JsonSerializerOptions.Web), Run = area.Run, Since = area.Since, First = area.First,
        Version = area.Version,
    };

    /// <summary>The area, or what of it cannot be read: such an area has no address.</summary>
    public (Area? Area, StoredFault? Fault) ToArea() => Read() is { } draft && (draft with { Key = Key }).Read(null, Since) is { IsGood: true, Value: var area }
        && First >= 0
        ? (area with { Run = Run, Since = Since, First = First, Version = Version }, null)
        : (null, StoredFault.Harmless("area", Key, Wording.Of("stored.value", Body.Length > MostShown ? Body[..MostShown] : Body)));

    private AreaDraft? Read()
    {
        try
        {
            return JsonSerializer.Deserialize<AreaDraft>(Body, JsonSerializerOptions.Web);
        }
        catch (JsonException)
        {
            return null;
        }
    }

    public static void Map(EntityTypeBuilder<AreaRow> e)
    {
        e.ToTable("areas");
        e.HasKey(r => r.Key);
    }
}

/// <summary>How areas are stored.</summary>
internal static class AreaChanges
{
    public static void Register(Writers writers)
    {
        writers.On<AreaPut>((w, put) => w.PutAsync(AreaRow.Of(put.Area), put.Area.Key));
        writers.On<AreaFileChanged>((_, _) => Task.CompletedTask);
        writers.On<AreaDropped>((w, dropped) => w.Db.Areas.Where(r => r.Key == dropped.Key).ExecuteDeleteAsync(w.Stop));
    }
}
