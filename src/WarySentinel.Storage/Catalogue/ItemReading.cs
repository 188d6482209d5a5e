using System.Data.Common;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Storage.Catalogue;

/// <summary>Reads all items, and makes them while the rest of them is still being read.</summary>
internal static class ItemReading
{
    /// <summary>Where rows are made into items beside the reading.</summary>
    public static Batches<ItemRow, (Item? Item, StoredFault? Fault)> NewBatches() => new(r => r.ToItem());

    /// <summary>All items straight from their columns, with what of each cannot be read; null where a row cannot be taken out of its columns.</summary>
    public static async Task<List<(Item? Item, StoredFault? Fault)>?> StraightAsync(DbConnection connection, DbTransaction? transaction, CancellationToken stop)
    {
        var batches = NewBatches();
        var rows = await StraightRows.ReadAsync(
            connection, transaction, """SELECT "Id", "Title", "Parents", "Addresses", "Version" FROM items""",
            r => batches.Add(
                new ItemRow { Id = r.GetString(0), Title = r.GetString(1), Parents = Texts(r, 2), Addresses = Texts(r, 3), Version = r.GetInt32(4) }), stop);
        var made = await batches.AllAsync();
        return rows is null ? null : made;

        string[] Texts(DbDataReader reader, int column) =>
            connection is SqliteConnection ? TextsOf(reader.GetString(column)) : reader.GetFieldValue<string[]>(column);
    }

    /// <summary>A JSON list of texts; the usual forms of none and one without reading it as JSON.</summary>
    private static string[] TextsOf(string json) => json == "[]" ? []
        : json.Length > 4 && json.StartsWith("[\"", StringComparison.Ordinal) && json.EndsWith("\"]", StringComparison.Ordinal)
        && json.AsSpan(2, json.Length - 4).IndexOfAny('"', '\\') < 0 ? [json[2..^2]]
        : JsonSerializer.Deserialize<string[]>(json) ?? [];
}
