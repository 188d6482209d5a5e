using Microsoft.EntityFrameworkCore;

namespace WarySentinel.Storage;

/// <summary>The index of trigrams that members are searched by, where it can be taken away and built anew (PostgreSQL).</summary>
public sealed partial class Store
{
    /// <summary>Whether members are searched by an index that can be taken away and built anew.</summary>
    public bool HasSearchToBuild => writers is null;

    /// <summary>
    /// Takes the index away, so that members by the thousand come in half the time. Searches find the same meanwhile, by looking through everybody. False
    /// where there is none, or others have the members in hand for longer than anybody should wait behind this.
    /// </summary>
    public async Task<bool> RestSearchAsync(CancellationToken stop = default)
    {
        await using var db = open();
        if (db is not PostgresContext || !await HasSearchAsync(db, stop))
        {
            return false;
        }

        await db.Database.ExecuteSqlRawAsync(
            """
            DO $$ BEGIN
              PERFORM set_config('lock_timeout', '2s', true);
              DROP INDEX IF EXISTS "IX_members_Search";
            EXCEPTION WHEN lock_not_available THEN
              RAISE NOTICE 'The index stays.';
            END $$;
            """,
            stop);
        return !await HasSearchAsync(db, stop);
    }

    /// <summary>
    /// Builds the index where it is missing, or was left half built; nobody who stores waits for it. False where nothing was to do, or trigrams are not to be
    /// had (pg_trgm).
    /// </summary>
    public async Task<bool> BuildSearchAsync(CancellationToken stop = default)
    {
        await using var db = open();
        if (db is not PostgresContext || await IsSoAsync(db, HasGoodSearch, stop) || !await IsSoAsync(db, HasTrigrams, stop))
        {
            return false;
        }

        // A million members take a quarter of a minute and more.
        db.Database.SetCommandTimeout(TimeSpan.FromHours(2));
        await db.Database.ExecuteSqlRawAsync("""DROP INDEX CONCURRENTLY IF EXISTS "IX_members_Search" """, stop);
        await db.Database.ExecuteSqlRawAsync(
            """CREATE INDEX CONCURRENTLY IF NOT EXISTS "IX_members_Search" ON members USING gin ("Search" gin_trgm_ops)""", stop);
        return true;
    }

    private const string HasGoodSearch = """
        SELECT EXISTS (SELECT FROM pg_index WHERE indexrelid = to_regclass('"IX_members_Search"') AND indisvalid) AS "Value"
        """;

    private const string HasTrigrams = """SELECT EXISTS (SELECT FROM pg_extension WHERE extname = 'pg_trgm') AS "Value" """;

    private static Task<bool> HasSearchAsync(StoreContext db, CancellationToken stop) =>
        IsSoAsync(db, """SELECT to_regclass('"IX_members_Search"') IS NOT NULL AS "Value" """, stop);

    private static Task<bool> IsSoAsync(StoreContext db, string asked, CancellationToken stop) => db.Database.SqlQueryRaw<bool>(asked).SingleAsync(stop);
}
