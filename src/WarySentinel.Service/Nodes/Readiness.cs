using WarySentinel.Core;
using WarySentinel.Storage;

namespace WarySentinel.Service.Nodes;

/// <summary>Whether this machine can do its work. Asked often, by whoever likes: the store is tried every second at most.</summary>
public sealed class Readiness(Store store, FeedFollower follower, TimeProvider time)
{
    private static readonly TimeSpan Kept = TimeSpan.FromSeconds(1);
    private readonly SemaphoreSlim one = new(1, 1);
    private DateTimeOffset tried;
    private StoreHealth health;

    /// <summary>Why it is not ready, or null.</summary>
    public async Task<string?> FaultAsync()
    {
        await one.WaitAsync();
        try
        {
            if (time.GetUtcNow() - tried >= Kept)
            {
                health = await store.HealthAsync();
                tried = time.GetUtcNow();
            }
        }
        finally
        {
            one.Release();
        }

        return health switch
        {
            StoreHealth.Good => follower.Lags ? Words.Of("web.lags") : null,
            StoreHealth.Full => Words.Of("problem.storage-full"),
            _ => Words.Of("web.store-silent"),
        };
    }
}
