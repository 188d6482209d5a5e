using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core.Audio;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage.Audio;

/// <summary>A member's own feed of a show.</summary>
internal sealed class SubscriberRow
{
    public Guid Id { get; set; }

    public Guid MemberId { get; set; }

    public required string Show { get; set; }

    /// <summary>Which address they have.</summary>
    public int Number { get; set; }

    public DateTimeOffset Since { get; set; }

    public DateTimeOffset? ReadAt { get; set; }

    public string? ReadBy { get; set; }

    public static SubscriberRow Of(Subscriber one) => new()
    { Id = one.Id, MemberId = one.Member, Show = one.Show, Number = one.Number, Since = one.Since, ReadAt = one.ReadAt, ReadBy = one.ReadBy };

    public Subscriber ToSubscriber() => new(Id, MemberId, Show, Number, Since) { ReadAt = ReadAt, ReadBy = ReadBy };

    public static void Map(EntityTypeBuilder<SubscriberRow> e)
    {
        e.ToTable("subscribers");
        e.HasKey(r => r.Id);
        // The judge of two who ask for the same at once.
        e.HasIndex(r => new { r.MemberId, r.Show }).IsUnique();
        e.HasIndex(r => new { r.Show, r.Since, r.Id });
        e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
    }
}
