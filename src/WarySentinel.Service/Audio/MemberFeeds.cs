using WarySentinel.Contract.People;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Audio;

/// <summary>The feeds that a member has.</summary>
internal sealed class MemberFeeds(Store store) : IMemberFeeds
{
    /// <inheritdoc/>
    public async Task<IReadOnlyList<MemberFeedView>> OfAsync(Guid member, CancellationToken stop) =>
        [.. (await store.SubscribersOfAsync(member, stop)).Select(s => new MemberFeedView(s.Show, s.Since, s.ReadAt, s.ReadBy))];
}
