using System.Globalization;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace WarySentinel.Storage.People;

/// <summary>
/// Members by the thousand in one transaction on SQLite: their names go to the index of trigrams in one statement at its end. Member by member, by
/// triggers, each statement has FTS5 write out what it has gathered, and costs ten times as much; and a statement that only could fire one costs twice
/// what it costs without.
/// </summary>
internal sealed class ManyMembers : IDisposable
{
    /// <summary>SQLITE_DBCONFIG_ENABLE_TRIGGER (sqlite.org/c3ref, “Database Connection Configuration Options”).</summary>
    private const int EnableTrigger = 1003;

    private readonly SqliteConnection connection;
    private readonly SqliteTransaction transaction;
    private readonly long lastRow;
    private readonly long lastText;

    /// <summary>Begins.</summary>
    public ManyMembers(SqliteConnection connection, SqliteTransaction transaction)
    {
        (this.connection, this.transaction) = (connection, transaction);
        lastRow = Ask("SELECT COALESCE(MAX(rowid), 0) FROM members");
        lastText = Ask("SELECT COALESCE(MAX(\"Number\"), 0) FROM member_texts");
        // Rows by the thousand touch pages all over the indexes: kept in memory, not written over and over.
        Ask("PRAGMA cache_size = -65536");
        // Nor carried over from the journal after each transaction. It stays so on this connection: whatever commits on another carries it all over.
        Ask("PRAGMA wal_autocheckpoint = 30000");
    }

    /// <summary>Adds members; until <see cref="Finish"/> no search finds them.</summary>
    public void Add(Action rows)
    {
        Triggers(false);
        try
        {
            rows();
        }
        finally
        {
            Triggers(true);
        }
    }

    /// <summary>Has the new names found.</summary>
    public void Finish() => Add(() =>
    {
        Ask($"""
            INSERT INTO member_texts ("MemberId", "Text", "Email", "CreatedAt", "SeenAt")
            SELECT "Id", "Search", "Email", "CreatedAt", "SeenAt" FROM members WHERE rowid > {Text(lastRow)}
            """);
        Ask($"INSERT INTO member_search (rowid, \"Text\") SELECT \"Number\", \"Text\" FROM member_texts WHERE \"Number\" > {Text(lastText)}");
    });

    /// <summary>The next transaction on this connection keeps as few pages as ever.</summary>
    public void Dispose() => Ask("PRAGMA cache_size = -2000");

    private static string Text(long number) => number.ToString(CultureInfo.InvariantCulture);

    private void Triggers(bool fire) =>
        SqliteException.ThrowExceptionForRC(raw.sqlite3_db_config(connection.Handle, EnableTrigger, fire ? 1 : 0, out _), connection.Handle);

    private long Ask(string sql)
    {
        using var command = connection.CreateCommand();
        (command.Transaction, command.CommandText) = (transaction, sql);
        return command.ExecuteScalar() is long number ? number : 0;
    }
}
