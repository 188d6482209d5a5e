using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Service.Pages;

/// <summary>Something off, that a member may have.</summary>
/// <param name="Title">What people call it.</param>
/// <param name="Code">What they type in the cart.</param>
/// <param name="Worth">What it takes off.</param>
/// <param name="Until">Until when.</param>
public sealed record OfferLine(string Title, string Code, string Worth, DateTimeOffset? Until);

/// <summary>Knows what a member may have off.</summary>
public interface IOffers
{
    /// <summary>What is for them and not for everybody, and still to be used.</summary>
    Task<IReadOnlyList<OfferLine>> ForAsync(Policy policy, Visitor visitor, Guid member, DateTimeOffset now, CancellationToken stop);
}
