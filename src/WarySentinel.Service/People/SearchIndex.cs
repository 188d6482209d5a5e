using System.Diagnostics;
using WarySentinel.Service.Nodes;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>
/// Has the index that members are searched by rest while many times the members come that are there, which takes half the time without it, and built when
/// they have come (PostgreSQL). Whoever has it rest holds a lease; should they be gone, it is built once that is over.
/// </summary>
public sealed class SearchIndex(Store store, Leases leases, TimeProvider time, ILogger<SearchIndex> log)
{
    /// <summary>Fewer rows come as quickly with it.</summary>
    public const int FewestRows = 10_000;

    private const int Times = 4;
    private const string Name = "search-index";
    private static readonly TimeSpan Every = TimeSpan.FromMinutes(5);
    private long nextTicks;

    /// <summary>Has it rest until what is given back ends; null where so many rows are not worth it, or somebody has it rest already.</summary>
    public async Task<IAsyncDisposable?> RestAsync(int rows, CancellationToken stop)
    {
        if (rows < FewestRows || !store.HasSearchToBuild || (long)await store.MemberCountAsync(stop) * Times > rows
            || await leases.TakeAsync(Name, stop) is not { } lease)
        {
            return null;
        }

        if (await store.RestSearchAsync(stop))
        {
            return new Resting(this, lease);
        }

        await lease.DisposeAsync();
        return null;
    }

    /// <summary>Builds it where it is missing and nobody has it rest: at the start, after it rested, and once in a while.</summary>
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

        var began = Stopwatch.GetTimestamp();
        if (await store.BuildSearchAsync(lease.Stop))
        {
            log.LogInformation("The index that members are searched by was built in {Seconds} s", (int)Stopwatch.GetElapsedTime(began).TotalSeconds);
        }

        Volatile.Write(ref nextTicks, (time.GetUtcNow() + Every).UtcTicks);
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
