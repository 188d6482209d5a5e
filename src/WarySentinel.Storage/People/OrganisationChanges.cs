using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;

namespace WarySentinel.Storage.People;

/// <summary>How organisations are stored. The version of an organisation's row tells two writers of it apart.</summary>
internal static class OrganisationChanges
{
    private static readonly string[] Whole =
    [
        nameof(OrganisationRow.Title), nameof(OrganisationRow.Seats), nameof(OrganisationRow.Until), nameof(OrganisationRow.Version),
        nameof(OrganisationRow.Search),
    ];

    public static void Register(Writers writers)
    {
        writers.Gather<OrganisationAdded>((w, added) =>
        {
            w.Rows.Insert(OrganisationRow.Of(added.Organisation));
            Insert(w, added.Organisation.Id, added.Organisation.Facts);
        });
        // Its row first: whoever else changes it waits there, before anything of it is touched.
        writers.On<OrganisationSet>(async (w, set) =>
        {
            w.Rows.Update(OrganisationRow.Of(set.Organisation), Whole, set.Was);
            await w.Rows.SendAsync(w.Stop);
        });
        writers.On<OrganisationFactsSet>(async (w, set) =>
        {
            await w.Db.OrganisationFacts.Where(f => f.OrganisationId == set.Organisation).ExecuteDeleteAsync(w.Stop);
            Insert(w, set.Organisation, set.Facts);
        });
        writers.On<OrganisationRemoved>(async (w, removed) =>
        {
            await w.Rows.SendAsync(w.Stop);
            await w.Db.Organisations.Where(o => o.Id == removed.Organisation).ExecuteDeleteAsync(w.Stop);
        });
        writers.On<PersonPut>(async (w, put) =>
        {
            await w.Db.OrganisationPeople.Where(p => p.OrganisationId == put.Organisation && p.MemberId == put.Person.Member).ExecuteDeleteAsync(w.Stop);
            w.Rows.Insert(OrganisationPersonRow.Of(put.Organisation, put.Person));
        });
        writers.On<PersonDropped>((w, dropped) => w.Db.OrganisationPeople
            .Where(p => p.OrganisationId == dropped.Organisation && p.MemberId == dropped.Member).ExecuteDeleteAsync(w.Stop));
        writers.On<InvitationPut>(async (w, put) =>
        {
            await w.Db.OrganisationInvitations.Where(i => i.Id == put.Invitation.Id).ExecuteDeleteAsync(w.Stop);
            w.Rows.Insert(OrganisationInvitationRow.Of(put.Organisation, put.Invitation));
        });
        writers.On<InvitationDropped>((w, dropped) => w.Db.OrganisationInvitations.Where(i => i.Id == dropped.Id).ExecuteDeleteAsync(w.Stop));
        writers.Also<GrantsMoved>(MoveAsync);
        writers.Also<MemberErased>((w, erased) => w.Db.OrganisationInvitations.Where(i => i.Email == erased.Email).ExecuteDeleteAsync(w.Stop));
    }

    /// <summary>What is given to organisations goes the way of what is given to members.</summary>
    private static async Task MoveAsync(Writing w, GrantsMoved moved)
    {
        var given = w.Db.OrganisationFacts.Where(f => f.Kind == (int)moved.Kind && f.Key == moved.Key);
        await w.Db.Organisations.Where(o => given.Any(f => f.OrganisationId == o.Id))
            .ExecuteUpdateAsync(set => set.SetProperty(o => o.Version, o => o.Version + 1), w.Stop);
        if (moved.To is { } to)
        {
            var there = w.Db.OrganisationFacts.Where(f => f.Kind == (int)moved.Kind && f.Key == to);
            // Where both are given, the longer counts, as with members.
            await there.Where(o => o.Until != null && given.Any(f => f.OrganisationId == o.OrganisationId && (f.Until == null || f.Until > o.Until)))
                .ExecuteUpdateAsync(set => set.SetProperty(o => o.Until, o => given.First(f => f.OrganisationId == o.OrganisationId).Until), w.Stop);
            await given.Where(f => !there.Any(o => o.OrganisationId == f.OrganisationId)).ExecuteUpdateAsync(set => set.SetProperty(f => f.Key, to), w.Stop);
        }

        await given.ExecuteDeleteAsync(w.Stop);
    }

    private static void Insert(Writing w, Guid organisation, IReadOnlyList<OrganisationFact> facts)
    {
        for (var i = 0; i < facts.Count; i++)
        {
            w.Rows.Insert(OrganisationFactRow.Of(organisation, facts[i], i));
        }
    }
}
