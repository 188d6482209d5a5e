using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>Members by any part of a name or address.</summary>
public sealed partial class Store
{
    private const int Window = 5_000;

    /// <summary>Says that names are folded as <see cref="Folded"/> folds them now.</summary>
    private const string FoldedMark = "folded:1";

    /// <summary>A part that is shorter is in no index of trigrams.</summary>
    private const int ShortestIndexed = 3;

    /// <summary>
    /// Members by e-mail address, from the one after <paramref name="after"/>. Where many match, the page is full after a look at the next few thousand;
    /// where few do, an index of trigrams finds them (pg_trgm on PostgreSQL, FTS5 on SQLite).
    /// </summary>
    public async Task<IReadOnlyList<Member>> MembersAsync(string? after, int most, string? search, CancellationToken stop = default)
    {
        await using var db = open();
        var part = Folded.Of(search?.Trim() ?? "");
        var from = after is null ? db.Members.AsNoTracking() : db.Members.AsNoTracking().Where(m => m.Email.CompareTo(after) > 0);
        if (part.Length == 0)
        {
            return await LoadAsync(from.OrderBy(m => m.Email).Take(most), stop);
        }

        var near = await from.OrderBy(m => m.Email).Take(Window).Where(m => m.Search.Contains(part)).OrderBy(m => m.Email).Take(most)
            .Select(m => m.Id).ToListAsync(stop);
        var found = near.Count == most ? near : await SparseAsync(db, from, part, most, stop);
        return await LoadAsync(db.Members.AsNoTracking().Where(m => found.Contains(m.Id)).OrderBy(m => m.Email), stop);
    }

    private static async Task<List<Guid>> SparseAsync(StoreContext db, IQueryable<MemberRow> from, string part, int most, CancellationToken stop)
    {
        if (part.Length < ShortestIndexed)
        {
            return await from.Where(m => m.Search.Contains(part)).OrderBy(m => m.Email).Take(most).Select(m => m.Id).ToListAsync(stop);
        }

        var hits = db is PostgresContext ? Trigrams(db, part) : Fts(db, part);
        return await from.Where(m => hits.Contains(m.Id)).OrderBy(m => m.Email).Take(most).Select(m => m.Id).ToListAsync(stop);
    }

    private static IQueryable<Guid> Trigrams(StoreContext db, string part)
    {
        var pattern = "%" + part.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal)
            .Replace("_", "\\_", StringComparison.Ordinal) + "%";
        // Kept apart, so that it is not walked through in the order of addresses instead.
        return db.Database.SqlQuery<Guid>($"""
            WITH hits AS MATERIALIZED (SELECT "Id" AS "Value" FROM members WHERE "Search" LIKE {pattern}) SELECT "Value" FROM hits
            """);
    }

    private static IQueryable<Guid> Fts(StoreContext db, string part)
    {
        // The characters that GLOB reads otherwise stand between brackets; trigrams of the rest find the candidates.
        var pattern = "*" + string.Concat(part.Select(c => c is '*' or '?' or '[' ? $"[{c}]" : c.ToString())) + "*";
        return db.Database.SqlQuery<Guid>($"""
            SELECT t."MemberId" AS "Value" FROM member_texts AS t
            WHERE t."Number" IN (SELECT rowid FROM member_search WHERE "Text" GLOB {pattern})
            """);
    }

    private static async Task<IReadOnlyList<Member>> LoadAsync(IQueryable<MemberRow> asked, CancellationToken stop) =>
        [.. (await asked.Include(m => m.Grants).ToListAsync(stop)).Select(m => m.ToMember())];

    /// <summary>Folds names that the database could not fold when it was brought up to date: those of other letters than English.</summary>
    private static async Task RefoldAsync(StoreContext db, CancellationToken stop)
    {
        var last = Guid.Empty;
        while (true)
        {
            var rows = await db.Members.Where(m => m.Id.CompareTo(last) > 0).OrderBy(m => m.Id).Take(2000).ToListAsync(stop);
            if (rows.Count == 0)
            {
                return;
            }

            rows.ForEach(r => r.Search = MemberRow.SearchOf(r.Name, r.Email, r.UserName));
            await db.SaveChangesAsync(stop);
            db.ChangeTracker.Clear();
            last = rows[^1].Id;
        }
    }
}
