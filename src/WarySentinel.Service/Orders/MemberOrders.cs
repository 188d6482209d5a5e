using WarySentinel.Contract.People;
using WarySentinel.Core.Orders;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Orders;

/// <summary>What a member bought, for whoever is given all that is known of them.</summary>
public sealed class MemberOrders(Store store) : IMemberOrders
{
    private const int Most = 1000;

    /// <inheritdoc/>
    public async Task<IReadOnlyList<MemberOrderView>> OfAsync(Guid member, CancellationToken stop)
    {
        var views = new List<MemberOrderView>();
        foreach (var order in await store.OrdersAsync(new OrderQuery(Member: member), Most, stop))
        {
            var told = await store.OrderEventsAsync(order.Source, order.Key, stop);
            views.Add(new MemberOrderView(
                order.Subject, order.At, order.Codes, order.Total?.ToString(), OrderWords.NameOf(order.Standing),
                [.. told.Where(e => e.Event is not null).Select(e =>
                    $"{e.Event!.At:u} {OrderEvent.NameOf(e.Event.Kind)} {e.Event.Buyer?.Email} {e.Event.Amount}")]));
        }

        return views;
    }
}
