using Microsoft.EntityFrameworkCore;

namespace WarySentinel.Storage.People;

/// <summary>
/// While this is held, a connection to SQLite reads the pages of its file where the system holds them (sqlite.org, “Memory-Mapped I/O”): whoever looks at
/// many thousands of rows all over the file would else copy a page for most of them. Not for longer, as they would count as memory of this process.
/// </summary>
internal sealed class MappedPages : IAsyncDisposable
{
    private readonly StoreContext db;

    private MappedPages(StoreContext db) => this.db = db;

    /// <summary>Begins; on PostgreSQL there is nothing to do.</summary>
    public static async Task<MappedPages> OfAsync(StoreContext db, CancellationToken stop)
    {
        if (db is not PostgresContext)
        {
            await db.Database.OpenConnectionAsync(stop);
            await db.Database.ExecuteSqlRawAsync("PRAGMA mmap_size = 4294967296", stop);
        }

        return new MappedPages(db);
    }

    /// <summary>Ends it.</summary>
    public async ValueTask DisposeAsync()
    {
        if (db is not PostgresContext)
        {
            await db.Database.ExecuteSqlRawAsync("PRAGMA mmap_size = 0", CancellationToken.None);
            await db.Database.CloseConnectionAsync();
        }
    }
}
