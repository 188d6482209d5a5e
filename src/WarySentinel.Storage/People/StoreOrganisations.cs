using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>An organisation as a list shows it.</summary>
public sealed record OrganisationLine(Organisation Organisation, int People, int Invited);

/// <summary>Organisations.</summary>
public sealed partial class Store
{
    private const int MostOfOneMember = 100;

    /// <summary>The organisation of that key, with its people, or null.</summary>
    public Task<Organisation?> OrganisationAsync(string key, CancellationToken stop = default) => OrganisationAsync(o => o.Key == key, stop);

    /// <summary>The organisation of that id, with its people, or null.</summary>
    public Task<Organisation?> OrganisationAsync(Guid id, CancellationToken stop = default) => OrganisationAsync(o => o.Id == id, stop);

    /// <summary>Organisations by key; those with a part in their title or key, where one is said.</summary>
    /// <param name="part">The part, however it is written.</param>
    /// <param name="after">The key after which the page begins.</param>
    /// <param name="most">So many at most.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<OrganisationLine>> OrganisationsAsync(string? part, string after, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var folded = Spelling.Folded(part?.Trim() ?? "");
        var rows = await db.Organisations.AsNoTracking().Include(o => o.Facts)
            .Where(o => o.Key.CompareTo(after) > 0 && (folded == "" || o.Search.Contains(folded))).OrderBy(o => o.Key).Take(most)
            .Select(o => new { Row = o, o.Facts, People = o.People.Count, Invited = o.Invitations.Count }).ToListAsync(stop);
        return [.. rows.Select(r => new OrganisationLine(r.Row.ToOrganisation(), r.People, r.Invited))];
    }

    /// <summary>The organisations that a member belongs to, with all their people.</summary>
    public async Task<IReadOnlyList<Organisation>> OrganisationsOfAsync(Guid member, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await Whole(db).Where(o => o.People.Any(p => p.MemberId == member)).OrderBy(o => o.Key).Take(MostOfOneMember).ToListAsync(stop);
        return [.. rows.Select(o => o.ToOrganisation())];
    }

    /// <summary>The first of the organisations that are given a role, group, plan or item, by key.</summary>
    public async Task<IReadOnlyList<string>> OrganisationsGivenAsync(FactKind kind, string key, int most, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Organisations.Where(o => o.Facts.Any(f => f.Kind == (int)kind && f.Key == key)).OrderBy(o => o.Key).Select(o => o.Key).Take(most)
            .ToListAsync(stop);
    }

    private async Task<Organisation?> OrganisationAsync(
        System.Linq.Expressions.Expression<Func<OrganisationRow, bool>> such, CancellationToken stop)
    {
        await using var db = open();
        return (await Whole(db).FirstOrDefaultAsync(such, stop))?.ToOrganisation();
    }

    private static IQueryable<OrganisationRow> Whole(StoreContext db) =>
        db.Organisations.AsNoTracking().Include(o => o.Facts).Include(o => o.People).Include(o => o.Invitations).AsSplitQuery();
}
