using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.People.Consents;

namespace WarySentinel.Storage.People;

/// <summary>Terms: whom they are for.</summary>
internal sealed class TermsRow
{
    public required string Key { get; set; }

    public required string Audience { get; set; }

    public bool IsOptional { get; set; }

    public int? Position { get; set; }

    public int Version { get; set; }

    public static TermsRow Of(TermsPut terms) => new()
    {
        Key = terms.Key, Audience = terms.Audience.ToString(), IsOptional = terms.IsOptional, Position = terms.Position, Version = terms.Version,
    };

    public static void Map(EntityTypeBuilder<TermsRow> e)
    {
        e.ToTable("terms");
        e.HasKey(r => r.Key);
    }
}

/// <summary>A version of terms.</summary>
internal sealed class TermsTextRow
{
    public required string Terms { get; set; }

    public int Number { get; set; }

    /// <summary>The version as JSON.</summary>
    public required string Body { get; set; }

    public static TermsTextRow Of(string terms, TermsText text) =>
        new() { Terms = terms, Number = text.Number, Body = JsonSerializer.Serialize(text, Detail.Written) };

    public static void Map(EntityTypeBuilder<TermsTextRow> e)
    {
        e.ToTable("terms_texts");
        e.HasKey(r => new { r.Terms, r.Number });
    }
}

/// <summary>What a member said to terms, as evidence; rows are added and never changed.</summary>
internal sealed class ConsentRow
{
    public Guid Id { get; set; }

    public Guid MemberId { get; set; }

    public required string Terms { get; set; }

    public int Number { get; set; }

    public bool Agreed { get; set; }

    public DateTimeOffset At { get; set; }

    public required string Language { get; set; }

    public required string Where { get; set; }

    public static ConsentRow Of(Consent consent) => new()
    {
        Id = Guid.CreateVersion7(), MemberId = consent.Member, Terms = consent.Terms, Number = consent.Number, Agreed = consent.Agreed, At = consent.At,
        Language = consent.Language, Where = consent.Where,
    };

    public Consent ToConsent() => new(MemberId, Terms, Number, Agreed, At, Language, Where);

    public static void Map(EntityTypeBuilder<ConsentRow> e)
    {
        e.ToTable("consents");
        e.HasKey(r => r.Id);
        e.HasIndex(r => r.MemberId);
        e.HasIndex(r => new { r.Terms, r.Number, r.Agreed, r.MemberId }, "IX_consents_Terms");
        e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
    }
}

/// <summary>How terms are written down.</summary>
internal static class TermsBodies
{
    /// <summary>
    /// The book of what is stored. A version that cannot be read asks nobody, and terms whose audience cannot be read are asked of every member; each is
    /// told of.
    /// </summary>
    public static TermsBook Book(IReadOnlyList<TermsRow> rows, IReadOnlyList<TermsTextRow> texts, List<StoredFault> faults)
    {
        var (all, byTerms) = (new List<TermsOfSite>(), texts.ToLookup(t => t.Terms));
        foreach (var row in rows)
        {
            var read = byTerms[row.Key].OrderBy(t => t.Number).Select(t => Read(row.Key, t, faults)).OfType<TermsText>().ToList();
            var audience = AudienceParser.ParseStored(row.Audience);
            if (audience.Problem is { } problem)
            {
                faults.Add(StoredFault.Harmless("terms", row.Key, problem.Detail));
            }

            all.Add(new TermsOfSite(row.Key, audience.IsGood ? audience.Value : new Audience.Plain(PlainAtom.SignedIn), row.IsOptional, row.Position,
                row.Version, read));
        }

        return new TermsBook(all);
    }

    private static TermsText? Read(string terms, TermsTextRow row, List<StoredFault> faults)
    {
        try
        {
            if (JsonSerializer.Deserialize<TermsText>(row.Body, Detail.Written) is { Title: not null, Text: not null } text)
            {
                return text with { Number = row.Number };
            }
        }
        catch (JsonException)
        {
            // Told of beneath.
        }

        faults.Add(StoredFault.Harmless("terms", $"{terms} {row.Number}", Wording.Of("stored.row", "terms_texts")));
        return null;
    }
}
