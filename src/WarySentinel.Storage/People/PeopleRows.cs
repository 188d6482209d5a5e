using System.Text.Json;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Consents;

namespace WarySentinel.Storage.People;

internal sealed class MemberRow
{
    public Guid Id { get; set; }

    public required string Email { get; set; }

    public required string Name { get; set; }

    public string? UserName { get; set; }

    public string? PasswordHash { get; set; }

    public int Status { get; set; }

    public DateTimeOffset CreatedAt { get; set; }

    public int Version { get; set; }

    /// <summary>What is searched: name, address and user name, folded.</summary>
    public string Search { get; set; } = "";

    public DateTimeOffset? StatusAt { get; set; }

    public string? StatusBy { get; set; }

    public string? StatusWords { get; set; }

    /// <summary>Told by sign-ins, past the version: it is no change of the member.</summary>
    public DateTimeOffset? SeenAt { get; set; }

    public string? Language { get; set; }

    public bool Unsubscribed { get; set; }

    /// <summary>What they said last to each terms, as JSON; null where they said nothing.</summary>
    public string? Said { get; set; }

    public List<GrantRow> Grants { get; set; } = [];

    public static MemberRow Of(Member member) => new()
    {
        Id = member.Id, Email = member.Email, Name = member.Name, UserName = member.UserName, PasswordHash = member.PasswordHash?.Reveal(),
        Status = (int)member.Status, CreatedAt = member.CreatedAt, Version = member.Version,
        Search = SearchOf(member.Name, member.Email, member.UserName), StatusAt = member.Cause?.At, StatusBy = member.Cause?.By,
        StatusWords = member.Cause?.Words, SeenAt = member.SeenAt, Language = member.Language,
        Unsubscribed = member.IsUnsubscribed, Said = member.Said.Count == 0 ? null : JsonSerializer.Serialize(member.Said, Detail.Written),
        Grants = [.. member.Grants.Select(g => GrantRow.Of(member.Id, g))],
    };

    public static string SearchOf(string name, string email, string? userName) => Spelling.Folded($"{name}\n{email}\n{userName}");

    public Member ToMember() => new(
        Id, Email, Name, UserName, PasswordHash, (MemberStatus)Status,
        [.. Grants.Where(g => Enum.IsDefined((FactKind)g.Kind)).Select(g => g.ToGrant()).OrderBy(g => g.Kind).ThenBy(g => g.Key, StringComparer.Ordinal)],
        CreatedAt, Version)
    {
        Cause = StatusAt is { } at ? new StatusCause(at, StatusBy ?? "", StatusWords) : null,
        SeenAt = SeenAt,
        Language = Language,
        IsUnsubscribed = Unsubscribed,
        Said = Said is null ? [] : ReadSaid(Said),
    };

    // Whoever's sayings cannot be read is asked again.
    private static List<Consented> ReadSaid(string said)
    {
        try
        {
            return JsonSerializer.Deserialize<List<Consented>>(said, Detail.Written)?.FindAll(s => s is { Terms: not null }) ?? [];
        }
        catch (JsonException)
        {
            return [];
        }
    }

