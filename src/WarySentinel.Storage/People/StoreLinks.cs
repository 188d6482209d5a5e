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

    /// <summary>Removes links that ended before then.</summary>
    public async Task<int> TrimLinksAsync(DateTimeOffset before, CancellationToken stop = default)
    {
        using var turn = await TurnToWriteAsync(stop);
        await using var db = open();
        return await db.Links.Where(l => l.Until < before).ExecuteDeleteAsync(stop);
    }
}
