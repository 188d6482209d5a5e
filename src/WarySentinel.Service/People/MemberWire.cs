using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using Rules = WarySentinel.Core.People;
using Wire = WarySentinel.Contract.People;

namespace WarySentinel.Service.People;

/// <summary>Members and what they hold, between the wire and the rules.</summary>
public static class MemberWire
{
    /// <summary>A member as they are told.</summary>
    public static MemberView ToWire(this Member member, DateTimeOffset now, Policy policy) => new(
        member.Id, member.Email, member.Name, member.UserName, member.Status.ToString().ToLowerInvariant(),
        member.Cause is { } cause ? new StatusCauseView(cause.At, cause.By, cause.Words) : null, member.RolesAt(now),
        [.. member.Grants.Select(g => g.ToWire(now))], [.. policy.Rules.GroupsOf(member.AsVisitor(), now)], member.CreatedAt, member.SeenAt, member.Version,
        member.Language, member.IsUnsubscribed);

    /// <summary>A note as it is told.</summary>
    public static NoteView ToWire(this MemberNote note) => new(note.Id, note.At, note.By, note.Text);

    /// <summary>A session as it is told.</summary>
    public static SessionView ToWire(this Storage.StoredSession s, string? email) => new(
        s.Id, s.Purpose.ToString().ToLowerInvariant(), email, s.CreatedAt, s.Until, s.Network, s.Agent, [.. s.Unlocks.Select(u => u.Gate)]);

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
        Language = PlainText.OrNull(draft.Language),
    };

    /// <summary>What was sent, for the rules to read.</summary>
    public static Rules.GrantDraft ToCore(this Wire.GrantDraft draft) => new(draft.Fact, draft.From, draft.Until, draft.Source);
}
