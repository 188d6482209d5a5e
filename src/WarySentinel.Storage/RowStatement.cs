using System.Data.Common;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;
using SQLitePCL;

namespace WarySentinel.Storage;

/// <summary>The statement that stores one row of a table. Table, columns and conversions are those of the model: they are said once.</summary>
internal sealed class RowStatement
{
    private readonly (string Name, RowValue Of)[] values;
    private readonly (string Name, RelationalTypeMapping Mapping)? version;

    private RowStatement(string sql, (string, RowValue)[] values, (string, RelationalTypeMapping)? version) =>
        (Sql, this.values, this.version) = (sql, values, version);

    /// <summary>How rows are copied in (PostgreSQL, “COPY”); null of a statement that changes one.</summary>
    public string? Copy { get; private init; }

    /// <summary>Whether it adds a row, and does not change one.</summary>
    public bool Adds { get; private init; }

    /// <summary>How many tables stand above its own, each of which one beneath names rows of: rows of those with fewer are stored first.</summary>
    public int Depth { get; private init; }

    /// <summary>The statement, with its places.</summary>
    public string Sql { get; }

    /// <summary>The statement that adds a row, or sets columns of one.</summary>
    public static RowStatement Of(StoreContext db, Type row, string[]? columns)
    {
        var type = db.Model.FindEntityType(row)!;
        var table = StoreObjectIdentifier.Create(type, StoreObjectType.Table)!.Value;
        return columns is null ? Insert(type, table, db is PostgresContext) : Update(type, table, columns, db is PostgresContext);
    }

    /// <summary>Binds a row to its places; gives SQLite's answer to the first that it does not take.</summary>
    /// <param name="statement">The statement, prepared.</param>
    /// <param name="row">The row.</param>
    /// <param name="was">The version that it must have.</param>
    public int Bind(SqliteStatement statement, object row, int? was)
    {
        var (place, answer) = (0, raw.SQLITE_OK);
        while (place < values.Length && answer == raw.SQLITE_OK)
        {
            answer = values[place].Of.Bind(statement, ++place, row);
        }

        return answer != raw.SQLITE_OK || version is null ? answer
            : was is { } held ? statement.Bind(++place, (long)held) : statement.BindNull(++place);
    }

    /// <summary>Copies a row in, each value as the column has it.</summary>
    public async Task CopyToAsync(NpgsqlBinaryImporter to, object row, CancellationToken stop)
    {
        foreach (var (_, value) in values)
        {
            await value.CopyAsync(to, row, stop);
        }
    }

    /// <summary>Fills the places with a row's values.</summary>
    /// <param name="parameters">Where they go.</param>
    /// <param name="maker">A command of the provider, which makes them.</param>
    /// <param name="row">The row.</param>
    /// <param name="was">The version that it must have.</param>
    public void AddTo(DbParameterCollection parameters, DbCommand maker, object row, int? was)
    {
        foreach (var (name, value) in values)
        {
            var property = value.Property;
            parameters.Add(property.GetRelationalTypeMapping().CreateParameter(maker, name, property.GetGetter().GetClrValue(row), property.IsNullable));
        }

        if (version is { } held)
        {
            parameters.Add(held.Mapping.CreateParameter(maker, held.Name, was));
        }
    }

    private static RowStatement Insert(IEntityType type, StoreObjectIdentifier table, bool numbered)
    {
        // A number that counts up is given by the database.
        var properties = type.GetProperties().Where(p => !(p.ClrType == typeof(long) && p.ValueGenerated == ValueGenerated.OnAdd)).ToArray();
        var places = properties.Select((_, i) => Place(i, numbered));
        var names = properties.Select(p => Quoted(p.GetColumnName(table)));
        var of = $"{Quoted(table.Name)} ({string.Join(", ", names)})";
        return new RowStatement($"INSERT INTO {of} VALUES ({string.Join(", ", places)})", Named(properties, numbered), null)
        {
            Copy = numbered ? $"COPY {of} FROM STDIN (FORMAT BINARY)" : null, Adds = true, Depth = DepthOf(type),
        };
    }

    private static int DepthOf(IEntityType type) =>
        type.GetForeignKeys().Where(k => k.PrincipalEntityType != type).Select(k => 1 + DepthOf(k.PrincipalEntityType)).DefaultIfEmpty(0).Max();

    private static RowStatement Update(IEntityType type, StoreObjectIdentifier table, string[] columns, bool numbered)
    {
        var set = Array.ConvertAll(columns, c => type.FindProperty(c)!);
        IProperty[] all = [.. set, .. type.FindPrimaryKey()!.Properties];
        string Equal(int i) => $"{Quoted(all[i].GetColumnName(table))} = {Place(i, numbered)}";
        var token = type.GetProperties().SingleOrDefault(p => p.IsConcurrencyToken);
        var where = Enumerable.Range(set.Length, all.Length - set.Length).Select(Equal);
        if (token is not null)
        {
            where = where.Append($"{Quoted(token.GetColumnName(table))} = {Place(all.Length, numbered)}");
        }

        var sql = $"UPDATE {Quoted(table.Name)} SET {string.Join(", ", Enumerable.Range(0, set.Length).Select(Equal))} WHERE {string.Join(" AND ", where)}";
        return new RowStatement(sql, Named(all, numbered), token is null ? null : (Name(all.Length, numbered), token.GetRelationalTypeMapping()));
    }

    private static (string, RowValue)[] Named(IProperty[] properties, bool numbered) =>
        [.. properties.Select((p, i) => (Name(i, numbered), RowValue.Of(p)))];

    /// <summary>PostgreSQL's places have numbers, and no names to be looked for on the way.</summary>
    private static string Place(int i, bool numbered) => numbered ? $"${i + 1}" : "@p" + i;

    private static string Name(int i, bool numbered) => numbered ? "" : "@p" + i;

    private static string Quoted(string? name) => $"\"{name}\"";
}
