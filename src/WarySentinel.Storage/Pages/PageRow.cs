using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;

namespace WarySentinel.Storage.Pages;

internal sealed class PageRow
{
    public required string Key { get; set; }

    /// <summary>What is set of the page, as JSON.</summary>
    public required string Body { get; set; }

    public int Version { get; set; }

    public static PageRow Of(PageSetting setting) => new() { Key = setting.Key, Body = JsonSerializer.Serialize(setting), Version = setting.Version };

    /// <summary>What is set; where it cannot be read the page is as usual, and the fault is told.</summary>
    public (PageSetting? Setting, StoredFault? Fault) ToSetting()
    {
        try
        {
            if (JsonSerializer.Deserialize<PageSetting>(Body) is { } setting)
            {
                return (setting with { Key = Key, Version = Version }, null);
            }
        }
        catch (JsonException)
        {
            // Told below.
        }

        return (null, StoredFault.Harmless("page", Key, Wording.Of("stored.value", Body.Length > 200 ? Body[..200] : Body)));
    }

    public static void Map(EntityTypeBuilder<PageRow> e)
    {
        e.ToTable("pages");
        e.HasKey(r => r.Key);
    }
}
