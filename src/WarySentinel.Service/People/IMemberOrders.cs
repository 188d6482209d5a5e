using WarySentinel.Contract.People;

namespace WarySentinel.Service.People;

/// <summary>Knows what a member bought.</summary>
public interface IMemberOrders
{
    /// <summary>Their orders, the newest first.</summary>
    Task<IReadOnlyList<MemberOrderView>> OfAsync(Guid member, CancellationToken stop);
}
