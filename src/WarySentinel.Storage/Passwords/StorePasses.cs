using Microsoft.EntityFrameworkCore;
using WarySentinel.Core;
using WarySentinel.Core.Passwords;
using WarySentinel.Storage.Passwords;

namespace WarySentinel.Storage;

/// <summary>Which passes are asked for.</summary>
/// <param name="Kind">Only of this kind.</param>
/// <param name="Words">Words that their names, holders or addresses hold.</param>
/// <param name="Standing">Only those that stand so: <c>in-force</c>, <c>later</c>, <c>over</c>, <c>used-up</c> or <c>withdrawn</c>.</param>
/// <param name="After">Only those that were made before this one.</param>
public sealed record PassQuery(string? Kind = null, string? Words = null, string? Standing = null, (DateTimeOffset At, Guid Id)? After = null);

/// <summary>Passes: read, counted.</summary>
public sealed partial class Store
{
    /// <summary>The pass of that id; null where there is none.</summary>
    public async Task<Pass?> PassAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Passes.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id, stop))?.ToPass();
    }

    /// <summary>The pass of that sign-in name; null where there is none.</summary>
    public async Task<Pass?> PassByNameAsync(string name, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Passes.AsNoTracking().FirstOrDefaultAsync(p => p.Name == name, stop))?.ToPass();
    }

    /// <summary>The passes that came by an order.</summary>
    /// <param name="order">The order, as a pass names it.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<Pass>> PassesOfOrderAsync(string order, CancellationToken stop = default)
    {
        await using var db = open();
        return [.. (await db.Passes.AsNoTracking().Where(p => p.Order == order).OrderBy(p => p.CreatedAt).ThenBy(p => p.Id).ToListAsync(stop))
            .Select(p => p.ToPass())];
    }

    /// <summary>Passes, the newest first.</summary>
    public async Task<IReadOnlyList<Pass>> PassesAsync(PassQuery query, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var such = Such(db.Passes.AsNoTracking(), query);
        if (query.After is var (at, id))
        {
            such = such.Where(p => p.CreatedAt < at || (p.CreatedAt == at && p.Id.CompareTo(id) < 0));
        }

        return [.. (await such.OrderByDescending(p => p.CreatedAt).ThenByDescending(p => p.Id).Take(most).ToListAsync(stop)).Select(p => p.ToPass())];
    }

    /// <summary>How many passes there are of a sort.</summary>
    public async Task<int> PassCountAsync(PassQuery query, CancellationToken stop = default)
    {
        await using var db = open();
        return await Such(db.Passes, query).CountAsync(stop);
    }

    /// <summary>How many passes of each kind are not over.</summary>
    public async Task<IReadOnlyDictionary<string, int>> PassesByKindAsync(CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        return await db.Passes.Where(p => p.WithdrawnAt == null && (p.Until == null || p.Until > now)).GroupBy(p => p.Kind)
            .Select(g => new { g.Key, Count = g.Count() }).ToDictionaryAsync(g => g.Key, g => g.Count, stop);
    }

    /// <summary>From how many networks each of these passes was used lately; those never used are left out.</summary>
    public async Task<IReadOnlyDictionary<Guid, int>> PassNetworksAsync(IReadOnlyList<Guid> passes, CancellationToken stop = default)
    {
        await using var db = open();
        var since = time.GetUtcNow() - Pass.NetworkLasts;
        return await db.PassNetworks.Where(n => passes.Contains(n.PassId) && n.LastAt > since).GroupBy(n => n.PassId)
            .Select(g => new { g.Key, Count = g.Count() }).ToDictionaryAsync(g => g.Key, g => g.Count, stop);
    }

    /// <summary>
    /// Counts a use of a pass that is in force, unless it has none left or comes from one network too many. What comes from one network within
    /// <see cref="Pass.UseLasts"/> is one use.
    /// </summary>
    /// <returns>Whether it may be used.</returns>
    public async Task<bool> UsePassAsync(Guid pass, string network, CancellationToken stop = default)
    {
        var now = time.GetUtcNow();
        var (recent, since) = (now - Pass.UseLasts, now - Pass.NetworkLasts);
        var (may, _) = await WriteAsync(
            async writing =>
            {
                var db = writing.Db;
                var mine = db.Passes.Where(p => p.Id == pass && p.WithdrawnAt == null && (p.From == null || p.From <= now)
                    && (p.Until == null || p.Until > now));
                // Takes the row, so that uses at the same moment count one after the other, on every machine.
                if (await mine.ExecuteUpdateAsync(set => set.SetProperty(p => p.Uses, p => p.Uses), stop) == 0)
                {
                    return false;
                }

                if (await db.PassNetworks.AnyAsync(n => n.PassId == pass && n.Network == network && n.LastAt > recent, stop))
                {
                    return true;
                }

                var isKnown = await db.PassNetworks.AnyAsync(n => n.PassId == pass && n.Network == network && n.LastAt > since, stop);
                var networks = await db.PassNetworks.CountAsync(n => n.PassId == pass && n.LastAt > since, stop);
                var counted = await mine.Where(p => (p.MostUses == null || p.Uses < p.MostUses)
                    && (p.MostNetworks == null || isKnown || networks < p.MostNetworks)).ExecuteUpdateAsync(
                    set => set.SetProperty(p => p.Uses, p => p.Uses + 1).SetProperty(p => p.LastUsedAt, now), stop);
                if (counted > 0 && await db.PassNetworks.Where(n => n.PassId == pass && n.Network == network)
                    .ExecuteUpdateAsync(set => set.SetProperty(n => n.LastAt, now), stop) == 0)
                {
                    writing.Rows.Insert(new PassNetworkRow { PassId = pass, Network = network, FirstAt = now, LastAt = now });
                }

                return counted > 0;
            },
            stop);
        return may;
    }

    private IQueryable<PassRow> Such(IQueryable<PassRow> all, PassQuery query)
    {
        var now = time.GetUtcNow();
        foreach (var word in Spelling.Folded(query.Words ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries).Take(8))
        {
            all = all.Where(p => p.Search.Contains(word));
        }

        all = query.Kind is { } kind ? all.Where(p => p.Kind == kind) : all;
        return query.Standing switch
        {
            "withdrawn" => all.Where(p => p.WithdrawnAt != null),
            "over" => all.Where(p => p.WithdrawnAt == null && p.Until <= now),
            "later" => all.Where(p => p.WithdrawnAt == null && (p.Until == null || p.Until > now) && p.From > now),
            "used-up" => all.Where(p => p.WithdrawnAt == null && (p.Until == null || p.Until > now) && (p.From == null || p.From <= now)
                && p.Uses >= p.MostUses),
            "in-force" => all.Where(p => p.WithdrawnAt == null && (p.Until == null || p.Until > now) && (p.From == null || p.From <= now)
                && (p.MostUses == null || p.Uses < p.MostUses)),
            _ => all,
        };
    }
}
