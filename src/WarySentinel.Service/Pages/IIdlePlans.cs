using WarySentinel.Core.Access;

namespace WarySentinel.Service.Pages;

/// <summary>Something that a member bought and that does not run: it waits to be begun, or rests.</summary>
/// <param name="Order">The order.</param>
/// <param name="Title">What people call it.</param>
/// <param name="RestsSince">Since when it rests; null where it waits to be begun.</param>
public sealed record IdlePlan(Guid Order, string Title, DateTimeOffset? RestsSince);

/// <summary>Knows what a member bought and does not run, and begins it.</summary>
public interface IIdlePlans
{
    /// <summary>All of it.</summary>
    Task<IReadOnlyList<IdlePlan>> OfAsync(Policy policy, Guid member, CancellationToken stop);

    /// <summary>Begins what an order of theirs gives and waits for that; nothing where it does not.</summary>
    Task BeginAsync(Guid member, Guid order, CancellationToken stop);
}
