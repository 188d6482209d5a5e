using WarySentinel.Core.Access;

namespace WarySentinel.Service.Pages;

/// <summary>Something that a member bought and that does not run: it waits to be begun, or rests.</summary>
/// <param name="Order">The order.</param>
/// <param name="Title">What people call it.</param>
/// <param name="RestsSince">Since when it rests; null where it waits to be begun.</param>
public sealed record IdlePlan(Guid Order, string Title, DateTimeOffset? RestsSince);

/// <summary>An order of a member, as they read it.</summary>
/// <param name="Name">What it is called where it was placed.</param>
/// <param name="Titles">What it gives, or its stock codes where it gives nothing yet.</param>
/// <param name="At">When it was paid; when it was told of, where it was not.</param>
/// <param name="State">How it stands with the money, in the reader's language.</param>
public sealed record BoughtLine(string Name, string Titles, DateTimeOffset At, string State);

/// <summary>Knows what a member bought: their orders, and what of it does not run, and begins that.</summary>
public interface IIdlePlans
{
    /// <summary>Their orders, the newest first; what was paid is left out, since a present is an order of whoever gets it.</summary>
    Task<IReadOnlyList<BoughtLine>> OrdersAsync(Policy policy, Guid member, CancellationToken stop);

    /// <summary>All that does not run.</summary>
    Task<IReadOnlyList<IdlePlan>> OfAsync(Policy policy, Guid member, CancellationToken stop);

    /// <summary>Begins what an order of theirs gives and waits for that; nothing where it does not.</summary>
    Task BeginAsync(Guid member, Guid order, CancellationToken stop);
}
