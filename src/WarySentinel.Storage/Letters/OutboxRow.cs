using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace WarySentinel.Storage.Letters;

/// <summary>A message on its way, sent, or given up.</summary>
internal sealed class OutboxRow
{
    public Guid Id { get; set; }

    public required string To { get; set; }

    public required string Subject { get; set; }

    /// <summary>The sealed text; empty once it is sent.</summary>
    public required string Body { get; set; }

    public DateTimeOffset CreatedAt { get; set; }

    public DateTimeOffset NextTryAt { get; set; }

    public DateTimeOffset? SentAt { get; set; }

    /// <summary>When nobody tried any more.</summary>
    public DateTimeOffset? GivenUpAt { get; set; }

    public int Tries { get; set; }

    public string? Fault { get; set; }

    public static void Map(EntityTypeBuilder<OutboxRow> e)
    {
        e.ToTable("outbox");
        e.HasKey(r => r.Id);
        e.HasIndex(r => new { r.SentAt, r.NextTryAt });
        e.HasIndex(r => new { r.To, r.CreatedAt });
    }
}
