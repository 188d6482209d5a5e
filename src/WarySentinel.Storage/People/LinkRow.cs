using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core.People;

namespace WarySentinel.Storage.People;

/// <summary>A link that works once.</summary>
internal sealed class LinkRow
{
    public Guid Id { get; set; }

    public int Purpose { get; set; }

    public required string Digest { get; set; }

    public Guid Subject { get; set; }

    public required string Address { get; set; }

    public DateTimeOffset CreatedAt { get; set; }

    public DateTimeOffset Until { get; set; }

    public DateTimeOffset? ClosedAt { get; set; }

    public int? ClosedBy { get; set; }

    /// <summary>The digest of link and code; null where following it is enough.</summary>
    public string? Code { get; set; }

    public int Tries { get; set; }

    public static LinkRow Of(SingleUseLink link) => new()
    {
        Id = link.Id, Purpose = (int)link.Purpose, Digest = link.Digest.Reveal(), Subject = link.Subject, Address = link.Address,
        CreatedAt = link.CreatedAt, Until = link.Until, ClosedAt = link.ClosedAt, ClosedBy = (int?)link.ClosedBy, Code = link.Code?.Reveal(),
        Tries = link.Tries,
    };

    public SingleUseLink ToLink() => new(Id, (LinkPurpose)Purpose, Digest, Subject, Address, CreatedAt, Until)
    { ClosedAt = ClosedAt, ClosedBy = (LinkEnd?)ClosedBy, Code = Code is null ? null : (Core.Secret)Code, Tries = Tries };

    public static void Map(EntityTypeBuilder<LinkRow> e)
    {
        e.ToTable("links");
        e.HasKey(r => r.Id);
        e.HasIndex(r => r.Digest).IsUnique();
        e.HasIndex(r => new { r.Subject, r.CreatedAt });
        e.HasIndex(r => r.Address);
        e.HasIndex(r => r.Until);
        // The judge of two who ask for the same at once.
        e.HasIndex(r => new { r.Subject, r.Purpose, r.Address }, "IX_links_Open").IsUnique().HasFilter("\"ClosedAt\" IS NULL");
    }
}
