using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Audio;

namespace WarySentinel.Storage;

/// <summary>A subscriber with the name and the address by which they are known.</summary>
public sealed record NamedSubscriber(Subscriber Subscriber, string Name, string Email);

/// <summary>Subscribers of shows: read, and when they last read their feeds.</summary>
public sealed partial class Store
{
    /// <summary>The subscriber of that id; null where there is none.</summary>
    public async Task<Subscriber?> SubscriberAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Subscribers.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id, stop))?.ToSubscriber();
    }

    /// <summary>The subscriber that a member is of a show; null where they have no feed of it yet.</summary>
    public async Task<Subscriber?> SubscriberAsync(Guid member, string show, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Subscribers.AsNoTracking().FirstOrDefaultAsync(s => s.MemberId == member && s.Show == show, stop))?.ToSubscriber();
    }

    /// <summary>The feeds that a member has.</summary>
    public async Task<IReadOnlyList<Subscriber>> SubscribersOfAsync(Guid member, CancellationToken stop = default)
    {
        await using var db = open();
        return [.. (await db.Subscribers.AsNoTracking().Where(s => s.MemberId == member).OrderBy(s => s.Show).ToListAsync(stop)).Select(s => s.ToSubscriber())];
    }

    /// <summary>The subscribers of a show, whose addresses are the newest first.</summary>
    /// <param name="show">The key of the show.</param>
    /// <param name="after">Only those behind this one.</param>
    /// <param name="most">At most so many.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<NamedSubscriber>> SubscribersAsync(
        string show, (DateTimeOffset At, Guid Id)? after, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var such = db.Subscribers.AsNoTracking().Where(s => s.Show == show);
        if (after is var (at, id))
        {
            such = such.Where(s => s.Since < at || (s.Since == at && s.Id.CompareTo(id) < 0));
        }

        var rows = await such.OrderByDescending(s => s.Since).ThenByDescending(s => s.Id).Take(most)
            .Join(db.Members, s => s.MemberId, m => m.Id, (s, m) => new { Row = s, m.Name, m.Email }).OrderByDescending(r => r.Row.Since)
            .ThenByDescending(r => r.Row.Id).ToListAsync(stop);
        return [.. rows.Select(r => new NamedSubscriber(r.Row.ToSubscriber(), r.Name, r.Email))];
    }

    /// <summary>How many have a feed of each show.</summary>
    public async Task<IReadOnlyDictionary<string, int>> SubscriberCountsAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Subscribers.GroupBy(s => s.Show).Select(g => new { Show = g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Show, g => g.Count, stop);
    }

    /// <summary>Notes when a feed was read and by what.</summary>
    public async Task FeedReadAsync(Subscriber one, string? by, DateTimeOffset now, CancellationToken stop = default)
    {
        await using var db = open();
        await db.Subscribers.Where(s => s.Id == one.Id && s.Number == one.Number).ExecuteUpdateAsync(
            set => set.SetProperty(s => s.ReadAt, now).SetProperty(s => s.ReadBy, by), stop);
    }
}
