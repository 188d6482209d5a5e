using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Storage.People;

/// <summary>A field of forms, as it is written.</summary>
internal sealed class FieldRow
{
    public required string Key { get; set; }

    /// <summary>The draft as JSON.</summary>
    public required string Body { get; set; }

    public int Version { get; set; }

    public static FieldRow Of(FieldDraft field, int version) => new() { Key = field.Key!, Body = FormBodies.Write(field), Version = version };

    public static void Map(EntityTypeBuilder<FieldRow> e)
    {
        e.ToTable("fields");
        e.HasKey(r => r.Key);
    }
}

/// <summary>A form, as it is written.</summary>
internal sealed class FormRow
{
    public required string Key { get; set; }

    /// <summary>The draft as JSON.</summary>
    public required string Body { get; set; }

    public int Version { get; set; }

    public static FormRow Of(FormDraft form, int version) => new() { Key = form.Key!, Body = FormBodies.Write(form), Version = version };

    public static void Map(EntityTypeBuilder<FormRow> e)
    {
        e.ToTable("forms");
        e.HasKey(r => r.Key);
    }
}

/// <summary>How fields and forms are written down.</summary>
internal static class FormBodies
{
    public static string Write<T>(T draft) => JsonSerializer.Serialize(draft, Detail.Written);

    /// <summary>
    /// The book of what is stored. What cannot be read stands in it under its key all the same, without anything in it, so that nobody joins by it; each is
    /// told of.
    /// </summary>
    public static FormBook Book(IReadOnlyList<FieldRow> fields, IReadOnlyList<FormRow> forms, List<StoredFault> faults)
    {
        var book = new FormBook(
            [.. fields.Select(r => Read(r.Body, new FieldDraft { Key = r.Key }, r.Version))],
            [.. forms.Select(r => Read(r.Body, new FormDraft { Key = r.Key }, r.Version))]);
        faults.AddRange(book.Broken.Select(b => StoredFault.Harmless(b.Kind, b.Key, b.Problem.Detail)));
        return book;
    }

    private static Kept<T> Read<T>(string body, T empty, int version)
        where T : class
    {
        try
        {
            return new Kept<T>(JsonSerializer.Deserialize<T>(body, Detail.Written) ?? empty, version);
        }
        catch (JsonException)
        {
            return new Kept<T>(empty, version);
        }
    }
}
