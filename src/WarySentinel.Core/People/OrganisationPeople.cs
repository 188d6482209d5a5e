using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>Who does something to an organisation.</summary>
/// <param name="Name">Their name in the audit trail.</param>
/// <param name="IsManager">Whether it is one of its own managers, and none of the site's staff.</param>
public sealed record OrganisationActor(string Name, bool IsManager);

/// <summary>The link that goes out with an invitation.</summary>
/// <param name="Digest">The digest of its secret.</param>
/// <param name="SentLately">So many letters went out for the organisation within the last day.</param>
public sealed record InvitationLink(Secret Digest, int SentLately);

/// <summary>Who belongs to an organisation: invited, joined, made manager, removed. Never more than it has seats.</summary>
public static class OrganisationPeople
{
    /// <summary>For so long the link of an invitation works.</summary>
    public static readonly TimeSpan LinkLasts = TimeSpan.FromDays(14);

    /// <summary>Nobody is written to again about the same invitation within that time.</summary>
    public static readonly TimeSpan LetterPause = TimeSpan.FromMinutes(2);

    private const int LettersBeside = 20;
    private const int LettersASeat = 3;

    /// <summary>Asks somebody to join.</summary>
    public static Outcome<Edit<OrganisationInvitation>> Invite(
        Organisation? organisation, string? email, bool manages, IEnumerable<Member> people, InvitationLink link, OrganisationActor by, DateTimeOffset now)
    {
        if (organisation is null || EmailAddress.Normalise(email) is not { } address)
        {
            return organisation is null ? OrganisationCommands.Unknown : Problem.In("email", "email-form", email);
        }

        if (people.Any(m => m.Email == address) || organisation.Invitations.Any(i => i.Email == address))
        {
            return Problem.Of(ProblemKind.Conflict, "organisation-there", address, organisation.Title);
        }

        if (NoRoom(organisation, now) is { } full)
        {
            return full;
        }

        return Sent("organisation.invite", organisation, new OrganisationInvitation(Guid.CreateVersion7(), address, manages, now, now, now, by.Name),
            link, now);
    }

    /// <summary>Writes to somebody again who was asked; the link of the letter before works no longer.</summary>
    public static Outcome<Edit<OrganisationInvitation>> Remind(Organisation? organisation, Guid invitation, InvitationLink link, DateTimeOffset now)
    {
        if (Find(organisation, invitation) is not { } there)
        {
            return Missing(organisation);
        }

        return organisation!.IsOver(now) ? Over(organisation)
            : there.SentAt + LetterPause > now ? Problem.Of(ProblemKind.TooMany, "organisation-soon", there.Email)
            : Sent("organisation.remind", organisation, there, link, now);
    }

    /// <summary>Takes an invitation back: its link works no longer, its seat is free.</summary>
    public static Outcome<Edit<OrganisationInvitation>> Withdraw(Organisation? organisation, Guid invitation) =>
        Find(organisation, invitation) is not { } there ? Missing(organisation) : new Edit<OrganisationInvitation>(
            new Edit("organisation.withdraw", organisation!.Subject,
                [Counted(organisation), new InvitationDropped(there.Id), Closed(organisation, there.Email, LinkEnd.Withdrawn)], there.Email), there);

    /// <summary>Somebody with an account belongs to it from now on. They hold what it is given.</summary>
    public static Outcome<Edit<Organisation>> Join(Organisation? organisation, Member? member, bool manages, DateTimeOffset now)
    {
        if (organisation is null || member is null)
        {
            return organisation is null ? OrganisationCommands.Unknown : Problem.Of(ProblemKind.NotFound, "member-unknown");
        }

        if (organisation.PersonOf(member.Id) is not null)
        {
            return SetManages(organisation, member, manages, new OrganisationActor("", false));
        }

        var asked = organisation.Invitations.FirstOrDefault(i => i.Email == member.Email);
        if (NoRoom(organisation, now, asked is null ? 1 : 0) is { } full)
        {
            return full;
        }

        var changes = new List<Change> { Counted(organisation), new MemberTouched(member.Id, member.Version) };
        changes.AddRange(asked is null ? [] : [new InvitationDropped(asked.Id), Closed(organisation, member.Email, LinkEnd.Withdrawn)]);
        return Joined(organisation, member, manages, now, changes);
    }

