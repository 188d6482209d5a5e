using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Service.People;

/// <summary>Begins what was bought and counts from its first use.</summary>
public interface IFirstUse
{
    /// <summary>Somebody was let in: what opened it, and waited for that, begins.</summary>
    /// <param name="identity">Who.</param>
    /// <param name="policy">The policy.</param>
    /// <param name="opens">Whether a visitor is let in there.</param>
    /// <param name="now">Now.</param>
    ValueTask OpenedAsync(RequestIdentity identity, Policy policy, Func<Visitor, bool> opens, DateTimeOffset now);
}
