using System.Buffers;
using System.Text;
using Microsoft.Data.Sqlite;
using SQLitePCL;

namespace WarySentinel.Storage;

/// <summary>
/// A statement of SQLite that stores rows, each value bound straight to its place: by the provider's parameters a row costs four times as much as SQLite
/// takes to store it.
/// </summary>
internal sealed class SqliteStatement : IDisposable
{
    private const int GuidLength = 36;
    private const int OnStack = 512;
    private readonly sqlite3 connection;
    private readonly sqlite3_stmt statement;
    private readonly RowStatement row;

    /// <summary>Prepares it.</summary>
    public SqliteStatement(SqliteConnection connection, RowStatement row)
    {
        (this.connection, this.row) = (connection.Handle!, row);
        SqliteException.ThrowExceptionForRC(raw.sqlite3_prepare_v2(this.connection, row.Sql, out statement), this.connection);
    }

    /// <summary>Stores a row; says how many rows of its table that concerned.</summary>
    /// <param name="of">The row.</param>
    /// <param name="was">The version that it must have.</param>
    public int Store(object of, int? was)
    {
        SqliteException.ThrowExceptionForRC(row.Bind(this, of, was), connection);
        SqliteException.ThrowExceptionForRC(raw.sqlite3_step(statement), connection);
        SqliteException.ThrowExceptionForRC(raw.sqlite3_reset(statement), connection);
        return raw.sqlite3_changes(connection);
    }

    /// <inheritdoc/>
    public void Dispose() => statement.Dispose();

    /// <summary>Binds nothing to a place; gives SQLite's answer.</summary>
    public int BindNull(int place) => raw.sqlite3_bind_null(statement, place);

    /// <summary>Binds a value to a place as the provider writes its kind (Microsoft.Data.Sqlite, “Data types”); gives SQLite's answer.</summary>
    public int Bind<T>(int place, T value) => value switch
    {
        long number => raw.sqlite3_bind_int64(statement, place, number),
        int number => raw.sqlite3_bind_int64(statement, place, number),
        bool yes => raw.sqlite3_bind_int64(statement, place, yes ? 1 : 0),
        double number => raw.sqlite3_bind_double(statement, place, number),
        string text => BindText(place, text),
        Guid id => BindId(place, id),
        byte[] bytes => raw.sqlite3_bind_blob(statement, place, bytes),
        _ => throw new NotSupportedException($"No row has a {typeof(T).Name} yet."),
    };

    private int BindText(int place, string text)
    {
        if (text.Length == 0)
        {
            // A span of nothing would be bound as null.
            return raw.sqlite3_bind_text(statement, place, text);
        }

        var most = Encoding.UTF8.GetMaxByteCount(text.Length);
        var rented = most > OnStack ? ArrayPool<byte>.Shared.Rent(most) : null;
        var bytes = rented ?? stackalloc byte[OnStack];
        var bound = raw.sqlite3_bind_text(statement, place, bytes[..Encoding.UTF8.GetBytes(text, bytes)]);
        if (rented is not null)
        {
            ArrayPool<byte>.Shared.Return(rented, true);
        }

        return bound;
    }

    private int BindId(int place, Guid id)
    {
        Span<byte> text = stackalloc byte[GuidLength];
        id.TryFormat(text, out _);
        Ascii.ToUpperInPlace(text, out _);
        return raw.sqlite3_bind_text(statement, place, text);
    }
}
