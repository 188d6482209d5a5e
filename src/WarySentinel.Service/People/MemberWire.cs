using WarySentinel.Contract.People;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using Rules = WarySentinel.Core.People;
using Wire = WarySentinel.Contract.People;

namespace WarySentinel.Service.People;

/// <summary>Members and what they hold, between the wire and the rules.</summary>
public static class MemberWire
{
    /// <summary>A member as they are told.</summary>
    public static MemberView ToWire(this Member member, DateTimeOffset now) => new(
        member.Id, member.Email, member.Name, member.UserName, member.Status.ToString().ToLowerInvariant(), member.RolesAt(now),
        [.. member.Grants.Select(g => g.ToWire(now))], member.CreatedAt, member.Version);

    /// <summary>A grant as it is told.</summary>
    public static GrantView ToWire(this Grant grant, DateTimeOffset now) => new(
        grant.Id, grant.Fact, FactNames.NameOf(grant.Kind), grant.Key, grant.From, grant.Until, grant.Source.ToString(), grant.IsInForce(now));

    /// <summary>What was sent, for the rules to read.</summary>
    public static Rules.MemberDraft ToCore(this Wire.MemberDraft draft) => new()
    {
        Email = draft.Email,
        Name = draft.Name,
        UserName = draft.UserName,
        Password = draft.Password?.Reveal(),
        Roles = draft.Roles,
        Groups = draft.Groups,
        Plans = draft.Plans,
    };

    /// <summary>What was sent, for the rules to read.</summary>
    public static Rules.GrantDraft ToCore(this Wire.GrantDraft draft) => new(draft.Fact, draft.From, draft.Until, draft.Source);
}
