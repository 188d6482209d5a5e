using WarySentinel.Contract.People;

namespace WarySentinel.Service.People;

/// <summary>Knows which feeds a member has.</summary>
public interface IMemberFeeds
{
    /// <summary>Their feeds, by show.</summary>
    Task<IReadOnlyList<MemberFeedView>> OfAsync(Guid member, CancellationToken stop);
}
