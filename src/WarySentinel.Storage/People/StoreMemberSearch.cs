using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>Members by any part of a name or address.</summary>
public sealed partial class Store
{
    private const int Window = 5_000;

    /// <summary>As far as members are walked through in their order where the first few thousand promise a full page by then.</summary>
    private const int WidestWindow = 40_000;

    /// <summary>So many hits among the first few thousand say how dense they stand.</summary>
    private const int Telling = 8;

    /// <summary>Says that names are folded as <see cref="Spelling.Folded"/> folds them now.</summary>
    private const string FoldedMark = "folded:2";

    /// <summary>A part that is shorter is in no index of trigrams.</summary>
    private const int ShortestIndexed = 3;

    /// <summary>Letters and signs that nearly every name or address has: the index of the others (IX_members_Signs) leaves them out.</summary>
    private const string EverySign = "aeiorntslcdmh0123456789@. \n";

    /// <summary>Who has a sign that not everybody has, in the words of its index.</summary>
    private const string HasSign = $$"""
        SELECT "Id" AS "Value" FROM members WHERE string_to_array(translate("Search", '{{EverySign}}', ''), NULL) @> ARRAY[{0}] AND "Email" > {1}
        ORDER BY "Email" || '' LIMIT {2}
        """;

    /// <summary>What can follow a letter in a text of printable ASCII, folded; a new line stands between name and address.</summary>
    private static readonly char[] Followers = ['\n', .. Enumerable.Range(' ', '~' - ' ' + 1).Select(c => (char)c).Where(c => !char.IsAsciiLetterUpper(c))];

    /// <summary>
    /// Members in their order. Where many match, the page is full after a look at the next few thousand; where few do, an index finds them: of what they
    /// hold, of where they stand, of dates, of trigrams (pg_trgm on PostgreSQL, FTS5 on SQLite).
    /// </summary>
    public async Task<IReadOnlyList<Member>> MembersAsync(MemberQuery asked, CancellationToken stop = default)
    {
        await using var db = open();
        await using var mapped = await MappedPages.OfAsync(db, stop);
        var part = Spelling.Folded(asked.Search?.Trim() ?? "");
        var (from, few) = await SuchAsync(db, asked, stop);
        if (few || asked.IsAll)
        {
            return await LoadAsync(MemberOrder.Next(few ? from.Where(m => m.Search.Contains(part)) : from, asked), stop);
        }

        var near = await NearAsync(db, asked, part, Window, stop);
        if (near.Count < asked.Most && near.Count >= Telling && Window * 3L / 2 * asked.Most / near.Count is <= WidestWindow and var wider
            && await IsCommonAsync(db, part, (int)wider, stop))
        {
            // Many have it: to sort all of them takes longer than to walk on until the page is full.
            near = await NearAsync(db, asked, part, (int)wider, stop);
        }

        if (near.Count == asked.Most)
        {
            return near;
        }

        if (part.Length == 0)
        {
            return await LoadAsync(MemberOrder.Next(from, asked), stop);
        }

        return await LoadAsync(db is PostgresContext ? await SparseAsync(db, from, asked, part, stop) : await SparseTextsAsync(db, asked, part, stop), stop);
    }

    /// <summary>Those whom all but the part of a name lets through; and whether they are so few that each can be looked at.</summary>
    private async Task<(IQueryable<MemberRow> Such, bool Few)> SuchAsync(StoreContext db, MemberQuery asked, CancellationToken stop)
    {
        var now = time.GetUtcNow();
        foreach (var candidates in MemberOrder.Candidates(db, asked, now))
        {
            var ids = await candidates.Take(Window + 1).ToListAsync(stop);
            if (ids.Count <= Window)
            {
                return (MemberOrder.Such(Among(db, [.. ids.Distinct()]), asked, now, db), true);
            }
        }

        return (MemberOrder.Such(db.Members, asked, now, db), false);
    }

    /// <summary>Those of these ids: looked up one by one, which the database would not do where an index gives it an order.</summary>
    private static IQueryable<MemberRow> Among(StoreContext db, IReadOnlyCollection<Guid> ids) => db.Members.Where(m => ids.Contains(m.Id)).Take(int.MaxValue);

