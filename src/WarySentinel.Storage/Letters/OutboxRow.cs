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

    /// <summary>What kind of letter it is.</summary>
    public string Kind { get; set; } = "";

    /// <summary>How soon it has to be out; each has a way of its own.</summary>
    public int Urgency { get; set; } = (int)Core.Letters.Urgency.Soon;

    /// <summary>When it was begun to be handed over to a mail server; empty where no such attempt is open.</summary>
    public DateTimeOffset? HandedAt { get; set; }

    /// <summary>Since when nobody can know whether it went out.</summary>
    public DateTimeOffset? UnclearAt { get; set; }

    /// <summary>When a report said that it reached nobody, although a server had taken it.</summary>
    public DateTimeOffset? ReturnedAt { get; set; }

    /// <summary>When nobody tried any more.</summary>
    public DateTimeOffset? GivenUpAt { get; set; }

    public int Tries { get; set; }

    public string? Fault { get; set; }

    public static void Map(EntityTypeBuilder<OutboxRow> e)
    {
        e.ToTable("outbox");
        e.HasKey(r => r.Id);
        e.Property(r => r.Kind).HasDefaultValue("");
        e.Property(r => r.Urgency).HasDefaultValue((int)Core.Letters.Urgency.Soon).HasSentinel(-1);
        e.HasIndex(r => new { r.Urgency, r.NextTryAt }, "IX_outbox_Waiting")
            .HasFilter("\"SentAt\" IS NULL AND \"GivenUpAt\" IS NULL AND \"UnclearAt\" IS NULL");
        e.HasIndex(r => r.CreatedAt);
        e.HasIndex(r => r.SentAt);
        e.HasIndex(r => new { r.To, r.CreatedAt });
    }
}
