using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>What is known of a link that somebody followed.</summary>
/// <param name="Link">The link.</param>
/// <param name="Organisation">What it is about; null where that is gone.</param>
/// <param name="There">The account of its address, if there is one.</param>
public sealed record FollowedLink(SingleUseLink Link, Organisation? Organisation, Member? There)
{
    /// <summary>Whether name and password are to be asked for.</summary>
    public bool NeedsPassword => There?.PasswordHash is null;

    /// <summary>Whether it leads anywhere at that time.</summary>
    public bool IsOpen(DateTimeOffset now) =>
        Link.IsOpen(now) && Organisation is not null && !Organisation.IsOver(now) && Organisation.Invitations.Any(i => i.Email == Link.Address);

    /// <summary>Whether it only came too late, and another can be sent.</summary>
    public bool IsLate(DateTimeOffset now) => Link.ClosedAt is null && Link.Until <= now && Organisation is not null && !Organisation.IsOver(now)
        && Organisation.Invitations.Any(i => i.Email == Link.Address);
}

/// <summary>Changes organisations and who belongs to them: for staff, for their own managers, and for whoever is asked to join.</summary>
public sealed class Organisations(
    Store store, PolicyHolder policies, PeopleLane people, PasswordHashing passwords, PasswordRules rules, ILetters letters,
    TimeProvider time)
{
    private static readonly TimeSpan Lately = TimeSpan.FromDays(1);

    /// <summary>Adds an organisation.</summary>
    public Task<Outcome<Organisation>> AddAsync(OrganisationDraft draft, string by) =>
        people.ChangeAsync(() => Task.FromResult(OrganisationCommands.Add(policies.Current, draft, time.GetUtcNow())), by);

    /// <summary>Runs a command about an organisation with the accounts of its people.</summary>
    public Task<Outcome<T>> ChangeAsync<T>(
        string key, Func<Organisation?, IReadOnlyCollection<Member>, Policy, DateTimeOffset, Outcome<Edit<T>>> command, string by, CancellationToken stop) =>
        people.ChangeAsync(
            async () =>
            {
                var (found, members) = await FindAsync(key, stop);
                return command(found, members, policies.Current, time.GetUtcNow());
            },
            by);

    /// <summary>Runs a command about an organisation and one account.</summary>
    public Task<Outcome<T>> ChangeAsync<T>(
        string key, Guid member, Func<Organisation?, Member?, DateTimeOffset, Outcome<Edit<T>>> command, string by, CancellationToken stop) =>
        people.ChangeAsync(
            async () => command(await store.OrganisationAsync(key, stop), await store.MemberAsync(member, stop), time.GetUtcNow()), by);

    /// <summary>The organisation of that key, and the accounts of its people.</summary>
    public async Task<(Organisation? Organisation, IReadOnlyCollection<Member> People)> FindAsync(string key, CancellationToken stop)
    {
        var found = CatalogueKey.IsValid(key) ? await store.OrganisationAsync(key, stop) : null;
        return (found, found is null ? [] : [.. (await store.MembersAsync([.. found.People.Select(p => p.Member)], stop)).Values]);
    }

    /// <summary>Asks somebody to join: the invitation and its letter are stored together.</summary>
    /// <param name="key">The organisation.</param>
    /// <param name="email">Their address.</param>
    /// <param name="manages">Whether they are to manage it.</param>
    /// <param name="actor">Who asks.</param>
    /// <param name="name">Their name, as the letter says it; null for the site itself.</param>
    /// <param name="stop">Cancels.</param>
    public Task<Outcome<OrganisationInvitation>> InviteAsync(
        string key, string? email, bool manages, OrganisationActor actor, string? name, CancellationToken stop) => SendAsync(
        key, (found, members, link, now) => OrganisationPeople.Invite(found, email, manages, members, link, actor, now), actor.Name, name, stop);

    /// <summary>Writes again to somebody who was asked.</summary>
    public Task<Outcome<OrganisationInvitation>> RemindAsync(string key, Guid invitation, string by, string? name, CancellationToken stop) =>
        SendAsync(key, (found, _, link, now) => OrganisationPeople.Remind(found, invitation, link, now), by, name, stop);

    /// <summary>What a link leads to, or null where there is no such link.</summary>
    public async Task<FollowedLink?> FollowAsync(string? secret, CancellationToken stop)
    {
        if (!LinkSecret.IsOne(secret)
            || await store.LinkAsync(Secrets.DigestOf(secret), stop) is not { Purpose: LinkPurpose.Organisation } link)
        {
            return null;
        }

        return new FollowedLink(link, await store.OrganisationAsync(link.Subject, stop), await store.MemberByNameAsync(link.Address, stop));
    }

    /// <summary>Joins by a link. Who has no password yet says name and password.</summary>
    public async Task<Outcome<Member>> AcceptAsync(string? secret, string? name, string? password, CancellationToken stop)
    {
        if (await FollowAsync(secret, stop) is not { } asked || !asked.IsOpen(time.GetUtcNow()))
        {
            return Closed;
        }

        Member? fresh = null;
        if (asked.NeedsPassword)
        {
            var draft = new MemberDraft { Email = asked.Link.Address, Name = name, Password = password ?? "" };
            var read = MemberCommands.Read(policies.Current, draft, Guid.CreateVersion7(), time.GetUtcNow(), rules);
            if (read.Problem is { } problem)
            {
                return problem;
            }

            var hash = await passwords.TryHashAsync(password!, stop);
            if (hash.Problem is { } busy)
            {
                return busy;
            }

            fresh = read.Value with { PasswordHash = hash.Value };
        }

        return await people.ChangeAsync(
            async () => await FollowAsync(secret, stop) is { } followed
                ? OrganisationPeople.Accept(followed.Organisation, followed.Link, followed.There, fresh, time.GetUtcNow()) : Closed,
            asked.Link.Address);
    }

    /// <summary>Sends another letter in place of one that came too late. Says nothing of what came of it.</summary>
    public async Task AskAgainAsync(string? secret, CancellationToken stop)
    {
        if (await FollowAsync(secret, stop) is { Organisation: { } organisation } followed && followed.IsLate(time.GetUtcNow()))
        {
            var invitation = organisation.Invitations.First(i => i.Email == followed.Link.Address);
            await RemindAsync(organisation.Key, invitation.Id, followed.Link.Address, null, stop);
        }
    }

    private static Problem Closed => Problem.Of(ProblemKind.Conflict, "link-closed");

    private Task<Outcome<OrganisationInvitation>> SendAsync(
        string key, Func<Organisation?, IReadOnlyCollection<Member>, InvitationLink, DateTimeOffset, Outcome<Edit<OrganisationInvitation>>> command, string by,
        string? name, CancellationToken stop)
    {
        var secret = LinkSecret.New();
        return people.ChangeAsync(
            async () =>
            {
                var (found, members) = await FindAsync(key, stop);
                var now = time.GetUtcNow();
                var lately = found is null ? 0 : await store.LinksSinceAsync(found.Id, now - Lately, stop);
                var sent = command(found, members, new InvitationLink(Secrets.DigestOf(secret), lately), now);
                if (sent.Problem is not null)
                {
                    return sent;
                }

                var (edit, invitation) = (sent.Value.ToStore, sent.Value.Value);
                var reader = members.FirstOrDefault(m => m.Email == invitation.Email)?.Language;
                var letter = letters.Write(
                    "organisation-invitation", new LetterReader(invitation.Email, null, reader), ("organisation", found!.Title),
                    ("link", letters.LinkTo("/join", secret)), ("until", letters.Day(invitation.Until, reader)), ("by", name));
                return new Edit<OrganisationInvitation>(edit with { Changes = [.. edit.Changes, letter] }, invitation);
            },
            by);
    }
}
