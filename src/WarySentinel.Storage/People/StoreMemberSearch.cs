using System.Runtime.CompilerServices;
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
    private const int WidestWindow = 20_000;

    /// <summary>So many hits among the first few thousand say how dense they stand.</summary>
    private const int Telling = 8;

    /// <summary>Says that names are folded as <see cref="Spelling.Folded"/> folds them now.</summary>
    private const string FoldedMark = "folded:2";

    /// <summary>A part that is shorter is in no index of trigrams.</summary>
    private const int ShortestIndexed = 3;

    /// <summary>Letters and signs that nearly every name or address has: the index of the others (IX_members_Signs) leaves them out.</summary>
    private const string EverySign = MostSigns + "\n";

    private const string MostSigns = "aeiorntslcdmh0123456789@. ";

    /// <summary>Who has a sign that not everybody has, in the words of its index; a line's end would be followed by what a query is indented by.</summary>
    private const string HasSign = $$"""
        SELECT * FROM members WHERE string_to_array(translate("Search", E'{{MostSigns}}\n', ''), NULL) @> ARRAY[{0}] OFFSET 0
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

        return await LoadAsync(db is PostgresContext ? await SparseAsync(db, asked, part, stop) : await SparseTextsAsync(db, asked, part, stop), stop);
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

    /// <summary>Those among the next few thousand in their order whom it lets through; where that fills a page, it is the page.</summary>
    private Task<IReadOnlyList<Member>> NearAsync(StoreContext db, MemberQuery asked, string part, int window, CancellationToken stop)
    {
        var (now, wide) = (time.GetUtcNow(), asked.Widened(window));
        var next = MemberOrder.Next(MemberOrder.Such(db.Members, wide, now, db), wide);
        return LoadAsync(MemberOrder.Next(MemberOrder.Such(next, asked, now, db).Where(m => m.Search.Contains(part)), asked), stop);
    }

    /// <summary>
    /// The next of those who have a part, on PostgreSQL: found first, and put in order then. By the index of that order they would be met soon only if they
    /// stood all over it, as PostgreSQL takes for granted.
    /// </summary>
    private async Task<IQueryable<MemberRow>> SparseAsync(StoreContext db, MemberQuery asked, string part, CancellationToken stop)
    {
        // While the indexes rest, what they are asked by for a letter or two would take forty times as long as a look at everybody.
        var rest = part.Length < ShortestIndexed && await HowManyAsync(db, true, stop) < SearchIndexes.Length;
        var (sql, now) = (rest ? Having(part) : Indexed(part), time.GetUtcNow());
        // One in a hundred tells how far it is to a full page at most: the others need not be put in order.
        var some = db.Members.FromSql($"SELECT * FROM members TABLESAMPLE SYSTEM (1)").Where(m => m.Search.Contains(part));
        var farthest = await FarthestAsync(MemberOrder.Such(some, asked, now, db), asked, stop);
        var ids = await IdsAsync(farthest);
        return MemberOrder.Next(Among(db, farthest is null || ids.Count == asked.Most ? ids : await IdsAsync(null)), asked);

        Task<List<Guid>> IdsAsync(Place? farthest)
        {
            var having = MemberOrder.Before(db.Members.FromSql(sql), asked, farthest);
            return MemberOrder.Next(MemberOrder.Such(having, asked, now, db), asked).Select(m => m.Id).ToListAsync(stop);
        }
    }

    /// <summary>Where the next after a full page of some stands; nowhere where they are no more. Of all, a page is full before it, if nobody leaves.</summary>
    private static async Task<Place?> FarthestAsync(IQueryable<MemberRow> some, MemberQuery asked, CancellationToken stop)
    {
        var more = asked with { Most = asked.Most + 1 };
        var places = await MemberOrder.Next(some, more).Select(m => new Place(m.Email, m.Search, m.CreatedAt, m.SeenAt)).ToListAsync(stop);
        return places.Count == more.Most ? places[^1] : null;
    }

    /// <summary>
    /// Those who have a part, by the index of trigrams (pg_trgm) where it knows of such a part. Two English letters are in it with each letter that can
    /// follow them, and with the end of a word, which whatever is no letter makes; texts with other letters have an index of their own, and so do signs.
    /// </summary>
    private static FormattableString Indexed(string part)
    {
        if (part.Length < ShortestIndexed && part.EnumerateRunes().Count() == 1 && !EverySign.Contains(part, StringComparison.Ordinal))
        {
            return FormattableStringFactory.Create(HasSign, part);
        }

        if (part.Length != 2 || !part.All(char.IsAsciiLetterOrDigit))
        {
            return Having(part);
        }

        var pattern = "%" + Like(part) + "%";
        string[] longer = [.. Followers.Select(c => $"%{part}{(c is '%' or '_' or '\\' ? "\\" : "")}{c}%"), "%" + part];
        return $"""
            SELECT * FROM (
                SELECT * FROM members WHERE "Search" LIKE ANY ({longer})
                UNION ALL
                SELECT * FROM members WHERE "Search" ~ '[^\n -~]' AND "Search" LIKE {pattern} AND NOT "Search" LIKE ANY ({longer})) AS having_it
            OFFSET 0
            """;
    }

    /// <summary>Kept apart by the offset: nothing of what is asked of them besides, nor their order, changes how they are found.</summary>
    private static FormattableString Having(string part)
    {
        var pattern = "%" + Like(part) + "%";
        return $"""SELECT * FROM members WHERE "Search" LIKE {pattern} OFFSET 0""";
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
