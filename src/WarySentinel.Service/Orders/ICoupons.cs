using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Orders;
using WarySentinel.Core.People;

namespace WarySentinel.Service.Orders;

/// <summary>Counts the coupons that orders were paid with.</summary>
public interface ICoupons
{
    /// <summary>
    /// What makes the uses of an order's coupon as the order has it: one while it is paid, none once all the money went back; null for nothing.
    /// </summary>
    /// <param name="policy">The policy.</param>
    /// <param name="order">The order.</param>
    /// <param name="story">Its story.</param>
    /// <param name="member">The account that it is for, which may be made in the same moment.</param>
    /// <param name="stop">Cancels.</param>
    Task<Edit?> SettleAsync(Policy policy, Order order, OrderStory story, Member? member, CancellationToken stop);
}
