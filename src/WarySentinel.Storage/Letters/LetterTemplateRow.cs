using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Letters;

namespace WarySentinel.Storage.Letters;

internal sealed class LetterTemplateRow
{
    public required string Kind { get; set; }

    public required string Language { get; set; }

    public required string Subject { get; set; }

    public string? Html { get; set; }

    public string? Text { get; set; }

    public int Version { get; set; }

    public static LetterTemplateRow Of(LetterTemplate template) => new()
    {
        Kind = template.Kind, Language = template.Language, Subject = template.Subject, Html = template.Html, Text = template.Text, Version = template.Version,
    };

    /// <summary>The template, or what of it cannot be read; ours counts in its place.</summary>
    public (LetterTemplate? Template, StoredFault? Fault) ToTemplate() => LetterKinds.Find(Kind) is null || (Html is null && Text is null)
        ? (null, StoredFault.Harmless("letter-template", $"{Kind}.{Language}", Wording.Of("stored.value", Kind)))
        : (new LetterTemplate(Kind, Language, Subject, Html, Text, Version), null);

    public static void Map(EntityTypeBuilder<LetterTemplateRow> e)
    {
        e.ToTable("letter_templates");
        e.HasKey(r => new { r.Kind, r.Language });
    }
}
