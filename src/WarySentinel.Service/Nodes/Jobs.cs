using WarySentinel.Storage;

namespace WarySentinel.Service.Nodes;

/// <summary>What comes round by itself; each room names its own (<see cref="Hosting"/>).</summary>
/// <param name="Name">Of the job, and of its lease.</param>
/// <param name="Alone">Whether one machine at a time does it.</param>
/// <param name="Work">Does what is due.</param>
/// <param name="IsDue">Whether anything may be, without writing: each taking of a lease is two writes, and most rounds find nothing to do.</param>
public sealed record Job(string Name, bool Alone, Func<CancellationToken, Task> Work, Func<CancellationToken, Task<bool>>? IsDue = null);

/// <summary>
/// What comes round by itself: letters, rotations, the sweep, housekeeping. Each has a loop and a lease of its own, so that a sweep of an hour delays no
/// letter, and two machines never do the same. Letters are leased singly instead, and sent by every machine.
/// </summary>
public sealed class Jobs(IEnumerable<Job> all, Leases leases, ServiceOptions options, TimeProvider time, ILogger<Jobs> log) : BackgroundService
{
    /// <summary>Each job once, one after the other.</summary>
    public async Task OnceAsync(CancellationToken stop)
    {
        foreach (var job in all)
        {
            await OnceAsync(job, stop);
        }
    }

    /// <inheritdoc/>
    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        options.RoundMilliseconds <= 0 ? Task.CompletedTask : Task.WhenAll(all.Select(job => LoopAsync(job, stoppingToken)));

    private async Task LoopAsync(Job job, CancellationToken stop)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromMilliseconds(options.RoundMilliseconds), time);
        while (!stop.IsCancellationRequested)
        {
            try
            {
                await timer.WaitForNextTickAsync(stop);
                await OnceAsync(job, stop);
            }
            catch (OperationCanceledException) when (stop.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.LogWarning("The job {Name} broke off: {Reason}", job.Name, fault.Message);
            }
        }
    }

    private async Task OnceAsync(Job job, CancellationToken stop)
    {
        if (job.IsDue is { } due && !await due(stop))
        {
            return;
        }

        if (!job.Alone)
        {
            await job.Work(stop);
            return;
        }

        await using var lease = await leases.TakeAsync("job:" + job.Name, stop);
        if (lease is not null)
        {
            await job.Work(lease.Stop);
        }
    }
}

/// <summary>Removes what is over: sessions, old letters, what the change feed told long ago, tries that are forgotten.</summary>
public sealed class Housekeeping(Store store, ServiceOptions options, TimeProvider time)
{
    private const string Turn = "housekeeping";
    private static readonly TimeSpan Every = TimeSpan.FromHours(1);
    private static readonly TimeSpan TriesKept = TimeSpan.FromHours(3);
    private static readonly TimeSpan LinksKept = TimeSpan.FromDays(30);

    /// <summary>Whether an hour has passed.</summary>
    public Task<bool> IsDueAsync(CancellationToken stop) => store.IsTurnFreeAsync(Turn, time.GetUtcNow() - Every, stop);

    /// <summary>Cleans up once an hour, on one machine.</summary>
    public async Task RunDueAsync(CancellationToken stop)
    {
        var now = time.GetUtcNow();
        if (!await store.TakeTurnAsync(Turn, now - Every, stop))
        {
            return;
        }

        await store.SweepSessionsAsync(stop);
        await store.TrimMessagesAsync(now.AddDays(-options.LetterDays), stop);
        await store.TrimFeedAsync(now.AddHours(-options.FeedHours), stop);
        await store.ForgetTriesAsync(now - TriesKept, stop);
        await store.TrimLinksAsync(now - LinksKept, stop);
    }
}
