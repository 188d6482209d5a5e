using Microsoft.EntityFrameworkCore;
using Npgsql;

namespace WarySentinel.Storage.Nodes;

/// <summary>What was read of the feed.</summary>
/// <param name="News">What changed, in its order.</param>
/// <param name="More">Whether there is more to be read at once.</param>
/// <param name="Lost">Whether the feed no longer reaches back to where this machine was: what it knows of may be old, all of it.</param>
public sealed record FeedPage(IReadOnlyList<News> News, bool More, bool Lost);

/// <summary>
/// Where one machine is in the change feed. On PostgreSQL, numbers are given out before transactions commit, so that a smaller one may be seen after a
/// greater one: those that are missing are looked for again until no transaction is left that could bring them. Not thread-safe.
/// </summary>
public sealed class Feed
{
    private const int MostAtOnce = 2000;
    private const int MostMissing = 20_000;
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(10);
    private readonly Func<StoreContext> open;
    private readonly TimeProvider time;
    private readonly Dictionary<long, (long Newest, DateTimeOffset At)> missing = [];
    private long last = -1;

    internal Feed(Func<StoreContext> open, TimeProvider time) => (this.open, this.time) = (open, time);

    /// <summary>The last number read.</summary>
    public long Last => last;

    /// <summary>Goes to the end of the feed: what is read from now on is what changes from now on, and what was on its way then.</summary>
    public async Task BeginAsync(CancellationToken stop = default)
    {
        missing.Clear();
        var look = await LookAsync(long.MaxValue, stop);
        last = Math.Max(0, look.End);
        if (look.Newest > 0)
        {
            await using var db = open();
            var from = last - MostAtOnce;
            var there = (await db.Feed.AsNoTracking().Where(f => f.Id > from).Select(f => f.Id).ToListAsync(stop)).ToHashSet();
            Miss(Math.Max(0, from), last + 1, look.Newest, there);
        }
    }

    /// <summary>Reads on from where it was, once <see cref="BeginAsync"/> was called.</summary>
    public async Task<FeedPage> ReadAsync(CancellationToken stop = default)
    {
        var look = await LookAsync(last, stop);
        // What was not read yet was removed for its age; or somebody put an older copy of the database in place.
        if (look.End < last || look.Start > last + 1)
        {
            await BeginAsync(stop);
            return new FeedPage([], false, true);
        }

        var news = new List<News>();
        foreach (var row in look.Rows)
        {
            if (!missing.Remove(row.Id) && row.Id > last)
            {
                Miss(last, row.Id, look.Newest, []);
                last = row.Id;
            }

            news.Add(new News((Told)row.Kind, row.Name));
        }

        foreach (var (number, noticed) in missing.ToList())
        {
            // Every transaction that could have brought it is over, and it was not there.
            if (look.Oldest >= noticed.Newest && time.GetUtcNow() - noticed.At > Patience)
            {
                missing.Remove(number);
            }
        }

        return new FeedPage(news, look.Rows.Count >= MostAtOnce, missing.Count > MostMissing);
    }

    private void Miss(long after, long before, long newest, HashSet<long> there)
    {
        for (var number = after + 1; newest > 0 && number < before && missing.Count <= MostMissing; number++)
        {
            if (!there.Contains(number))
            {
                missing[number] = (newest, time.GetUtcNow());
            }
        }
    }

    private sealed record Look(IReadOnlyList<FeedRow> Rows, long Start, long End, long Oldest, long Newest);

    private async Task<Look> LookAsync(long after, CancellationToken stop)
    {
        await using var db = open();
        return db is PostgresContext ? await PostgresAsync(db, after, stop) : await SqliteAsync(db, after, stop);
    }

    /// <summary>One writer at a time: numbers are seen in the order in which they are given out.</summary>
    private static async Task<Look> SqliteAsync(StoreContext db, long after, CancellationToken stop)
    {
        if (after == long.MaxValue)
        {
            return new Look([], 0, await EndOfSqliteAsync(db, stop), 0, 0);
        }

        var rows = await db.Feed.AsNoTracking().Where(f => f.Id > after).OrderBy(f => f.Id).Take(MostAtOnce).ToListAsync(stop);
        if (rows.Count > 0)
        {
            return new Look(rows, rows[0].Id, rows[^1].Id, 0, 0);
        }

        return new Look([], after, await EndOfSqliteAsync(db, stop), 0, 0);
    }

    /// <summary>The last number given out; kept also when the rows are gone (sqlite.org/autoinc.html).</summary>
    private static async Task<long> EndOfSqliteAsync(StoreContext db, CancellationToken stop)
    {
        await db.Database.OpenConnectionAsync(stop);
        await using var command = db.Database.GetDbConnection().CreateCommand();
        command.CommandText = "SELECT seq FROM sqlite_sequence WHERE name = 'feed'";
        return await command.ExecuteScalarAsync(stop) as long? ?? 0;
    }

    /// <summary>One statement, so that rows and transactions are seen at one and the same moment (PostgreSQL 15 §9.27.5).</summary>
    private async Task<Look> PostgresAsync(StoreContext db, long after, CancellationToken stop)
    {
        const string Sql = """
            SELECT f."Id", f."Kind", f."Name", s.oldest, s.newest, s.start, s.finish
            FROM (SELECT pg_snapshot_xmin(c)::text::bigint AS oldest, pg_snapshot_xmax(c)::text::bigint AS newest,
                         (SELECT min("Id") FROM feed) AS start, (SELECT max("Id") FROM feed) AS finish FROM pg_current_snapshot() AS c) AS s
            LEFT JOIN LATERAL (
                (SELECT "Id", "Kind", "Name" FROM feed WHERE "Id" > @after ORDER BY "Id" LIMIT @most)
                UNION ALL
                (SELECT "Id", "Kind", "Name" FROM feed WHERE "Id" = ANY(@missing))) AS f ON true
            ORDER BY f."Id"
            """;
        await db.Database.OpenConnectionAsync(stop);
        await using var command = new NpgsqlCommand(Sql, (NpgsqlConnection)db.Database.GetDbConnection());
        command.Parameters.AddWithValue("after", after);
        command.Parameters.AddWithValue("most", MostAtOnce);
        command.Parameters.AddWithValue("missing", missing.Keys.ToArray());
        var (rows, oldest, newest, start, end) = (new List<FeedRow>(), 0L, 0L, after, after == long.MaxValue ? 0 : after);
        await using var reader = await command.ExecuteReaderAsync(stop);
        while (await reader.ReadAsync(stop))
        {
            (oldest, newest) = (reader.GetInt64(3), reader.GetInt64(4));
            (start, end) = reader.IsDBNull(5) ? (start, end) : (reader.GetInt64(5), reader.GetInt64(6));
            if (!reader.IsDBNull(0))
            {
                rows.Add(new FeedRow { Id = reader.GetInt64(0), Kind = reader.GetInt32(1), Name = reader.GetString(2) });
            }
        }

        return new Look(rows, start, end, oldest, newest);
    }
}
