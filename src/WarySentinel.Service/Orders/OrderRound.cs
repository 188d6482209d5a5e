using WarySentinel.Core.Orders;
using WarySentinel.Service.Access;
using WarySentinel.Storage;

namespace WarySentinel.Service.Orders;

/// <summary>What comes round by itself: events that a machine left, presents whose day has come, orders that waited for a rule.</summary>
public sealed class OrderRound(Store store, OrderDesk desk, PolicyHolder policies, TimeProvider time, ILogger<OrderRound> log)
{
    private const int AtOnce = 500;
    private static readonly TimeSpan Settled = TimeSpan.FromSeconds(3);
    private static readonly TimeSpan Again = TimeSpan.FromMinutes(5);
    private long looked = -1;
    private DateTimeOffset lookedAt;

    private bool IsToLookAgain => policies.Revision != looked || time.GetUtcNow() - lookedAt >= Again;

    /// <summary>Whether anything waits.</summary>
    public async Task<bool> IsDueAsync(CancellationToken stop) => IsToLookAgain
        || (await store.WaitingEventsAsync(OrderEventState.Waiting, time.GetUtcNow() - Settled, 1, stop)).Count > 0
        || (await store.OrdersDueAsync(1, stop)).Count > 0;

    /// <summary>Does what is due.</summary>
    public async Task RunDueAsync(CancellationToken stop)
    {
        var now = time.GetUtcNow();
        var left = await store.WaitingEventsAsync(OrderEventState.Waiting, now - Settled, AtOnce, stop);
        await TakeUpAsync([.. left.Where(e => e.Event is not null).Select(e => (e.Source, e.Event!.Order)).Distinct()], stop);
        await TakeUpAsync(await store.OrdersDueAsync(AtOnce, stop), stop);
        if (!IsToLookAgain)
        {
            return;
        }

        // A rule may be there by now, or somebody reinstated.
        (looked, lookedAt) = (policies.Revision, now);
        (DateTimeOffset, Guid)? after = null;
        while (await store.OrdersAsync(new OrderQuery(Handling: OrderHandling.Waiting, After: after), AtOnce, stop) is { Count: > 0 } some)
        {
            after = (some[^1].At, some[^1].Id);
            await TakeUpAsync(some, stop);
        }
    }

    private Task TakeUpAsync(IReadOnlyList<Order> orders, CancellationToken stop) => TakeUpAsync([.. orders.Select(o => (o.Source, o.Key))], stop);

    /// <summary>Takes each up; one that fails keeps no other waiting.</summary>
    private async Task TakeUpAsync(IReadOnlyList<(string Source, string Order)> orders, CancellationToken stop)
    {
        foreach (var (source, key) in orders)
        {
            stop.ThrowIfCancellationRequested();
            try
            {
                await desk.TakeUpAsync(source, key, "orders", stop);
            }
            catch (Exception fault) when (!stop.IsCancellationRequested)
            {
                log.LogWarning("The order {Source}:{Order} waits for the next round: {Reason}", source, key, fault.Message);
            }
        }
    }
}
