using WarySentinel.Core.Access;
using WarySentinel.Core.People;

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

    public List<GrantRow> Grants { get; set; } = [];

    public static MemberRow Of(Member member)
    {
        var row = new MemberRow { Id = member.Id, Email = member.Email, Name = member.Name };
        row.Take(member);
        return row;
    }

    public void Take(Member member)
    {
        (Email, Name, UserName, PasswordHash) = (member.Email, member.Name, member.UserName, member.PasswordHash);
        (Status, CreatedAt, Version) = ((int)member.Status, member.CreatedAt, member.Version);
        Grants = [.. member.Grants.Select(g => new GrantRow
        {
            Id = Guid.CreateVersion7(), MemberId = member.Id, Kind = (int)g.Kind, Key = g.Key, From = g.From, Until = g.Until, Source = g.Source,
        })];
    }

    public Member ToMember() => new(
        Id, Email, Name, UserName, PasswordHash, (MemberStatus)Status,
        [.. Grants.Where(g => Enum.IsDefined((FactKind)g.Kind)).Select(g => g.ToGrant()).OrderBy(g => g.Kind).ThenBy(g => g.Key, StringComparer.Ordinal)],
        CreatedAt, Version);
}

internal sealed class GrantRow
{
    public Guid Id { get; set; }

    public Guid MemberId { get; set; }

    public int Kind { get; set; }

    public required string Key { get; set; }

    public DateTimeOffset? From { get; set; }

    public DateTimeOffset? Until { get; set; }

    public required string Source { get; set; }

    public Grant ToGrant() => new((FactKind)Kind, Key, From, Until, Source);
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

    public List<UnlockRow> Unlocks { get; set; } = [];
}

internal sealed class UnlockRow
{
    public Guid SessionId { get; set; }

    public Guid PasswordId { get; set; }

    public required string Gate { get; set; }

    public DateTimeOffset Until { get; set; }
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

    public ApiToken ToToken() => new(Id, Label, Digest, Scopes, MemberId, CreatedAt, Until);
}
