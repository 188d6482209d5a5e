using System.Data.Common;
using System.Globalization;
using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>Something that ends, and for whom.</summary>
public sealed record StoredEnd(Guid Member, string Name, FactKind Kind, string Key, DateTimeOffset Until);

/// <summary>Numbers of members over time.</summary>
public sealed partial class Store
{
    /// <summary>How many accounts stand so.</summary>
    public async Task<int> MemberCountAsync(MemberStatus status, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Members.CountAsync(m => m.Status == (int)status, stop);
    }

    /// <summary>How many accounts were made since a moment.</summary>
    public async Task<int> MembersSinceAsync(DateTimeOffset at, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Members.CountAsync(m => m.CreatedAt > at, stop);
    }

    /// <summary>How many accounts were made before each of those moments, which stand in order: each is counted once.</summary>
    public async Task<IReadOnlyList<int>> MembersAtAsync(IReadOnlyList<DateTimeOffset> moments, CancellationToken stop = default)
    {
        await using var db = open();
        var (counts, from, all) = (new List<int>(), DateTimeOffset.MinValue, 0);
        foreach (var at in moments)
        {
            all += await db.Members.CountAsync(m => m.CreatedAt > from && m.CreatedAt <= at, stop);
            counts.Add(all);
            from = at;
        }

        return counts;
    }

    /// <summary>
    /// How many grants of each fact were in force at each of those moments, in one walk over them: a member who held a fact from two sources at once
    /// counts twice.
    /// </summary>
    public async Task<IReadOnlyDictionary<(FactKind Kind, string Key), int[]>> HeldAtAsync(
        IReadOnlyList<DateTimeOffset> moments, CancellationToken stop = default)
    {
        await using var db = open();
        // Whole numbers only; nothing of it was typed by anybody.
        var sums = moments.Select(m => m.UtcTicks.ToString(CultureInfo.InvariantCulture)).Select(
            t => $"""SUM(CASE WHEN COALESCE(g."From", m."CreatedAt") <= {t} AND (g."Until" IS NULL OR g."Until" > {t}) THEN 1 ELSE 0 END)""");
        var found = new Dictionary<(FactKind, string), int[]>();
        await db.Database.OpenConnectionAsync(stop);
        await using DbCommand command = db.Database.GetDbConnection().CreateCommand();
        command.CommandText = $"""
            SELECT g."Kind", g."Key", {string.Join(", ", sums)} FROM grants AS g JOIN members AS m ON m."Id" = g."MemberId"
            WHERE g."Kind" IN (0, 2) GROUP BY g."Kind", g."Key"
            """;
        await using var reader = await command.ExecuteReaderAsync(stop);
        while (await reader.ReadAsync(stop))
        {
            found[((FactKind)reader.GetInt32(0), reader.GetString(1))] =
                [.. Enumerable.Range(2, moments.Count).Select(i => (int)reader.GetInt64(i))];
        }

        return found;
    }

    /// <summary>
    /// What ends between two moments for members, also those who were only invited yet, and is followed by nothing of the same, soonest first, and how much of
    /// it there is.
    /// </summary>
    public async Task<(IReadOnlyList<StoredEnd> First, int InAll)> EndsAsync(
        DateTimeOffset from, DateTimeOffset until, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var ending = db.Grants.Unfollowed(db).Where(g => g.Until > from && g.Until <= until)
            .Join(
                // Who bought and was not in yet has it all the same.
                db.Members.Where(m => m.Status == (int)MemberStatus.Active || m.Status == (int)MemberStatus.Invited), g => g.MemberId, m => m.Id,
                (g, m) => new { Grant = g, m.Name });
        var first = await ending.OrderBy(e => e.Grant.Until).ThenBy(e => e.Name).Take(most).AsNoTracking().ToListAsync(stop);
        return ([.. first.Select(e => new StoredEnd(e.Grant.MemberId, e.Name, (FactKind)e.Grant.Kind, e.Grant.Key, e.Grant.Until!.Value))],
            await ending.CountAsync(stop));
    }
}
