using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Audio;

namespace WarySentinel.Storage.Audio;

/// <summary>A show.</summary>
internal sealed class ShowRow
{
    private const int MostShown = 200;

    public required string Key { get; set; }

    /// <summary>The show as people write it, moments in UTC.</summary>
    public required string Body { get; set; }

    public int Version { get; set; }

    public static ShowRow Of(Show show) =>
        new() { Key = show.Key, Body = JsonSerializer.Serialize(ShowDraft.Of(show), JsonSerializerOptions.Web), Version = show.Version };

    /// <summary>The show, or what of it cannot be read: such a show is heard nowhere.</summary>
    public (Show? Show, StoredFault? Fault) ToShow() =>
        Read() is { } draft && (draft with { Key = Key }).Read(null, "UTC", DateTimeOffset.MinValue) is { IsGood: true, Value: var show }
        ? (show with { Version = Version }, null)
        : (null, StoredFault.Harmless("show", Key, Wording.Of("stored.value", Body.Length > MostShown ? Body[..MostShown] : Body)));

    private ShowDraft? Read()
    {
        try
        {
            return JsonSerializer.Deserialize<ShowDraft>(Body, JsonSerializerOptions.Web);
        }
        catch (JsonException)
        {
            return null;
        }
    }

    public static void Map(EntityTypeBuilder<ShowRow> e)
    {
        e.ToTable("shows");
        e.HasKey(r => r.Key);
    }
}
