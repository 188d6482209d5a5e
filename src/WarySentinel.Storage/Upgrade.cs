using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;

namespace WarySentinel.Storage;

/// <summary>Brings the tables up to date, and tells what it waits for.</summary>
public sealed partial class Store
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);

    /// <summary>
    /// Brings the tables up to date. On SQLite under a lock that ends with its process: what a killed one left behind is waited for by nobody.
    /// </summary>
    /// <param name="tell">Told what is done, and what is waited for.</param>
    /// <param name="stop">Cancels.</param>
    public async Task MigrateAsync(Action<string>? tell = null, CancellationToken stop = default)
    {
        await using var db = open();
        if (await IsCurrentAsync(db, stop))
        {
            return;
        }

        var pending = (await db.Database.GetPendingMigrationsAsync(stop)).ToList();
        if (pending.Count > 0)
        {
            var file = db is SqliteContext ? FileOf(db) : null;
            await using var turn = file is null ? null : await TurnAsync(file + ".upgrading", tell, stop);
            pending = [.. await db.Database.GetPendingMigrationsAsync(stop)];
            if (pending.Count > 0)
            {
                tell?.Invoke($"Bringing the database up to date: {string.Join(", ", pending)}");
                await UpgradeAsync(db, tell, stop);
            }
        }

        if (db is SqliteContext)
        {
            await db.Database.ExecuteSqlRawAsync("PRAGMA journal_mode=WAL", stop);
        }

        // There from the start, so that two machines that write first at once meet at a row.
        await MarkAsync(db, Revision, stop);
        await MarkAsync(db, People.MemberChanges.Owners, stop);
        await MarkAsync(db, Probe, stop);
        if (!await db.Feed.AnyAsync(stop))
        {
            // There from the start: whoever reads on from there has lost nothing.
            db.Feed.Add(new Nodes.FeedRow { Kind = 0, Name = "", At = time.GetUtcNow() });
            await db.SaveChangesAsync(stop);
            db.ChangeTracker.Clear();
        }

        if (!await db.Marks.AnyAsync(m => m.Name == FoldedMark, stop))
        {
            await RefoldAsync(db, stop);
            await MarkAsync(db, FoldedMark, stop);
        }
    }

    /// <summary>Whether the tables are as this version has them.</summary>
    public async Task<bool> IsCurrentAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return await IsCurrentAsync(db, stop);
    }

    /// <summary>
    /// Whether there is nothing to do, asked without the machinery of migrations, which alone takes a second: the usual case at a start.
    /// </summary>
    private static async Task<bool> IsCurrentAsync(StoreContext db, CancellationToken stop)
    {
        var here = typeof(StoreContext).Assembly.GetTypes()
            .Where(t => t.GetCustomAttributes(typeof(DbContextAttribute), false) is [DbContextAttribute of] && of.ContextType == db.GetType())
            .SelectMany(t => t.GetCustomAttributes(typeof(MigrationAttribute), false)).Cast<MigrationAttribute>().Select(m => m.Id)
            .Concat([Revision, People.MemberChanges.Owners, Probe, FoldedMark]).ToHashSet();
        await db.Database.OpenConnectionAsync(stop);
        try
        {
            await using var command = db.Database.GetDbConnection().CreateCommand();
            command.CommandText = """SELECT "MigrationId" FROM "__EFMigrationsHistory" UNION ALL SELECT "Name" FROM marks""";
            await using var reader = await command.ExecuteReaderAsync(stop);
            while (await reader.ReadAsync(stop))
            {
                here.Remove(reader.GetString(0));
            }

            return here.Count == 0;
        }
        catch (System.Data.Common.DbException)
        {
            // No such tables yet, or what else is wrong is told by the upgrade.
            return false;
        }
        finally
        {
            await db.Database.CloseConnectionAsync();
        }
    }

    private static async Task UpgradeAsync(StoreContext db, Action<string>? tell, CancellationToken stop)
    {
        if (db is SqliteContext)
        {
            // Ours is the only process that upgrades: a row here is what a killed one left.
            await db.Database.ExecuteSqlRawAsync("""DROP TABLE IF EXISTS "__EFMigrationsLock" """, stop);
        }

        var upgrade = db.Database.MigrateAsync(stop);
        while (await Task.WhenAny(upgrade, Task.Delay(Patience, stop)) != upgrade)
        {
            tell?.Invoke("Still bringing the database up to date; another machine may hold its lock while it does the same");
        }

        await upgrade;
    }

    private static async Task<FileStream> TurnAsync(string path, Action<string>? tell, CancellationToken stop)
    {
        for (var tries = 0; ; tries++)
        {
            try
            {
                // The system takes the lock away with the process that holds it.
                return new FileStream(path, new FileStreamOptions
                {
                    Mode = FileMode.OpenOrCreate, Access = FileAccess.ReadWrite, Share = FileShare.None,
                    UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
                });
            }
            catch (IOException) when (File.Exists(path))
            {
                if (tries % 50 == 0)
                {
                    tell?.Invoke($"Waiting for another process that is bringing the database up to date; it holds {path}");
                }

                await Task.Delay(100, stop);
            }
        }
    }

    private static async Task MarkAsync(StoreContext db, string name, CancellationToken stop)
    {
        if (await db.Marks.AnyAsync(m => m.Name == name, stop))
        {
            return;
        }

        db.Marks.Add(new MarkRow { Name = name });
        try
        {
            await db.SaveChangesAsync(stop);
        }
        catch (DbUpdateException) when (db.Marks.AsNoTracking().Any(m => m.Name == name))
        {
            // Another machine that starts at the same time was faster.
        }

        db.ChangeTracker.Clear();
    }

    private static string? FileOf(StoreContext db) =>
        new Microsoft.Data.Sqlite.SqliteConnectionStringBuilder(db.Database.GetConnectionString()).DataSource is { Length: > 0 } file && file != ":memory:"
            ? Path.GetFullPath(file) : null;
}
