using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace WarySentinel.Storage.Sweep;

/// <summary>A part of what a sweep noted that has not ended yet.</summary>
internal sealed class SweepPartRow
{
    public Guid Sweep { get; set; }

    public int Number { get; set; }

    public int Notes { get; set; }

    public required byte[] Body { get; set; }

    public static void Map(EntityTypeBuilder<SweepPartRow> e)
    {
        e.ToTable("sweep_parts");
        e.HasKey(r => new { r.Sweep, r.Number });
    }
}
