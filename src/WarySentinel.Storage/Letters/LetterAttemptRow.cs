using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace WarySentinel.Storage.Letters;

/// <summary>One attempt to send a letter; written before it is made, and again when its outcome is known.</summary>
internal sealed class LetterAttemptRow
{
    public Guid Id { get; set; }

    public Guid LetterId { get; set; }

    public DateTimeOffset At { get; set; }

    public DateTimeOffset? EndedAt { get; set; }

    public int Outcome { get; set; }

    public string? Said { get; set; }

    public required string Machine { get; set; }

    public static void Map(EntityTypeBuilder<LetterAttemptRow> e)
    {
        e.ToTable("letter_attempts");
        e.HasKey(r => r.Id);
        e.HasIndex(r => new { r.LetterId, r.At });
        e.HasOne<OutboxRow>().WithMany().HasForeignKey(r => r.LetterId).OnDelete(DeleteBehavior.Cascade);
    }
}

/// <summary>An address that no letter reaches.</summary>
internal sealed class UnreachableRow
{
    public required string Address { get; set; }

    public DateTimeOffset At { get; set; }

    /// <summary>The enhanced status code (RFC 3463), such as 5.1.1.</summary>
    public required string Status { get; set; }

    public string? Said { get; set; }

    public static void Map(EntityTypeBuilder<UnreachableRow> e)
    {
        e.ToTable("unreachable_addresses");
        e.HasKey(r => r.Address);
        e.HasIndex(r => r.At);
    }
}
