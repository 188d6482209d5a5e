using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Passwords;

namespace WarySentinel.Storage.Passwords;

internal sealed class SharedPasswordRow
{
    public Guid Id { get; set; }

    public required string Gate { get; set; }

    public required string Label { get; set; }

    public required string Digest { get; set; }

    public required string Hash { get; set; }

    public DateTimeOffset CreatedAt { get; set; }

    public DateTimeOffset? From { get; set; }

    public DateTimeOffset? Until { get; set; }

    public DateTimeOffset? WithdrawnAt { get; set; }

    public int Uses { get; set; }

    public DateTimeOffset? LastUsedAt { get; set; }

    public int? MostUses { get; set; }

    public string? Asked { get; set; }

    public Guid? Replaces { get; set; }

    /// <summary>The password itself, sealed, where letters to buyers tell it; null for all others.</summary>
    public string? Sealed { get; set; }

    public static SharedPasswordRow Of(SharedPassword password) => new()
    {
        Id = password.Id,
        Gate = password.Gate,
        Label = password.Label,
        Digest = password.Digest.Reveal(),
        Hash = password.Hash.Reveal(),
        CreatedAt = password.CreatedAt,
        From = password.From,
        Until = password.Until,
        WithdrawnAt = password.WithdrawnAt,
        Uses = password.Uses,
        LastUsedAt = password.LastUsedAt,
        MostUses = password.MostUses,
        Asked = password.Asked?.ToString(),
        Replaces = password.Replaces,
        Sealed = password.Sealed?.Reveal(),
    };

    /// <summary>The password. Where it is not known who is asked for it, nobody is, and it opens nothing.</summary>
    public SharedPassword ToPassword() => new(
        Id, Gate, Label, Digest, Hash, CreatedAt, From, Until, WithdrawnAt, Uses, LastUsedAt, MostUses,
        Asked is null ? null : AudienceParser.ParseStored(Asked).Match(audience => audience, _ => new Audience.Plain(PlainAtom.Nobody)), Replaces)
    { Sealed = Sealed is null ? null : new Core.Secret(Sealed) };

    /// <summary>What of it cannot be read, or null.</summary>
    public StoredFault? Fault() => Asked is not null && AudienceParser.ParseStored(Asked).Problem is { } problem
        ? StoredFault.Harmless("password", Id.ToString(), Wording.Of("stored.audience", problem.Detail, Asked)) : null;

    public static void Map(EntityTypeBuilder<SharedPasswordRow> e)
    {
        e.ToTable("shared_passwords");
        e.HasKey(r => r.Id);
        e.HasIndex(r => r.Digest);
    }
}

/// <summary>A network that a shared password was used from; only a keyed digest of it.</summary>
internal sealed class PasswordNetworkRow
{
    public Guid PasswordId { get; set; }

    public required string Network { get; set; }

    public DateTimeOffset FirstAt { get; set; }

    public static void Map(EntityTypeBuilder<PasswordNetworkRow> e)
    {
        e.ToTable("password_networks");
        e.HasKey(r => new { r.PasswordId, r.Network });
        e.HasOne<SharedPasswordRow>().WithMany().HasForeignKey(r => r.PasswordId).OnDelete(DeleteBehavior.Cascade);
    }
}
