using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Storage.People;

/// <summary>What a member answered a field; one row a value.</summary>
internal sealed class AnswerRow
{
    public Guid MemberId { get; set; }

    public required string Field { get; set; }

    /// <summary>The order of values, from 0.</summary>
    public int Place { get; set; }

    /// <summary>The value in its one spelling.</summary>
    public required string Value { get; set; }

    /// <summary>As it is searched and sorted: folded, and no longer than an index takes.</summary>
    public required string Folded { get; set; }

    /// <summary>The value of a number.</summary>
    public double? Number { get; set; }

    private const int LongestFolded = 200;

    public static IEnumerable<AnswerRow> Of(Guid member, FieldAnswer answer) => answer.Values.Select((value, place) => new AnswerRow
    {
        MemberId = member, Field = answer.Field, Place = place, Value = value, Folded = FoldedOf(value),
        Number = double.TryParse(value, System.Globalization.NumberStyles.Float, System.Globalization.CultureInfo.InvariantCulture, out var number)
            && double.IsFinite(number) ? number : null,
    });

    public static string FoldedOf(string value) => Spelling.Folded(value) is { Length: > LongestFolded } folded
        ? folded[..LongestFolded] : Spelling.Folded(value);

    public static void Map(EntityTypeBuilder<AnswerRow> e)
    {
        e.ToTable("answers");
        e.HasKey(r => new { r.MemberId, r.Field, r.Place });
        e.HasIndex(r => new { r.Field, r.Folded, r.MemberId }, "IX_answers_Text");
        e.HasIndex(r => new { r.Field, r.Number, r.MemberId }, "IX_answers_Number");
        e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
    }
}

/// <summary>A file that somebody sent with a form.</summary>
internal sealed class AnswerFileRow
{
    public Guid Id { get; set; }

    public Guid MemberId { get; set; }

    public required string Field { get; set; }

    public required string Name { get; set; }

    public required string Type { get; set; }

    public int Size { get; set; }

    public required byte[] Content { get; set; }

    public DateTimeOffset At { get; set; }

    public static AnswerFileRow Of(AnswerFile file) => new()
    {
        Id = file.Id, MemberId = file.Member, Field = file.Field, Name = file.Name, Type = file.Type, Size = file.Content.Length,
        Content = file.Content.ToArray(), At = file.At,
    };

    public AnswerFile ToFile() => new(Id, MemberId, Field, Name, Type, Content, At);

    public static void Map(EntityTypeBuilder<AnswerFileRow> e)
    {
        e.ToTable("answer_files");
        e.HasKey(r => r.Id);
        e.HasIndex(r => r.MemberId);
        e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
    }
}

/// <summary>A file of a form that was not taken yet: it need not be chosen again.</summary>
internal sealed class PendingUploadRow
{
    /// <summary>A digest of the secret by which it is asked for again.</summary>
    public required string Digest { get; set; }

    public required string Name { get; set; }

    public int Size { get; set; }

    public required byte[] Content { get; set; }

    public required string Network { get; set; }

    public DateTimeOffset At { get; set; }

    public static void Map(EntityTypeBuilder<PendingUploadRow> e)
    {
        e.ToTable("pending_uploads");
        e.HasKey(r => r.Digest);
        e.HasIndex(r => r.At);
    }
}

/// <summary>Somebody's asking to join.</summary>
internal sealed class JoinRequestRow
{
    public Guid Id { get; set; }

    public Guid MemberId { get; set; }

    public required string Form { get; set; }

    public DateTimeOffset At { get; set; }

    public int State { get; set; }

    public bool NeedsApproval { get; set; }

    /// <summary>What it gives, as JSON.</summary>
    public required string Grants { get; set; }

    /// <summary>Why it looks like a sham, as JSON.</summary>
    public required string Signs { get; set; }

    public string? Network { get; set; }

    public string? Domain { get; set; }

    public string? Words { get; set; }

    public DateTimeOffset? DecidedAt { get; set; }

    public string? By { get; set; }

    public int Version { get; set; }

    public static JoinRequestRow Of(JoinRequest request) => new()
    {
        Id = request.Id, MemberId = request.Member, Form = request.Form, At = request.At, State = (int)request.State, NeedsApproval = request.NeedsApproval,
        Grants = JsonSerializer.Serialize(request.Grants, Detail.Written), Signs = JsonSerializer.Serialize(request.Signs, Detail.Written),
        Network = request.Network, Domain = request.Domain, Words = request.Words, DecidedAt = request.DecidedAt, By = request.By, Version = request.Version,
    };

    /// <summary>The request. One that cannot be read gives nothing, and waits for staff.</summary>
    public JoinRequest ToRequest()
    {
        var (grants, signs) = (ListOf<RequestGrant>(Grants), ListOf<Sign>(Signs));
        var isWhole = grants is not null && signs is not null && Enum.IsDefined((RequestState)State);
        return new JoinRequest(Id, MemberId, Form, At, isWhole ? (RequestState)State : RequestState.Waiting, Version)
        {
            Grants = grants ?? [], Signs = signs ?? [], NeedsApproval = NeedsApproval || !isWhole, Network = Network, Domain = Domain, Words = Words,
            DecidedAt = DecidedAt, By = By,
        };
    }

    public static void Map(EntityTypeBuilder<JoinRequestRow> e)
    {
        e.ToTable("join_requests");
        e.HasKey(r => r.Id);
        e.HasIndex(r => r.MemberId);
        e.HasIndex(r => new { r.State, r.Id });
        e.HasIndex(r => new { r.Network, r.At });
        e.HasIndex(r => new { r.Domain, r.At });
        e.Property(r => r.Version).IsConcurrencyToken();
        e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
    }

    private static List<T>? ListOf<T>(string json)
    {
        try
        {
            return JsonSerializer.Deserialize<List<T>>(json, Detail.Written) is { } read && !read.Contains(default!) ? read : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