    /// <summary>PostgreSQL's answer to who has a part; null where its indexes know nothing of such a one.</summary>
    private static async Task<List<Guid>?> HitsAsync(StoreContext db, string part, string after, int most, CancellationToken stop)
    {
        // While the indexes rest, what they are asked by for a letter or two would take forty times as long as a look at everybody.
        var rest = part.Length < ShortestIndexed && await HowManyAsync(db, true, stop) < SearchIndexes.Length;
        var hits = rest ? Part(db, part, after, most) : Trigrams(db, part, after, most);
        return hits is null ? null : await hits.ToListAsync(stop);
    }

    /// <summary>Those among the next few thousand in their order whom it lets through; where that fills a page, it is the page.</summary>
    private Task<IReadOnlyList<Member>> NearAsync(StoreContext db, MemberQuery asked, string part, int window, CancellationToken stop)
    {
        var (now, wide) = (time.GetUtcNow(), asked.Widened(window));
        var next = MemberOrder.Next(MemberOrder.Such(db.Members, wide, now, db), wide);
        return LoadAsync(MemberOrder.Next(MemberOrder.Such(next, asked, now, db).Where(m => m.Search.Contains(part)), asked), stop);
    }

    private async Task<IQueryable<MemberRow>> SparseAsync(
        StoreContext db, IQueryable<MemberRow> from, MemberQuery asked, string part, CancellationToken stop)
    {
        var byAddress = asked.Sort == MemberSort.Email && !asked.Descending;
        // Of whom more is asked than a part, all who have it are found first, unless they are many: then the next is found on the way.
        var found = await HitsAsync(db, part, byAddress ? asked.After ?? "" : "", byAddress && asked.IsPlain ? asked.Most : Window + 1, stop);
        if (byAddress && asked.IsPlain && found is not null)
        {
            return MemberOrder.Next(Among(db, found), asked);
        }

        var such = found is { Count: <= Window } ? MemberOrder.Such(Among(db, found), asked, time.GetUtcNow(), db)
            : from.Where(m => m.Search.Contains(part));
        if (!byAddress)
        {
            return MemberOrder.Next(such, asked);
        }

        // Not in the order of the index of addresses: those who have it may all stand at its far end, each row of the way read by itself.
        var ids = await such.OrderBy(m => m.Email + "").Take(asked.Most).Select(m => m.Id).ToListAsync(stop);
        return MemberOrder.Next(Among(db, ids), asked);
    }

    /// <summary>
    /// By the index of trigrams (pg_trgm); null where it knows nothing of such a part. Two English letters are in it with each letter that can follow
    /// them, and with the end of a word, which whatever is no letter makes; texts with other letters have an index of their own, and so do single signs.
    /// </summary>
    private static IQueryable<Guid>? Trigrams(StoreContext db, string part, string after, int most)
    {
        if (part.Length >= ShortestIndexed)
        {
            return Part(db, part, after, most);
        }

        if (part.EnumerateRunes().Count() == 1 && !EverySign.Contains(part, StringComparison.Ordinal))
        {
            return db.Database.SqlQueryRaw<Guid>(HasSign, part, after, most);
        }

        if (part.Length < 2 || !part.All(char.IsAsciiLetterOrDigit))
        {
            return null;
        }

        var pattern = "%" + Like(part) + "%";
        string[] longer = [.. Followers.Select(c => $"%{part}{(c is '%' or '_' or '\\' ? "\\" : "")}{c}%"), "%" + part];
        return db.Database.SqlQuery<Guid>($"""
            WITH hits AS MATERIALIZED (
                SELECT "Id", "Email" FROM members WHERE "Search" LIKE ANY ({longer}) AND "Email" > {after}
                UNION SELECT "Id", "Email" FROM members WHERE "Search" ~ '[^\n -~]' AND "Search" LIKE {pattern} AND "Email" > {after})
            SELECT "Id" AS "Value" FROM hits ORDER BY "Email" LIMIT {most}
            """);
    }

    /// <summary>Hits are kept apart, so that members are not walked through in the order of addresses instead.</summary>
    private static IQueryable<Guid> Part(StoreContext db, string part, string after, int most)
    {
        var pattern = "%" + Like(part) + "%";
        return db.Database.SqlQuery<Guid>($"""
            WITH hits AS MATERIALIZED (SELECT "Id", "Email" FROM members WHERE "Search" LIKE {pattern} AND "Email" > {after})
            SELECT "Id" AS "Value" FROM hits ORDER BY "Email" LIMIT {most}
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