    public static void Map(EntityTypeBuilder<MemberRow> e)
    {
        e.ToTable("members");
        e.HasKey(r => r.Id);
        e.HasIndex(r => r.Email).IsUnique();
        // Most have none, and are no matter of this index.
        e.HasIndex(r => r.UserName).IsUnique().HasFilter("\"UserName\" IS NOT NULL");
        // Few, beside those who are active: whoever counts holders leaves these out.
        e.HasIndex(r => r.Id, "IX_members_Inactive").HasFilter("\"Status\" <> 3");
        // Who waits, is suspended or gone, in the order of the list.
        e.HasIndex(r => new { r.Status, r.Email });
        e.HasIndex(r => new { r.CreatedAt, r.Email });
        e.HasIndex(r => r.Search, "IX_members_Name");
        e.Property(r => r.Version).IsConcurrencyToken();
        e.Property(r => r.Search).HasDefaultValue("");
        e.HasMany(r => r.Grants).WithOne().HasForeignKey(g => g.MemberId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class GrantRow
{
    public Guid Id { get; set; }

    public Guid MemberId { get; set; }

    public int Kind { get; set; }

    public required string Key { get; set; }

    public DateTimeOffset? From { get; set; }

    public DateTimeOffset? Until { get; set; }

    /// <summary>The kind of what gave it.</summary>
    public required string Source { get; set; }

    /// <summary>Which order, invitation, file or form it was; empty by hand.</summary>
    public string Reference { get; set; } = "";

    public static GrantRow Of(Guid member, Grant grant) => new()
    {
        Id = grant.Id == Guid.Empty ? Guid.CreateVersion7() : grant.Id, MemberId = member, Kind = (int)grant.Kind, Key = grant.Key, From = grant.From,
        Until = grant.Until, Source = grant.Source.Kind, Reference = grant.Source.Reference,
    };

    public Grant ToGrant() => new((FactKind)Kind, Key, From, Until) { Id = Id, Source = GrantSource.Stored(Source, Reference) };

    public static void Map(EntityTypeBuilder<GrantRow> e)
    {
        e.ToTable("grants");
        e.HasKey(r => r.Id);
        // Holds all that counting holders asks for.
        e.HasIndex(r => new { r.Kind, r.Key, r.MemberId, r.From, r.Until }, "IX_grants_Holders");
        e.HasIndex(r => r.Until);
        e.HasIndex(r => new { r.MemberId, r.Kind, r.Key, r.Source, r.Reference }).IsUnique();
        e.Property(r => r.Reference).HasDefaultValue("");
    }
}

/// <summary>The name by which another program knows a member.</summary>
internal sealed class OutsideKeyRow
{
    public required string Source { get; set; }

    public required string Key { get; set; }

    public Guid MemberId { get; set; }

    public DateTimeOffset At { get; set; }

    public static OutsideKeyRow Of(OutsideKey key) => new() { Source = key.Source, Key = key.Key, MemberId = key.Member, At = key.At };

    public OutsideKey ToKey() => new(Source, Key, MemberId, At);

    public static void Map(EntityTypeBuilder<OutsideKeyRow> e)
    {
        e.ToTable("outside_keys");
        e.HasKey(r => new { r.Source, r.Key });
        e.HasIndex(r => r.MemberId);
        e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class SessionRow
{
    public Guid Id { get; set; }

    public int Purpose { get; set; }

    public Guid? MemberId { get; set; }

    public string? View { get; set; }

    public DateTimeOffset CreatedAt { get; set; }

    public DateTimeOffset SeenAt { get; set; }

    public DateTimeOffset Until { get; set; }

    public string? Network { get; set; }

    public string? Agent { get; set; }

    /// <summary>The console session that it was made in, and ends with.</summary>
    public Guid? MadeBySession { get; set; }

    /// <summary>The access token that it was made with, and ends with.</summary>
    public Guid? MadeByToken { get; set; }

    /// <summary>Whether it is a link still, that nobody has used.</summary>
    public bool IsTicket { get; set; }

    /// <summary>The pass that somebody came in by.</summary>
    public Guid? PassId { get; set; }

    /// <summary>Until when the pass counts in it.</summary>
    public DateTimeOffset? PassUntil { get; set; }

    public List<UnlockRow> Unlocks { get; set; } = [];

    public static SessionRow Of(StoredSession session) => new()
    {
        Id = session.Id, Purpose = (int)session.Purpose, MemberId = session.Member, View = session.View, CreatedAt = session.CreatedAt,
        SeenAt = session.SeenAt, Until = session.Until, Network = session.Network, Agent = session.Agent, MadeBySession = session.MadeBySession,
        MadeByToken = session.MadeByToken, IsTicket = session.IsTicket, PassId = session.Pass, PassUntil = session.PassUntil,
        Unlocks = [.. session.Unlocks.Select(u => UnlockRow.Of(session.Id, u))],
    };

    public static void Map(EntityTypeBuilder<SessionRow> e)
    {
        e.ToTable("sessions");
        e.HasKey(r => r.Id);
        e.HasIndex(r => r.Until);
        e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
        // No foreign keys: to add one SQLite must build the table anew, in several steps, and a start that is killed between them is never taken up again.
        e.HasIndex(r => r.MadeBySession);
        e.HasIndex(r => r.MadeByToken);
        e.HasIndex(r => r.PassId);
        e.HasMany(r => r.Unlocks).WithOne().HasForeignKey(u => u.SessionId).OnDelete(DeleteBehavior.Cascade);
    }
}

internal sealed class UnlockRow
{
    public Guid SessionId { get; set; }

    public Guid PasswordId { get; set; }

    public required string Gate { get; set; }

    public DateTimeOffset Until { get; set; }

    public static UnlockRow Of(Guid session, StoredUnlock unlock) =>
        new() { SessionId = session, Gate = unlock.Gate, PasswordId = unlock.Password, Until = unlock.Until };

    public static void Map(EntityTypeBuilder<UnlockRow> e)
    {
        e.ToTable("unlocks");
        e.HasKey(r => new { r.SessionId, r.PasswordId });
    }
}

internal sealed class TokenRow
{
    public Guid Id { get; set; }

    public required string Label { get; set; }

    public required string Digest { get; set; }

    public string[] Scopes { get; set; } = [];

    public Guid? MemberId { get; set; }

    public DateTimeOffset CreatedAt { get; set; }

    public DateTimeOffset? Until { get; set; }

    public static TokenRow Of(ApiToken token) => new()
    {
        Id = token.Id, Label = token.Label, Digest = token.Digest.Reveal(), Scopes = [.. token.Scopes], MemberId = token.Member, CreatedAt = token.CreatedAt,
        Until = token.Until,
    };

    public ApiToken ToToken() => new(Id, Label, Digest, Scopes, MemberId, CreatedAt, Until);

    public static void Map(EntityTypeBuilder<TokenRow> e)
    {
        e.ToTable("tokens");
        e.HasKey(r => r.Id);
        e.HasIndex(r => r.Digest).IsUnique();
        e.HasOne<MemberRow>().WithMany().HasForeignKey(r => r.MemberId).OnDelete(DeleteBehavior.Cascade);
    }
}

/// <summary>Wrong tries under one name, which is a keyed digest.</summary>
internal sealed class TryRow
{
    public required string Name { get; set; }

    public long Wrong { get; set; }

    public DateTimeOffset Last { get; set; }

    public static void Map(EntityTypeBuilder<TryRow> e)
    {
        e.ToTable("tries");
        e.HasKey(r => r.Name);
        e.HasIndex(r => r.Last);
    }
}