    /// <summary>
    /// Somebody joins by the link of their letter. Who has no account gets one, and who has no password sets theirs: the link proves the address.
    /// </summary>
    /// <param name="organisation">The organisation; null where it is gone.</param>
    /// <param name="link">The link.</param>
    /// <param name="there">The account with that address, if there is one.</param>
    /// <param name="fresh">Name and password of who has none yet; null where they have.</param>
    /// <param name="now">The time.</param>
    public static Outcome<Edit<Member>> Accept(Organisation? organisation, SingleUseLink link, Member? there, Member? fresh, DateTimeOffset now)
    {
        if (organisation?.Invitations.FirstOrDefault(i => i.Email == link.Address) is not { } asked || !link.IsOpen(now))
        {
            return Problem.Of(ProblemKind.Conflict, "link-closed");
        }

        if (organisation.IsOver(now) || there?.Status is MemberStatus.Suspended or MemberStatus.Closed)
        {
            return Over(organisation);
        }

        var member = there is null ? fresh
            : there.PasswordHash is not null || fresh is null ? there
            : there with
            {
                PasswordHash = fresh.PasswordHash,
                Name = fresh.Name,
                Status = there.Status == MemberStatus.Invited ? MemberStatus.Active : there.Status,
            };
        if (member is null)
        {
            return Problem.In("password", "password-short", PasswordRules.Shortest);
        }

        var changes = new List<Change> { Counted(organisation), new InvitationDropped(asked.Id), new LinkUsed(link.Id) };
        if (there is null)
        {
            // With all they hold: nobody is ever there without.
            member = OrganisationGrants.Fit(organisation, member, true, now, []);
            changes.AddRange([new MemberAdded(member), new PersonPut(organisation.Id, new OrganisationPerson(member.Id, asked.Manages, now))]);
            return Told(organisation, member, changes, now);
        }

        changes.Add(member == there ? new MemberTouched(there.Id, there.Version)
            : new MemberSet(member = member with { Version = there.Version + 1 }, there.Version));
        if (organisation.PersonOf(there.Id) is not null)
        {
            return Told(organisation, member, changes, now);
        }

        var joined = Joined(organisation, member, asked.Manages, now, changes, out var after);
        return joined.Problem is { } problem ? problem : new Edit<Member>(joined.Value.ToStore, after);
    }

    /// <summary>Says whether somebody manages it. A manager does not leave it without one.</summary>
    public static Outcome<Edit<Organisation>> SetManages(Organisation? organisation, Member? member, bool manages, OrganisationActor by)
    {
        if (member is null || organisation?.PersonOf(member.Id) is not { } person)
        {
            return Missing(organisation);
        }

        if (person.Manages == manages)
        {
            return new Edit<Organisation>(new Edit("organisation.manager", organisation.Subject, []), organisation);
        }

        if (!manages && by.IsManager && IsLastManager(organisation, person))
        {
            return Problem.Of(ProblemKind.Conflict, "organisation-last-manager", organisation.Title);
        }

        var changed = person with { Manages = manages };
        var after = organisation with
        {
            Version = organisation.Version + 1,
            People = [.. organisation.People.Select(p => p.Member == member.Id ? changed : p)],
        };
        return new Edit<Organisation>(
            new Edit(manages ? "organisation.manager" : "organisation.no-manager", organisation.Subject,
                [Counted(organisation), new PersonPut(organisation.Id, changed)], null, member.Email), after);
    }

    /// <summary>Somebody belongs to it no longer: what they hold through it ends now. A manager does not leave it without one.</summary>
    public static Outcome<Edit<Organisation>> Leave(Organisation? organisation, Member? member, OrganisationActor by, DateTimeOffset now)
    {
        if (member is null || organisation?.PersonOf(member.Id) is not { } person)
        {
            return Missing(organisation);
        }

        if (by.IsManager && IsLastManager(organisation, person) && organisation.SeatsTaken > 1)
        {
            return Problem.Of(ProblemKind.Conflict, "organisation-last-manager", organisation.Title);
        }

        var changes = new List<Change> { Counted(organisation), new MemberTouched(member.Id, member.Version), new PersonDropped(organisation.Id, member.Id) };
        OrganisationGrants.Fit(organisation, member, false, now, changes);
        var after = organisation with { Version = organisation.Version + 1, People = [.. organisation.People.Where(p => p.Member != member.Id)] };
        return new Edit<Organisation>(
            new Edit("organisation.leave", organisation.Subject, changes, member.Email)
            {
                Notes = [new Edit("organisation.leave", member.Email, [], OrganisationGrants.Through(organisation, member, now))],
            },
            after);
    }

