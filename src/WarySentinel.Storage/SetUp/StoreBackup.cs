using Microsoft.Data.Sqlite;
using WarySentinel.Core.SetUp;

namespace WarySentinel.Storage.SetUp
{
    /// <summary>That a backup was taken is kept in the trail alone.</summary>
    internal static class BackupChanges
    {
        public static void Register(Writers writers) => writers.On<BackupTaken>((_, _) => Task.CompletedTask);
    }
}

namespace WarySentinel.Storage
{
    /// <summary>Copies of everything that is kept.</summary>
    public sealed partial class Store
    {
        /// <summary>Whether it can copy itself: on SQLite. Elsewhere the database's own tools do that.</summary>
        public bool CopiesItself => writers is not null;

        /// <summary>Copies the database into a file that is not there yet, all of one moment, while others go on writing (SQLite's online backup).</summary>
        public void CopyTo(string file)
        {
            using var from = new SqliteConnection(connection);
            using var to = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = file, Pooling = false }.ToString());
            from.Open();
            to.Open();
            from.BackupDatabase(to);
            using var alone = to.CreateCommand();
            // A copy is one file: it has no log beside it.
            alone.CommandText = "PRAGMA journal_mode = DELETE";
            alone.ExecuteNonQuery();
        }
    }
}
