using Microsoft.EntityFrameworkCore;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Storage.Orders;
using WarySentinel.Storage.People;

namespace WarySentinel.Storage;

/// <summary>Orders, and what was told of them.</summary>
public sealed partial class Store
{
    /// <summary>The order of that id; null where there is none.</summary>
    public async Task<Order?> OrderAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Orders.AsNoTracking().FirstOrDefaultAsync(o => o.Id == id, stop))?.ToOrder();
    }

    /// <summary>The order of that name; null where there is none.</summary>
    public async Task<Order?> OrderAsync(string source, string key, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Orders.AsNoTracking().FirstOrDefaultAsync(o => o.Source == source && o.Key == key, stop))?.ToOrder();
    }

    /// <summary>The order that a browser brings back from paying, by the SHA-256 of what it brings; null where nobody has told of it.</summary>
    public async Task<Order?> OrderByTokenAsync(string digest, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.Orders.AsNoTracking().Where(o => o.TokenDigest == digest).OrderBy(o => o.At).FirstOrDefaultAsync(stop))?.ToOrder();
    }

    /// <summary>Everything that was told of an order, in the order in which it came.</summary>
    public async Task<IReadOnlyList<KeptEvent>> OrderEventsAsync(string source, string key, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.OrderEvents.AsNoTracking().Where(e => e.Source == source && e.Order == key).OrderBy(e => e.ReceivedAt).ThenBy(e => e.Id)
            .ToListAsync(stop);
        return [.. rows.Select(r => r.ToEvent())];
    }

    /// <summary>The event of that id; null where there is none.</summary>
    public async Task<KeptEvent?> OrderEventAsync(Guid id, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.OrderEvents.AsNoTracking().FirstOrDefaultAsync(e => e.Id == id, stop))?.ToEvent();
    }

    /// <summary>The event of that name, in the words of whoever told it; null where there is none.</summary>
    public async Task<KeptEvent?> OrderEventAsync(string source, string name, CancellationToken stop = default)
    {
        await using var db = open();
        return (await db.OrderEvents.AsNoTracking().FirstOrDefaultAsync(e => e.Source == source && e.Name == name, stop))?.ToEvent();
    }

    /// <summary>Events that are not taken up, the oldest first.</summary>
    /// <param name="state">Those that wait, or those that cannot be read.</param>
    /// <param name="before">Only those that came before.</param>
    /// <param name="most">So many at most.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<KeptEvent>> WaitingEventsAsync(OrderEventState state, DateTimeOffset? before, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var such = db.OrderEvents.AsNoTracking().Where(e => e.State == (int)state);
        var rows = await (before is { } at ? such.Where(e => e.ReceivedAt < at) : such).OrderBy(e => e.ReceivedAt).ThenBy(e => e.Id).Take(most)
            .ToListAsync(stop);
        return [.. rows.Select(r => r.ToEvent())];
    }

    /// <summary>How many events cannot be read.</summary>
    public async Task<int> UnreadableEventsAsync(CancellationToken stop = default)
    {
        await using var db = open();
        return await db.OrderEvents.CountAsync(e => e.State == (int)OrderEventState.Unreadable, stop);
    }

    /// <summary>The orders of a member that gave them something, each with its story.</summary>
    public async Task<IReadOnlyList<ToldOrder>> OrdersOfAsync(Guid member, CancellationToken stop = default)
    {
        await using var db = open();
        return await WithStoriesAsync(
            db, await db.Orders.AsNoTracking().Where(o => o.MemberId == member).OrderBy(o => o.At).ThenBy(o => o.Id).ToListAsync(stop), stop);
    }

    private static async Task<IReadOnlyList<ToldOrder>> WithStoriesAsync(StoreContext db, List<OrderRow> orders, CancellationToken stop)
    {
        if (orders.Count == 0)
        {
            return [];
        }

        var (sources, keys) = (orders.Select(o => o.Source).Distinct().ToList(), orders.Select(o => o.Key).ToList());
        var rows = await db.OrderEvents.AsNoTracking().Where(e => EF.Parameter(sources).Contains(e.Source) && EF.Parameter(keys).Contains(e.Order))
            .ToListAsync(stop);
        var events = rows.Select(r => r.ToEvent()).Where(e => e.Event is not null).ToLookup(e => (e.Source, e.Event!.Order), e => e.Event!);
        return [.. orders.Select(o => new ToldOrder(o.ToOrder(), OrderStory.Of(events[(o.Source, o.Key)])))];
    }

    /// <summary>All orders, each with its story, by their ids.</summary>
    /// <param name="after">Behind that one; null for the first.</param>
    /// <param name="most">So many at most.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<IReadOnlyList<ToldOrder>> ToldOrdersAsync(Guid? after, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var orders = db.Orders.AsNoTracking();
        orders = after is { } last ? orders.Where(o => o.Id.CompareTo(last) > 0) : orders;
        return await WithStoriesAsync(db, await orders.OrderBy(o => o.Id).Take(most).ToListAsync(stop), stop);
    }

    /// <summary>The orders of these names, each with its story.</summary>
    public async Task<IReadOnlyList<ToldOrder>> ToldOrdersAsync(IReadOnlyCollection<(string Source, string Key)> names, CancellationToken stop = default)
    {
        await using var db = open();
        var keys = names.Select(n => n.Key).ToList();
        var orders = await db.Orders.AsNoTracking().Where(o => EF.Parameter(keys).Contains(o.Key)).ToListAsync(stop);
        return await WithStoriesAsync(db, [.. orders.Where(o => names.Contains((o.Source, o.Key)))], stop);
    }

    /// <summary>Plans by order that end between two moments and are followed by no more of the same, in the order of their ends.</summary>
    public async Task<IReadOnlyList<EndedPlan>> EndsOfPlansAsync(DateTimeOffset from, DateTimeOffset until, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var rows = await db.Grants.AsNoTracking().Unfollowed(db)
            .Where(g => g.Kind == (int)FactKind.Plan && g.Source == "order" && g.Until > from && g.Until <= until)
            .OrderBy(g => g.Until).ThenBy(g => g.Id).Take(most).ToListAsync(stop);
        return [.. rows.Select(g => g.ToGrant()).Select(g => new EndedPlan(g.Key, g.Until!.Value, g.Source.Reference))];
    }

    /// <summary>Orders, the newest first.</summary>
    public async Task<IReadOnlyList<Order>> OrdersAsync(OrderQuery query, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var such = Such(db, query);
        if (query.After is var (at, id))
        {
            such = such.Where(o => o.At < at || (o.At == at && o.Id.CompareTo(id) < 0));
        }

        var rows = await such.OrderByDescending(o => o.At).ThenByDescending(o => o.Id).Take(most).ToListAsync(stop);
        return [.. rows.Select(r => r.ToOrder())];
    }

    /// <summary>How many orders there are of a sort.</summary>
    public async Task<int> OrderCountAsync(OrderQuery query, CancellationToken stop = default)
    {
        await using var db = open();
        return await Such(db, query).CountAsync(stop);
    }

    /// <summary>Orders that are to be looked at again by themselves, as their day has come.</summary>
    public async Task<IReadOnlyList<Order>> OrdersDueAsync(int most, CancellationToken stop = default)
    {
        await using var db = open();
        var now = time.GetUtcNow();
        var rows = await db.Orders.AsNoTracking().Where(o => o.DueAt != null && o.DueAt <= now).OrderBy(o => o.DueAt).ThenBy(o => o.Id).Take(most)
            .ToListAsync(stop);
        return [.. rows.Select(r => r.ToOrder())];
    }

    /// <summary>Plans that end between two moments and of which no more follows, in the order of their ends.</summary>
    public async Task<IReadOnlyList<EndingPlan>> EndingPlansAsync(
        string plan, DateTimeOffset from, DateTimeOffset until, (DateTimeOffset Until, Guid Grant)? after, int most, CancellationToken stop = default)
    {
        await using var db = open();
        var ending = db.Grants.AsNoTracking().Unfollowed(db).Where(g => g.Kind == (int)FactKind.Plan && g.Key == plan && g.Until > from && g.Until <= until);
        if (after is var (at, id))
        {
            ending = ending.Where(g => g.Until > at || (g.Until == at && g.Id.CompareTo(id) > 0));
        }

        var rows = await ending.OrderBy(g => g.Until).ThenBy(g => g.Id).Take(most).ToListAsync(stop);
        return [.. rows.Select(g => new EndingPlan(g.Id, g.MemberId, g.Key, g.Until!.Value))];
    }

    /// <summary>Whether somebody was written that letter about that end.</summary>
    public async Task<bool> WasRemindedAsync(Guid grant, string kind, DateTimeOffset until, CancellationToken stop = default)
    {
        await using var db = open();
        return await db.Reminders.AnyAsync(r => r.GrantId == grant && r.Kind == kind && r.Until == until, stop);
    }

    private static IQueryable<OrderRow> Such(StoreContext db, OrderQuery query)
    {
        var such = db.Orders.AsNoTracking();
        such = query.Standing is { } standing ? such.Where(o => o.Standing == (int)standing) : such;
        such = query.Handling is { } handling ? such.Where(o => o.Handling == (int)handling) : such;
        such = query.Member is { } member ? such.Where(o => o.MemberId == member) : such;
        var words = query.Words?.Trim().ToLowerInvariant() ?? "";
        return words.Length > 0 ? such.Where(o => o.Search.Contains(words)) : such;
    }
}

/// <summary>A plan by order that ended, or ends.</summary>
/// <param name="Plan">The plan.</param>
/// <param name="Until">When.</param>
/// <param name="Reference">The order, with the number of its payment, as grants name it.</param>
public sealed record EndedPlan(string Plan, DateTimeOffset Until, string Reference);

/// <summary>Which orders are asked for.</summary>
/// <param name="Standing">How it stands with the money.</param>
/// <param name="Handling">How far they are fulfilled.</param>
/// <param name="Words">A part of their name, address or stock codes.</param>
/// <param name="Member">Whose.</param>
/// <param name="After">Behind that one.</param>
public sealed record OrderQuery(
    OrderStanding? Standing = null, OrderHandling? Handling = null, string? Words = null, Guid? Member = null, (DateTimeOffset At, Guid Id)? After = null);
