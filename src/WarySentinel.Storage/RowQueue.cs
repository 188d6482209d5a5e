using System.Collections.Concurrent;
using System.Data.Common;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>
/// Rows on their way past EF's tracking of changes: it costs more than all else together where people are written many times a second. They are sent in
/// their order before the transaction ends; on PostgreSQL in one go.
/// </summary>
internal sealed class RowQueue(StoreContext db)
{
    private static readonly ConcurrentDictionary<(Type Context, Type Row, string[]? Columns), RowStatement> Known = [];
    private const int Many = 2000;

    /// <summary>Longer than rows are held by whoever stores a few of them.</summary>
    private const string NotForLong = "SET LOCAL lock_timeout = '250ms'";

    /// <summary>
    /// Trigrams wait in a list of this length until somebody puts them in their places: a short one keeps nobody waiting, the usual one of 4 MB takes a
    /// third of what a copy of members by the thousand costs (PostgreSQL, “GIN Fast Update Technique”).
    /// </summary>
    private const string SoonInPlace = "SET LOCAL gin_pending_list_limit = '256kB'";
    private readonly List<(RowStatement Statement, object Row, int? Was)> waiting = [];

    /// <summary>Whether rows that others hold are waited for as long as it takes (PostgreSQL; on SQLite there is one writer).</summary>
    public bool Patient { get; set; } = true;

    /// <summary>Adds a row; a number that counts up is given by the database.</summary>
    public void Insert<TRow>(TRow row)
        where TRow : class => waiting.Add((Statement(typeof(TRow), null), row, null));

    /// <summary>Sets columns of the row with this row's key.</summary>
    /// <param name="row">Key and values.</param>
    /// <param name="columns">The names of the properties to set: one array that lives as long as the program.</param>
    /// <param name="was">The version that the row must have, where rows of its kind have one.</param>
    public void Update<TRow>(TRow row, string[] columns, int? was = null)
        where TRow : class => waiting.Add((Statement(typeof(TRow), columns), row, was));

    /// <summary>Sends what waits.</summary>
    /// <exception cref="StoreMovedException">A row to be set is gone, or has another version.</exception>
    public async Task SendAsync(CancellationToken stop)
    {
        if (waiting.Count == 0)
        {
            return;
        }

        await db.Database.OpenConnectionAsync(stop);
        try
        {
            await SendAsync(db.Database.GetDbConnection(), db.Database.CurrentTransaction?.GetDbTransaction(), stop);
            waiting.Clear();
        }
        finally
        {
            await db.Database.CloseConnectionAsync();
        }
    }

    private async Task SendAsync(DbConnection connection, DbTransaction? transaction, CancellationToken stop)
    {
        if (connection is NpgsqlConnection npgsql)
        {
            await SendTogetherAsync(npgsql, (NpgsqlTransaction?)transaction, stop);
        }
        else
        {
            SendSingly((SqliteConnection)connection, (SqliteTransaction?)transaction, stop);
        }
    }

    private RowStatement Statement(Type row, string[]? columns) =>
        Known.GetOrAdd((db.GetType(), row, columns), static (of, db) => RowStatement.Of(db, of.Row, of.Columns), db);

    /// <summary>Rows by the thousand are copied in, table by table: statement by statement they cost twice as much.</summary>
    private async Task CopyAsync(NpgsqlConnection connection, CancellationToken stop)
    {
        foreach (var table in waiting.GroupBy(w => w.Statement).OrderBy(g => g.Key.Depth))
        {
            await using var copy = await connection.BeginBinaryImportAsync(table.Key.Copy!, stop);
            foreach (var (statement, row, _) in table)
            {
                await copy.StartRowAsync(stop);
                await statement.CopyToAsync(copy, row, stop);
            }

            await copy.CompleteAsync(stop);
        }
    }

    private async Task SendTogetherAsync(NpgsqlConnection connection, NpgsqlTransaction? transaction, CancellationToken stop)
    {
        if (waiting.Count > Many && waiting.TrueForAll(w => w.Statement.Copy is not null))
        {
            await CopyAsync(connection, stop);
            return;
        }

        await using var batch = new NpgsqlBatch(connection, transaction);
        await using var parameters = new NpgsqlCommand();
        string?[] manners = [Patient ? null : NotForLong, waiting.Exists(w => w.Row is MemberRow) ? SoonInPlace : null];
        foreach (var manner in manners.OfType<string>())
        {
            batch.BatchCommands.Add(new NpgsqlBatchCommand(manner));
        }

        foreach (var (statement, row, was) in waiting)
        {
            var command = new NpgsqlBatchCommand(statement.Sql);
            statement.AddTo(command.Parameters, parameters, row, was);
            batch.BatchCommands.Add(command);
        }

        try
        {
            await batch.ExecuteNonQueryAsync(stop);
        }
        catch (PostgresException fault) when (fault.SqlState == PostgresErrorCodes.LockNotAvailable)
        {
            throw new RowsHeldException(fault);
        }

        if (batch.BatchCommands.TakeLast<NpgsqlBatchCommand>(waiting.Count).Any(c => c.RecordsAffected != 1))
        {
            throw new StoreMovedException();
        }
    }

    private void SendSingly(SqliteConnection connection, SqliteTransaction? transaction, CancellationToken stop)
    {
        var statements = new Dictionary<RowStatement, SqliteStatement>();
        using var many = waiting.Count > Many && transaction is not null && waiting.Exists(IsNewMember) ? new ManyMembers(connection, transaction) : null;
        try
        {
            // Nothing that a new member's row names is stored beside it: it can go before all else.
            many?.Add(() => Send(waiting.Where(IsNewMember)));
            Send(many is null ? waiting : waiting.Where(w => !IsNewMember(w)));
            many?.Finish();
        }
        finally
        {
            foreach (var statement in statements.Values)
            {
                statement.Dispose();
            }
        }

        void Send(IEnumerable<(RowStatement Statement, object Row, int? Was)> rows)
        {
            foreach (var (statement, row, was) in rows)
            {
                stop.ThrowIfCancellationRequested();
                if (!statements.TryGetValue(statement, out var prepared))
                {
                    statements[statement] = prepared = new SqliteStatement(connection, statement);
                }

                if (prepared.Store(row, was) != 1)
                {
                    throw new StoreMovedException();
                }
            }
        }
    }

    private static bool IsNewMember((RowStatement Statement, object Row, int? Was) waiting) => waiting.Row is MemberRow && waiting.Statement.Adds;
}
