using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;

namespace WarySentinel.Storage;

/// <summary>Wrong tries, counted where every machine sees them.</summary>
public sealed partial class Store
{
    /// <summary>What is counted under each name; nothing for those that are not.</summary>
    public async Task<IReadOnlyDictionary<string, WrongTries>> TriesAsync(IReadOnlyList<string> names, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Tries.AsNoTracking().Where(t => names.Contains(t.Name)).ToDictionaryAsync(t => t.Name, t => new WrongTries((int)t.Wrong, t.Last), stop);
    }

    /// <summary>Counts a wrong try under a name, from one on where it was quiet since a time; gives the count.</summary>
    /// <param name="name">The name; a keyed digest.</param>
    /// <param name="quietSince">The time before which tries are forgotten.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<WrongTries> CountTryAsync(string name, DateTimeOffset quietSince, CancellationToken stop = default)
    {
        var now = time.GetUtcNow();
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        var (ticks, since) = (now.UtcTicks, quietSince.UtcTicks);
        var counts = await db.Database.SqlQuery<long>($"""
            INSERT INTO tries ("Name", "Wrong", "Last") VALUES ({name}, 1, {ticks})
            ON CONFLICT ("Name") DO UPDATE SET "Wrong" = CASE WHEN tries."Last" <= {since} THEN 1 ELSE tries."Wrong" + 1 END, "Last" = excluded."Last"
            RETURNING "Wrong" AS "Value"
            """).ToListAsync(stop);
        return new WrongTries((int)counts[0], now);
    }

    /// <summary>Forgets tries older than a time.</summary>
    public async Task<int> ForgetTriesAsync(DateTimeOffset before, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        return await db.Tries.Where(t => t.Last < before).ExecuteDeleteAsync(stop);
    }
}
