using System.Data;
using System.Data.Common;
using Microsoft.Data.Sqlite;
using Npgsql;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Storage.Catalogue;

namespace WarySentinel.Storage;

/// <summary>
/// The items as they were read at the very start, by a connection of its own, while everything else that reads from the store is still being put together:
/// of 100,000 items a quarter of a start. They count only where nothing has changed since.
/// </summary>
public sealed class EarlyItems
{
    private readonly long revision;
    private readonly string newest;

    private EarlyItems(long revision, string newest, List<(Item? Item, StoredFault? Fault)> read) =>
        (this.revision, this.newest, Read) = (revision, newest, read);

    internal List<(Item? Item, StoredFault? Fault)> Read { get; }

    /// <summary>Reads them; null where anything is amiss, of which whoever reads again is told.</summary>
    /// <param name="provider"><c>sqlite</c> or <c>postgres</c>.</param>
    /// <param name="connection">A connection string of that provider.</param>
    public static async Task<EarlyItems?> ReadAsync(string provider, string connection)
    {
        try
        {
            await using DbConnection own = provider == "postgres"
                ? new NpgsqlConnection(new NpgsqlConnectionStringBuilder(connection) { Pooling = false }.ToString())
                // To look at a file must not make it.
                : new SqliteConnection(new SqliteConnectionStringBuilder(connection) { Mode = SqliteOpenMode.ReadOnly, Pooling = false }.ToString());
            await own.OpenAsync();
            await using var one = await own.BeginTransactionAsync(provider == "postgres" ? IsolationLevel.RepeatableRead : IsolationLevel.Serializable);
            var (revision, newest) = await MarksAsync(own, one);
            return await ItemReading.StraightAsync(own, one, CancellationToken.None) is { } read ? new EarlyItems(revision, newest, read) : null;
        }
        catch (Exception fault) when (fault is DbException or InvalidOperationException or ArgumentException or TimeoutException or IOException)
        {
            return null;
        }
    }

    /// <summary>Whether nothing has changed since: neither the policy nor the tables.</summary>
    internal async Task<bool> StandAsync(DbConnection connection, DbTransaction transaction) => await MarksAsync(connection, transaction) == (revision, newest);

    private static async Task<(long Revision, string Newest)> MarksAsync(DbConnection connection, DbTransaction transaction)
    {
        await using var command = connection.CreateCommand();
        command.Transaction = transaction;
        command.CommandText = """
            SELECT (SELECT "Number" FROM marks WHERE "Name" = 'revision'), (SELECT max("MigrationId") FROM "__EFMigrationsHistory")
            """;
        await using var reader = await command.ExecuteReaderAsync();
        return await reader.ReadAsync() ? (reader.GetInt64(0), reader.GetString(1)) : throw new InvalidOperationException("Nothing was answered.");
    }
}
