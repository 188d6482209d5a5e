using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.People;

namespace WarySentinel.Storage;

/// <summary>Links that work once.</summary>
public sealed partial class Store
{
    /// <summary>The link with that digest, open or closed, or null.</summary>
    public async Task<SingleUseLink?> LinkAsync(string digest, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Links.AsNoTracking().FirstOrDefaultAsync(l => l.Digest == digest, stop))?.ToLink();
    }

    /// <summary>How many links were made about something since then.</summary>
    public async Task<int> LinksSinceAsync(Guid subject, DateTimeOffset since, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Links.CountAsync(l => l.Subject == subject && l.CreatedAt > since, stop);
    }

    /// <summary>Counts a try of a code; false where there were enough, or the link is closed.</summary>
    public async Task<bool> CountTryAsync(Guid link, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        return await db.Links.Where(l => l.Id == link && l.ClosedAt == null && l.Tries < AccountLinks.MostTries)
            .ExecuteUpdateAsync(set => set.SetProperty(l => l.Tries, l => l.Tries + 1), stop) == 1;
    }

    /// <summary>What links were made about something since then, the newest first.</summary>
    public async Task<IReadOnlyList<(LinkPurpose Purpose, DateTimeOffset At)>> LatelyMadeLinksAsync(
        Guid subject, DateTimeOffset since, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.Links.Where(l => l.Subject == subject && l.CreatedAt > since).OrderByDescending(l => l.CreatedAt).Take(AccountLinks.MostInADay)
            .Select(l => new { l.Purpose, l.CreatedAt }).ToListAsync(stop);
        return [.. rows.Select(r => ((LinkPurpose)r.Purpose, r.CreatedAt))];
    }

    /// <summary>The links about something, the newest first; their secrets are not kept.</summary>
    public async Task<IReadOnlyList<SingleUseLink>> LinksOfAsync(Guid subject, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.Links.AsNoTracking().Where(l => l.Subject == subject).OrderByDescending(l => l.CreatedAt).Take(most).ToListAsync(stop);
        return [.. rows.Select(l => l.ToLink())];
    }

    /// <summary>Links of all purposes, the newest first; their ids are in the order in which they were made.</summary>
    /// <param name="query">Which.</param>
    /// <param name="most">So many at most.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<SingleUseLink>> LinksAsync(LinkQuery query, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        var such = db.Links.AsNoTracking();
        such = query.State switch
        {
            "open" => such.Where(l => l.ClosedAt == null && l.Until > now),
            "late" => such.Where(l => l.ClosedAt == null && l.Until <= now),
            "used" => such.Where(l => l.ClosedBy == (int)LinkEnd.Used),
            "replaced" => such.Where(l => l.ClosedBy == (int)LinkEnd.Replaced),
            "withdrawn" => such.Where(l => l.ClosedBy == (int)LinkEnd.Withdrawn),
            null => such,
            _ => such.Where(l => false),
        };
        such = query.Purpose is { } purpose ? such.Where(l => l.Purpose == (int)purpose) : such;
        var words = query.Words?.Trim().ToLowerInvariant() ?? "";
        such = words.Length > 0 ? such.Where(l => l.Address.Contains(words)) : such;
        such = query.After is { } after ? such.Where(l => l.Id.CompareTo(after) < 0) : such;
        return [.. (await such.OrderByDescending(l => l.Id).Take(most).ToListAsync(stop)).Select(l => l.ToLink())];
    }

    /// <summary>The link of that id; null where there is none.</summary>
    public async Task<SingleUseLink?> LinkAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Links.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id, stop))?.ToLink();
    }

    /// <summary>Removes links that ended before then.</summary>
    public async Task<int> TrimLinksAsync(DateTimeOffset before, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        return await db.Links.Where(l => l.Until < before).ExecuteDeleteAsync(stop);
    }
}

/// <summary>Which links are asked for.</summary>
/// <param name="Purpose">Only those for this.</param>
/// <param name="State">Only those that stand so: <c>open</c>, <c>used</c>, <c>late</c>, <c>replaced</c> or <c>withdrawn</c>.</param>
/// <param name="Words">A part of the address that they went to.</param>
/// <param name="After">Only those that were made before this one.</param>
public sealed record LinkQuery(LinkPurpose? Purpose = null, string? State = null, string? Words = null, Guid? After = null);
