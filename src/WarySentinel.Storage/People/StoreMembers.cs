using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>Members: found, listed, counted.</summary>
public sealed partial class Store
{
    /// <summary>So many addresses are asked for at once: written out in one text, more of them have the whole heap looked through.</summary>
    private const int AddressesAtOnce = 1000;

    /// <summary>
    /// Says that the first thousands of members came, and more will. PostgreSQL plans a prepared statement by what it last counted: where that was next
    /// to nothing, each look at a thousand addresses goes through all members until it counts by itself, about a minute later.
    /// </summary>
    public async Task ManyMembersCameAsync()
    {
        await using var db = open();
        if (db is PostgresContext)
        {
            await db.Database.ExecuteSqlRawAsync("""ANALYZE (SKIP_LOCKED) members ("Id", "Email"), grants ("MemberId")""");
        }
    }

    /// <summary>Says that members by the thousand are stored, so that the next search need not look through what waits beside the index.</summary>
    public async Task EndOfManyMembersAsync()
    {
        await using var db = open();
        if (db is PostgresContext)
        {
            await db.Database.ExecuteSqlRawAsync("""
                SELECT gin_clean_pending_list(i) FROM unnest(ARRAY[to_regclass('"IX_members_Search"'), to_regclass('"IX_members_Signs"')]) AS i
                WHERE i IS NOT NULL
                """);
        }
    }

    /// <summary>The member of that id, or null.</summary>
    public async Task<Member?> MemberAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.MemberAsync(id, stop))?.ToMember();
    }

    /// <summary>The member who signs in with that e-mail address or user name (normalised), or null.</summary>
    public async Task<Member?> MemberByNameAsync(string name, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.MemberAsync(name, stop))?.ToMember();
    }

    /// <summary>The members of those ids that are there.</summary>
    public async Task<IReadOnlyDictionary<Guid, Member>> MembersAsync(IReadOnlyCollection<Guid> ids, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.Members.AsNoTracking().Include(m => m.Grants).Where(m => ids.Contains(m.Id)).ToListAsync(stop);
        return rows.ToDictionary(m => m.Id, m => m.ToMember());
    }

    /// <summary>The members with those e-mail addresses that are there, by address.</summary>
    public async Task<IReadOnlyDictionary<string, Member>> MembersByEmailAsync(IReadOnlyCollection<string> emails, CancellationToken stop = default)
    {
        await using var db = open();
        var there = new Dictionary<string, Member>(StringComparer.Ordinal);
        foreach (var some in emails.Chunk(AddressesAtOnce))
        {
            // PostgreSQL may go through all members, and for each through all addresses, where it holds the table for small: it is told where they lie.
            var such = db is PostgresContext ? db.Members.FromSql($"""
                SELECT m.* FROM members AS m JOIN unnest({some}) AS e(address) ON e.address = m."Email"
                WHERE m."Email" BETWEEN (SELECT min(a) FROM unnest({some}) AS a) AND (SELECT max(a) FROM unnest({some}) AS a)
                """) : db.Members.Where(m => EF.Parameter(some).Contains(m.Email));
            foreach (var row in await such.AsNoTracking().Include(m => m.Grants).ToListAsync(stop))
            {
                there[row.Email] = row.ToMember();
            }
        }

        return there;
    }

    /// <summary>Whom another program means by a name; null where it has told of nobody by that.</summary>
    public async Task<OutsideKey?> OutsideKeyAsync(string source, string key, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.OutsideKeys.AsNoTracking().FirstOrDefaultAsync(k => k.Source == source && k.Key == key, stop))?.ToKey();
    }

    /// <summary>The names by which other programs know a member.</summary>
    public async Task<IReadOnlyList<OutsideKey>> OutsideKeysAsync(Guid member, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.OutsideKeys.AsNoTracking().Where(k => k.MemberId == member).OrderBy(k => k.Source).ThenBy(k => k.Key).Take(most).ToListAsync(stop);
        return [.. rows.Select(k => k.ToKey())];
    }

    /// <summary>The names by which a program knows members, with their addresses, in the order of names.</summary>
    public async Task<IReadOnlyList<(OutsideKey Key, string Email)>> OutsideKeysAsync(string source, string after, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.OutsideKeys.AsNoTracking().Where(k => k.Source == source && k.Key.CompareTo(after) > 0).OrderBy(k => k.Key).Take(most)
            .Join(db.Members, k => k.MemberId, m => m.Id, (k, m) => new { Key = k, m.Email }).ToListAsync(stop);
        return [.. rows.OrderBy(r => r.Key.Key, StringComparer.Ordinal).Select(r => (r.Key.ToKey(), r.Email))];
    }

    /// <summary>What staff noted of a member, newest first.</summary>
    public async Task<IReadOnlyList<MemberNote>> NotesAsync(Guid member, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.MemberNotes.AsNoTracking().Where(n => n.MemberId == member).OrderByDescending(n => n.At).ToListAsync(stop);
        return [.. rows.Select(n => n.ToNote())];
    }

    /// <summary>Whether somebody has that e-mail address.</summary>
    public async Task<bool> IsMemberAsync(string email, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Members.AnyAsync(m => m.Email == email, stop);
    }

    /// <summary>How many members there are.</summary>
    public async Task<int> MemberCountAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Members.CountAsync(stop);
    }

    /// <summary>The active members with a role in force. Costs what the role has of holders.</summary>
    public async Task<IReadOnlyList<Member>> ActiveWithRoleAsync(string role, CancellationToken stop = default)
    {
        await using var db = open();
        var holders = db.ActiveHolders(db.Grants, FactKind.Role, role, time.GetUtcNow());
        var rows = await db.Members.AsNoTracking().Include(m => m.Grants).Where(m => holders.Contains(m.Id)).ToListAsync(stop);
        return [.. rows.Select(m => m.ToMember())];
    }

    /// <summary>Whether an active member holds a role now.</summary>
    public async Task<bool> IsRoleHeldAsync(string role, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.ActiveHolders(db.Grants, FactKind.Role, role, time.GetUtcNow()).AnyAsync(stop);
    }

    /// <summary>How many members hold a role, group or plan that is not over.</summary>
    public async Task<int> HoldersAsync(FactKind kind, string key, CancellationToken stop = default)
    {
        if (kind == FactKind.Pass)
        {
            return (await PassesByKindAsync(stop)).GetValueOrDefault(key);
        }

        await using var db = open();
        var now = time.GetUtcNow();
        return await db.Grants.Where(g => g.Kind == (int)kind && g.Key == key && (g.Until == null || g.Until > now)).Select(g => g.MemberId).Distinct()
            .CountAsync(stop);
    }

    /// <summary>How many members hold each role, group and plan that is not over.</summary>
    public async Task<IReadOnlyDictionary<(FactKind Kind, string Key), int>> HoldersAsync(CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        var counts = await db.Grants.Where(g => g.Until == null || g.Until > now).GroupBy(g => new { g.Kind, g.Key })
            .Select(g => new { g.Key.Kind, g.Key.Key, Count = g.Select(x => x.MemberId).Distinct().Count() }).ToListAsync(stop);
        var held = counts.ToDictionary(c => ((FactKind)c.Kind, c.Key), c => c.Count);
        foreach (var (kind, count) in await PassesByKindAsync(stop))
        {
            held[(FactKind.Pass, kind)] = count;
        }

        return held;
    }
}
