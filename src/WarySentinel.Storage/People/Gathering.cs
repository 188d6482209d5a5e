using System.Buffers.Text;
using System.Data.Common;
using System.Runtime.InteropServices;
using Microsoft.Data.Sqlite;
using SQLitePCL;
using WarySentinel.Core.Facts;

namespace WarySentinel.Storage.People;

/// <summary>
/// Counts members by what they hold, as their facts come by in any order: each member is in one set at a time, and a further fact moves them to a
/// larger one.
/// </summary>
/// <param name="facts">The facts, which are spoken of by their places here.</param>
/// <param name="apart">Members who are a set of their own, with their addresses.</param>
/// <param name="inactive">Members who count as holding nothing.</param>
/// <param name="setOf">Used for the set that each member is in; empty.</param>
internal sealed class Gathering(
    (FactKind Kind, string Key)[] facts, Dictionary<Guid, string> apart, HashSet<Guid> inactive, Dictionary<Guid, int> setOf)
{
    /// <summary>So many of a set are known by name.</summary>
    public const int NamesOfSet = 20;

    private readonly List<int[]> sets = [[]];
    private readonly Dictionary<long, int> larger = [];
    private readonly Dictionary<string, int> byName = new(StringComparer.Ordinal);

    /// <summary>Takes all rows of a command that gives a member and the place of a fact.</summary>
    public async Task TakeAllAsync(DbCommand command, CancellationToken stop)
    {
        await using var reader = await command.ExecuteReaderAsync(stop);
        if (reader is SqliteDataReader { Handle: { } statement } rows)
        {
            TakeAll(rows, statement, stop);
            return;
        }

        while (await reader.ReadAsync(stop))
        {
            Take(reader.GetGuid(0), (int)reader.GetInt64(1));
        }
    }

    /// <summary>The same from SQLite, past its provider, which makes a text of every id first.</summary>
    private void TakeAll(SqliteDataReader rows, sqlite3_stmt statement, CancellationToken stop)
    {
        while (rows.Read())
        {
            stop.ThrowIfCancellationRequested();
            Take(Utf8Parser.TryParse(raw.sqlite3_column_blob(statement, 0), out Guid member, out _) ? member : rows.GetGuid(0),
                raw.sqlite3_column_int(statement, 1));
        }
    }

    private void Take(Guid member, int fact)
    {
        if (inactive.Contains(member))
        {
            return;
        }

        ref var mine = ref CollectionsMarshal.GetValueRefOrAddDefault(setOf, member, out _);
        ref var next = ref CollectionsMarshal.GetValueRefOrAddDefault(larger, ((long)mine << 32) | (uint)fact, out var known);
        mine = known ? next : next = With(mine, fact);
    }

    /// <summary>The sets, with some of their members.</summary>
    public List<(Visitor Visitor, int Members, List<Guid> Some)> Close()
    {
        var counts = new Dictionary<(int Set, string? Email), (int Members, List<Guid> Some)>();
        foreach (var (member, set) in setOf.Concat(apart.Keys.Where(id => !setOf.ContainsKey(id)).Select(id => KeyValuePair.Create(id, 0))))
        {
            ref var count = ref CollectionsMarshal.GetValueRefOrAddDefault(counts, (set, apart.GetValueOrDefault(member)), out var there);
            count = there ? count : (0, []);
            count.Members++;
            if (count.Some.Count < NamesOfSet)
            {
                count.Some.Add(member);
            }
        }

        var grants = Array.ConvertAll(facts, f => new Grant(f.Kind, f.Key));
        return [.. counts.Select(c => (
            new Visitor { IsSignedIn = true, Email = c.Key.Email, Grants = [.. sets[c.Key.Set].Select(f => grants[f])] }, c.Value.Members, c.Value.Some))];
    }

    /// <summary>The set with one fact more; the same fact may be held from several sources.</summary>
    private int With(int set, int fact)
    {
        if (sets[set].Contains(fact))
        {
            return set;
        }

        int[] all = [.. sets[set].Append(fact).Order()];
        var name = string.Join(' ', all);
        if (!byName.TryGetValue(name, out var number))
        {
            byName[name] = number = sets.Count;
            sets.Add(all);
        }

        return number;
    }
}