    private static Outcome<Edit<Organisation>> Joined(Organisation organisation, Member member, bool manages, DateTimeOffset now, List<Change> changes) =>
        Joined(organisation, member, manages, now, changes, out _);

    private static Outcome<Edit<Organisation>> Joined(
        Organisation organisation, Member member, bool manages, DateTimeOffset now, List<Change> changes, out Member after)
    {
        after = member;
        if (member.Grants.Count + organisation.Facts.Count > GrantCommands.MostOfOne)
        {
            return Problem.Of(ProblemKind.Conflict, "grant-many", member.Email, GrantCommands.MostOfOne);
        }

        var person = new OrganisationPerson(member.Id, manages, now);
        changes.Add(new PersonPut(organisation.Id, person));
        after = OrganisationGrants.Fit(organisation, member, true, now, changes);
        var edit = Told(organisation, after, changes, now).ToStore;
        var with = organisation with
        {
            Version = organisation.Version + 1,
            People = [.. organisation.People, person],
            Invitations = [.. organisation.Invitations.Where(i => i.Email != member.Email)],
        };
        return new Edit<Organisation>(edit, with);
    }

    private static Edit<Member> Told(Organisation organisation, Member member, List<Change> changes, DateTimeOffset now) => new(
        new Edit("organisation.join", organisation.Subject, changes, null, member.Email)
        {
            Notes = [new Edit("organisation.join", member.Email, [], null, OrganisationGrants.Through(organisation, member, now))],
        },
        member);

    private static Edit<OrganisationInvitation> Sending(string action, Organisation organisation, OrganisationInvitation sent, InvitationLink link) => new(
        new Edit(action, organisation.Subject,
            [
                Counted(organisation), new InvitationPut(organisation.Id, sent), Closed(organisation, sent.Email, LinkEnd.Replaced),
                new LinkAdded(new SingleUseLink(
                    Guid.CreateVersion7(), LinkPurpose.Organisation, link.Digest, organisation.Id, sent.Email, sent.SentAt, sent.Until)),
            ], null, sent.Email), sent);

    /// <summary>An organisation that invites, takes back and invites again is no machine for letters to strangers.</summary>
    private static Outcome<Edit<OrganisationInvitation>> Sent(
        string action, Organisation organisation, OrganisationInvitation sent, InvitationLink link, DateTimeOffset now) =>
        link.SentLately >= LettersBeside + (LettersASeat * organisation.Seats)
            ? Problem.Of(ProblemKind.TooMany, "organisation-letters", organisation.Title)
            : Sending(action, organisation, sent with { SentAt = now, Until = now + LinkLasts }, link);

    /// <summary>Its version counts on with whatever happens to its people: two who take the last seat at once meet there.</summary>
    private static OrganisationSet Counted(Organisation organisation) => new(organisation with { Version = organisation.Version + 1 }, organisation.Version);

    private static LinksClosed Closed(Organisation organisation, string? email, LinkEnd by) => new(LinkPurpose.Organisation, organisation.Id, email, by);

    private static OrganisationInvitation? Find(Organisation? organisation, Guid invitation) =>
        organisation?.Invitations.FirstOrDefault(i => i.Id == invitation);

    private static bool IsLastManager(Organisation organisation, OrganisationPerson person) =>
        person.Manages && !organisation.People.Any(p => p.Manages && p.Member != person.Member);

    private static Problem? NoRoom(Organisation organisation, DateTimeOffset now, int more = 1) => organisation.IsOver(now) ? Over(organisation)
        : organisation.SeatsTaken + more > organisation.Seats ? Problem.Of(ProblemKind.Conflict, "organisation-full", organisation.Title, organisation.Seats)
        : null;

    private static Problem Over(Organisation organisation) => Problem.Of(ProblemKind.Conflict, "organisation-over", organisation.Title);

    private static Problem Missing(Organisation? organisation) =>
        organisation is null ? OrganisationCommands.Unknown : Problem.Of(ProblemKind.NotFound, "organisation-person-unknown", organisation.Title);
}
