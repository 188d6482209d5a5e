using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace WarySentinel.Storage.Sweep;

/// <summary>What a sweep found.</summary>
internal sealed class SweepRow
{
    public Guid Id { get; set; }

    public DateTimeOffset StartedAt { get; set; }

    public DateTimeOffset EndedAt { get; set; }

    public required string By { get; set; }

    public int Leaks { get; set; }

    public required string Report { get; set; }

    public static void Map(EntityTypeBuilder<SweepRow> e)
    {
        e.ToTable("sweeps");
        e.HasKey(r => r.Id);
        e.HasIndex(r => r.StartedAt);
    }
}
