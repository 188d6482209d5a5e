using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Orders;

/// <summary>
/// What was bought and does not run: it rests, or waits to be begun by its buyer or by its first use (docs/how-to/plans.md). Begun from several machines at
/// once it is begun once: the event has the same name on each.
/// </summary>
public sealed class IdlePlans(Store store, OrderIntake intake, OrderDesk desk, ILogger<IdlePlans> log) : IIdlePlans, IFirstUse
{
    private const int MostOrders = 20;

    /// <inheritdoc/>
    public async Task<IReadOnlyList<BoughtLine>> OrdersAsync(Policy policy, Guid member, CancellationToken stop) =>
        [.. (await store.OrdersAsync(new OrderQuery(Member: member), MostOrders, stop)).Select(
            o => new BoughtLine(o.Key, TitlesOf(policy, o), o.At, PageWords.Of("account.order-" + StateOf(o.Standing))))];

    /// <inheritdoc/>
    public async Task<IReadOnlyList<IdlePlan>> OfAsync(Policy policy, Guid member, CancellationToken stop)
    {
        var idle = new List<IdlePlan>();
        foreach (var told in await store.OrdersOfAsync(member, stop))
        {
            if (told.Story.PausedAt is { } since)
            {
                var plans = told.Story.Present.SelectMany(l => told.Order.Promises.Where(p => p.Line == l.Place)).SelectMany(p => p.Facts)
                    .Where(f => f.Length is not null).Select(f => f.Fact);
                idle.AddRange(Named(policy, plans).Select(title => new IdlePlan(told.Order.Id, title, since)));
            }
            else
            {
                // What opens already, and counts from then, is listed among what they have.
                idle.AddRange(Named(policy, ByHand(told)).Select(title => new IdlePlan(told.Order.Id, title, null)));
            }
        }

        return idle;
    }

    /// <inheritdoc/>
    public async Task BeginAsync(Guid member, Guid order, CancellationToken stop)
    {
        if ((await store.OrdersOfAsync(member, stop)).FirstOrDefault(t => t.Order.Id == order) is { Story.PausedAt: null } told && ByHand(told).Any())
        {
            await BeginAsync(told, "buyer", stop);
        }
    }

    /// <inheritdoc/>
    public async ValueTask OpenedAsync(RequestIdentity identity, Policy policy, Func<Visitor, bool> opens, DateTimeOffset now)
    {
        if (!identity.Visitor.MayStart || identity.Viewpoint is not null || identity.Visitor.Email is not { } email)
        {
            return;
        }

        try
        {
            await BeginUsedAsync(identity.Visitor, email, policy, opens, now);
        }
        catch (Exception fault)
        {
            // They are in all the same, and the next use begins it.
            log.LogWarning("What {Email} bought could not be begun: {Reason}", email, fault.GetBaseException().Message);
        }
    }

    private async Task BeginUsedAsync(Visitor visitor, string email, Policy policy, Func<Visitor, bool> opens, DateTimeOffset now)
    {
        var waiting = visitor.Grants.Where(g => g is { Kind: FactKind.Plan, Until: null, Source.Kind: "order" } && g.IsInForce(now)
            && policy.FindDefinition(FactKind.Plan, g.Key) is { Starts: PlanStart.OnUse, Length: not null }).ToList();
        if (waiting.Count == 0 || await store.MemberByNameAsync(email, CancellationToken.None) is not { } member)
        {
            return;
        }

        foreach (var told in await store.OrdersOfAsync(member.Id, CancellationToken.None))
        {
            // What would be open without it is no use of it.
            if (told.Waits.Count > 0 && waiting.Exists(told.Order.Gave) && !opens(visitor.WithGrants([.. visitor.Grants.Where(g => !told.Order.Gave(g))])))
            {
                await BeginAsync(told, email, CancellationToken.None);
            }
        }
    }

    private async Task BeginAsync(ToldOrder told, string by, CancellationToken stop)
    {
        var (order, now) = (told.Order, intake.Now);
        var name = $"started {order.Key}";
        var started = new OrderEvent { Id = name, Order = order.Key, Kind = OrderEventKind.Started, At = now };
        await intake.KeepAsync(new KeptEvent(Guid.CreateVersion7(), order.Source, name, now, OrderEventState.Waiting, started), by, stop);
        await desk.TakeUpAsync(order.Source, order.Key, by, stop);
    }

    private static IEnumerable<GivenFact> ByHand(ToldOrder told)
    {
        var waits = told.Waits;
        return told.Order.Promises.SelectMany(p => p.Facts).Where(f => f.Starts == PlanStart.ByHand && waits.Contains(f.Fact)).Select(f => f.Fact).Distinct();
    }

    private static string TitlesOf(Policy policy, Order order)
    {
        var promised = order.Promises.SelectMany(p => p.Facts).Select(f => f.Fact).Distinct().Select(f => OrderDesk.TitleOf(policy, f)).ToList();
        return promised.Count > 0 ? string.Join(", ", promised) : order.Codes;
    }

    /// <summary>The word for how an order stands.</summary>
    private static string StateOf(OrderStanding standing) => standing switch
    {
        OrderStanding.Paid => "paid",
        OrderStanding.PartRefunded => "part-refunded",
        OrderStanding.Cancelled => "cancelled",
        OrderStanding.PastDue => "past-due",
        OrderStanding.Refunded => "refunded",
        OrderStanding.ChargedBack => "charged-back",
        OrderStanding.Ended => "ended",
        OrderStanding.Paused => "paused",
        _ => "open",
    };

    private static IEnumerable<string> Named(Policy policy, IEnumerable<GivenFact> facts)
    {
        var all = facts.Distinct().ToList();
        return (all.Exists(f => f.Kind == FactKind.Plan) ? all.FindAll(f => f.Kind == FactKind.Plan) : all).Select(f => OrderDesk.TitleOf(policy, f));
    }
}
