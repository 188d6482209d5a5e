using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Service.Pages;

/// <summary>Knows which shows somebody may listen to.</summary>
public interface IShows
{
    /// <summary>The shows that the gates let a visitor listen to and keep from guests, and where.</summary>
    IReadOnlyList<SiteLink> For(Policy policy, Visitor visitor, DateTimeOffset now);
}
