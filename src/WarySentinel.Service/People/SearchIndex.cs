using System.Diagnostics;
using WarySentinel.Service.Nodes;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>
/// Has the indexes that members are searched by rest while many times the members come that are there, which takes half the time without them, and built when
/// they have come (PostgreSQL). Whoever has them rest holds a lease; should they be gone, they are built once that is over.
/// </summary>
public sealed class SearchIndex(Store store, Leases leases, TimeProvider time, ILogger<SearchIndex> log)
{
    /// <summary>Fewer rows come as quickly with them.</summary>
    public const int FewestRows = 10_000;

    private const int Times = 4;
    private const string Name = "search-index";
    private static readonly TimeSpan Every = TimeSpan.FromMinutes(5);
    private long nextTicks;

    /// <summary>Has them rest until what is given back ends; null where so many rows are not worth it, or somebody has them rest already.</summary>
    public async Task<IAsyncDisposable?> RestAsync(int rows, CancellationToken stop)
    {
        if (rows < FewestRows || !store.HasSearchToBuild || (long)await store.MemberCountAsync(stop) * Times > rows
            || await leases.TakeAsync(Name, stop) is not { } lease)
        {
            return null;
        }

        var resting = new Resting(this, lease);
        try
        {
            if (await store.RestSearchAsync(stop))
            {
                return resting;
            }
        }
        catch
        {
            // They may rest by now, or not: whoever looks next builds what is missing.
            await resting.DisposeAsync();
            throw;
        }

        await resting.DisposeAsync();
        return null;
    }

    /// <summary>Builds them where they are missing and nobody has them rest: at the start, after they rested, and once in a while.</summary>
    public async Task RunDueAsync(CancellationToken stop)
    {
        if (!store.HasSearchToBuild || time.GetUtcNow().UtcTicks < Volatile.Read(ref nextTicks))
        {
            return;
        }

        await using var lease = await leases.TakeAsync(Name, stop);
        if (lease is null)
        {
            return;
        }

        // Should it fail, it is not tried again at once.
        Volatile.Write(ref nextTicks, (time.GetUtcNow() + Every).UtcTicks);
        var began = Stopwatch.GetTimestamp();
        if (await store.BuildSearchAsync(lease.Stop))
        {
            log.LogInformation("The indexes that members are searched by were built in {Seconds} s", (int)Stopwatch.GetElapsedTime(began).TotalSeconds);
        }
    }

    private sealed class Resting(SearchIndex index, IAsyncDisposable lease) : IAsyncDisposable
    {
        public async ValueTask DisposeAsync()
        {
            await lease.DisposeAsync();
            Volatile.Write(ref index.nextTicks, 0);
        }
    }
}
