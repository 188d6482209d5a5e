using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;

namespace WarySentinel.Storage.Pages;

internal sealed class TextsRow
{
    public required string Language { get; set; }

    /// <summary>The texts by key, as JSON.</summary>
    public required string Body { get; set; }

    public int Version { get; set; }

    public static TextsRow Of(SiteTexts texts) => new() { Language = texts.Language, Body = JsonSerializer.Serialize(texts.Words), Version = texts.Version };

    /// <summary>The texts; where they cannot be read ours are said, and the fault is told.</summary>
    public (SiteTexts? Texts, StoredFault? Fault) ToTexts()
    {
        try
        {
            if (JsonSerializer.Deserialize<Dictionary<string, string>>(Body) is { } words && words.Values.All(v => v is not null))
            {
                return (new SiteTexts(Language, words, Version), null);
            }
        }
        catch (JsonException)
        {
            // Told below.
        }

        return (null, StoredFault.Harmless("texts", Language, Wording.Of("stored.value", Body.Length > 200 ? Body[..200] : Body)));
    }

    public static void Map(EntityTypeBuilder<TextsRow> e)
    {
        e.ToTable("texts");
        e.HasKey(r => r.Language);
    }
}
