using System.Data.Common;
using System.Text.Json;
using Microsoft.Data.Sqlite;

namespace WarySentinel.Storage;

/// <summary>Rows straight from their columns: of some there may be 100,000, and a start waits for them (0.3 s so, 1.6 s by entities).</summary>
internal static class StraightRows
{
    /// <summary>Whether a fault lies in what is stored, not in the store.</summary>
    public static bool IsUnreadable(Exception fault) =>
        fault is JsonException or FormatException or InvalidCastException or InvalidOperationException or ArgumentException or OverflowException;

    /// <summary>All rows of a query; null where one of them cannot be taken out of its columns.</summary>
    public static async Task<List<TRow>?> ReadAsync<TRow>(
        DbConnection connection, DbTransaction? transaction, string sql, Func<DbDataReader, TRow> row, CancellationToken stop)
    {
        await using var command = connection.CreateCommand();
        command.Transaction = transaction;
        command.CommandText = sql;
        var rows = new List<TRow>();
        try
        {
            await using var reader = await command.ExecuteReaderAsync(stop);
            while (connection is SqliteConnection ? reader.Read() : await reader.ReadAsync(stop))
            {
                rows.Add(row(reader));
            }

            return rows;
        }
        catch (Exception fault) when (IsUnreadable(fault))
        {
            return null;
        }
    }
}
