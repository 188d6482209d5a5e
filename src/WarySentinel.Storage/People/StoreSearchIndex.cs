using Microsoft.EntityFrameworkCore;

namespace WarySentinel.Storage;

/// <summary>The indexes of trigrams and of single signs that members are searched by, where they can be taken away and built anew (PostgreSQL).</summary>
public sealed partial class Store
{
    private const string SignsIndex = $"""
        CREATE INDEX CONCURRENTLY IF NOT EXISTS "IX_members_Signs" ON members USING gin (string_to_array(translate("Search", '{EverySign}', ''), NULL))
        """;

    /// <summary>Each by its name, how it is taken away and built, and the extension that it needs.</summary>
    private static readonly (string Name, string Drop, string Create, string Needs)[] SearchIndexes =
    [
        ("IX_members_Search", """DROP INDEX CONCURRENTLY IF EXISTS "IX_members_Search" """,
            """CREATE INDEX CONCURRENTLY IF NOT EXISTS "IX_members_Search" ON members USING gin ("Search" gin_trgm_ops)""", "pg_trgm"),
        ("IX_members_Signs", """DROP INDEX CONCURRENTLY IF EXISTS "IX_members_Signs" """, SignsIndex, "plpgsql"),
    ];

    /// <summary>Whether members are searched by indexes that can be taken away and built anew.</summary>
    public bool HasSearchToBuild => writers is null;

    /// <summary>
    /// Takes them away, so that members by the thousand come in half the time. Searches find the same meanwhile, by looking through everybody. False where
    /// there are none, others have the members in hand for longer than anybody should wait behind this, or the database does not let us.
    /// </summary>
    public async Task<bool> RestSearchAsync(CancellationToken stop = default)
    {
        await using var db = open();
        if (db is not PostgresContext || await HowManyAsync(db, false, stop) == 0)
        {
            return false;
        }

        await db.Database.ExecuteSqlRawAsync(
            """
            DO $$ BEGIN
              PERFORM set_config('lock_timeout', '2s', true);
              DROP INDEX IF EXISTS "IX_members_Search", "IX_members_Signs";
            EXCEPTION WHEN OTHERS THEN
              RAISE NOTICE 'The indexes stay: %', SQLERRM;
            END $$;
            """,
            stop);
        return await HowManyAsync(db, false, stop) == 0;
    }

    /// <summary>
    /// Builds those that are missing, or were left half built; nobody who stores waits for it. False where nothing was to do; the one of trigrams is not to be
    /// had where their extension is not.
    /// </summary>
    public async Task<bool> BuildSearchAsync(CancellationToken stop = default)
    {
        await using var db = open();
        if (db is not PostgresContext || await HowManyAsync(db, true, stop) == SearchIndexes.Length)
        {
            return false;
        }

        // A million members take half a minute.
        db.Database.SetCommandTimeout(TimeSpan.FromHours(2));
        var has = await db.Database.SqlQueryRaw<string>("""SELECT extname::text AS "Value" FROM pg_extension""").ToListAsync(stop);
        var there = await db.Database.SqlQueryRaw<string>(
            """SELECT relname::text AS "Value" FROM pg_index JOIN pg_class AS c ON c.oid = indexrelid WHERE indrelid = 'members'::regclass AND indisvalid""")
            .ToListAsync(stop);
        var missing = SearchIndexes.Where(i => has.Contains(i.Needs) && !there.Contains(i.Name)).ToList();
        foreach (var (_, drop, create, _) in missing)
        {
            await db.Database.ExecuteSqlRawAsync(drop, stop);
            await db.Database.ExecuteSqlRawAsync(create, stop);
        }

        if (missing.Count > 0)
        {
            // What such an expression gives is counted with the index.
            await db.Database.ExecuteSqlRawAsync("ANALYZE (SKIP_LOCKED) members", stop);
        }

        return missing.Count > 0;
    }

    private static Task<int> HowManyAsync(StoreContext db, bool whole, CancellationToken stop) => db.Database.SqlQuery<int>($"""
        SELECT count(*)::int AS "Value" FROM pg_index
        WHERE indexrelid IN (to_regclass('"IX_members_Search"'), to_regclass('"IX_members_Signs"')) AND (indisvalid OR NOT {whole})
        """).SingleAsync(stop);
}
