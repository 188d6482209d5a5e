using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Passwords;

namespace WarySentinel.Storage.Passwords;

internal sealed class PassRow
{
    /// <summary>What commands change; uses are counted apart.</summary>
    public static readonly string[] Whole =
    [
        nameof(Kind), nameof(Holder), nameof(Email), nameof(Digest), nameof(OldDigest), nameof(OldUntil), nameof(From), nameof(Until), nameof(WithdrawnAt),
        nameof(MostUses), nameof(MostNetworks), nameof(Order), nameof(Search), nameof(Version),
    ];

    public Guid Id { get; set; }

    public required string Kind { get; set; }

    public required string Name { get; set; }

    public required string Holder { get; set; }

    public string? Email { get; set; }

    public required string Digest { get; set; }

    public string? OldDigest { get; set; }

    public DateTimeOffset? OldUntil { get; set; }

    public DateTimeOffset CreatedAt { get; set; }

    public DateTimeOffset? From { get; set; }

    public DateTimeOffset? Until { get; set; }

    public DateTimeOffset? WithdrawnAt { get; set; }

    public int? MostUses { get; set; }

    public int Uses { get; set; }

    public int? MostNetworks { get; set; }

    public DateTimeOffset? LastUsedAt { get; set; }

    public string? Order { get; set; }

    /// <summary>What it is searched by, in small letters without accents.</summary>
    public string Search { get; set; } = "";

    public int Version { get; set; }

    public static PassRow Of(Pass pass) => new()
    {
        Id = pass.Id, Kind = pass.Kind, Name = pass.Name, Holder = pass.Holder, Email = pass.Email, Digest = pass.Digest.Reveal(),
        OldDigest = pass.OldDigest?.Reveal(), OldUntil = pass.OldUntil, CreatedAt = pass.CreatedAt, From = pass.From, Until = pass.Until,
        WithdrawnAt = pass.WithdrawnAt, MostUses = pass.MostUses, Uses = pass.Uses, MostNetworks = pass.MostNetworks, LastUsedAt = pass.LastUsedAt,
        Order = pass.Order, Version = pass.Version, Search = SearchOf(pass.Name, pass.Holder, pass.Email),
    };

    public static string SearchOf(string name, string holder, string? email) => Spelling.Folded($"{name} {holder} {email}");

    public Pass ToPass() => new()
    {
        Id = Id, Kind = Kind, Name = Name, Holder = Holder, Email = Email, Digest = Digest, OldDigest = OldDigest, OldUntil = OldUntil,
        CreatedAt = CreatedAt, From = From, Until = Until, WithdrawnAt = WithdrawnAt, MostUses = MostUses, Uses = Uses, MostNetworks = MostNetworks,
        LastUsedAt = LastUsedAt, Order = Order, Version = Version,
    };

    public static void Map(EntityTypeBuilder<PassRow> e)
    {
        e.ToTable("passes");
        e.HasKey(r => r.Id);
        e.Property(r => r.Version).IsConcurrencyToken();
        e.HasIndex(r => r.Name).IsUnique();
        e.HasIndex(r => new { r.CreatedAt, r.Id });
        e.HasIndex(r => r.Kind);
        e.HasIndex(r => r.Order);
    }
}

/// <summary>A network that a pass was used from; only a keyed digest of it.</summary>
internal sealed class PassNetworkRow
{
    public Guid PassId { get; set; }

    public required string Network { get; set; }

    public DateTimeOffset FirstAt { get; set; }

    /// <summary>When a use from there was counted last.</summary>
    public DateTimeOffset LastAt { get; set; }

    public static void Map(EntityTypeBuilder<PassNetworkRow> e)
    {
        e.ToTable("pass_networks");
        e.HasKey(r => new { r.PassId, r.Network });
        e.HasOne<PassRow>().WithMany().HasForeignKey(r => r.PassId).OnDelete(DeleteBehavior.Cascade);
    }
}
