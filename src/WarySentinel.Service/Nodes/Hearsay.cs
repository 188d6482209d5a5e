using WarySentinel.Service.People;
using WarySentinel.Storage;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Service.Nodes;

/// <summary>Passes on what has changed: to the caches of this machine at once, to the other machines by the store's bell.</summary>
public sealed class Hearsay(SessionCache sessions) : IDisposable
{
    /// <summary>The name of this machine among those on the store.</summary>
    public string Machine { get; } = $"{Environment.MachineName}-{Environment.ProcessId}-{Guid.NewGuid().ToString("N")[..8]}";

    /// <summary>There is something that the other machines were not told yet.</summary>
    public Nudge Untold { get; } = new();

    /// <summary>This machine has changed something: its own caches know at once, and the bell is to be rung.</summary>
    public void Tell(IReadOnlyList<News> news)
    {
        Hear(news);
        if (news.Count > 0)
        {
            Untold.Give();
        }
    }

    /// <summary>Something has changed, here or elsewhere.</summary>
    public void Hear(IReadOnlyList<News> news)
    {
        foreach (var one in news)
        {
            if (one.Kind != Told.Policy)
            {
                sessions.Changes.Note(one);
            }
        }
    }

    /// <inheritdoc/>
    public void Dispose() => Untold.Dispose();
}

/// <summary>Rings the store's bell after changes of this machine; many of them in one go.</summary>
public sealed class BellRinger(Store store, Hearsay hearsay, ServiceOptions options, ILogger<BellRinger> log) : BackgroundService
{
    private static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(5);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (!store.HasBell || options.FollowMilliseconds <= 0)
        {
            return;
        }

        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await hearsay.Untold.WaitAsync(Timeout.InfiniteTimeSpan, stoppingToken);
                await store.RingAsync(hearsay.Machine, stoppingToken);
                await Task.Delay(Pause, stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                // Only a hint: the other machines look by themselves from time to time.
                log.LogDebug("The bell could not be rung: {Reason}", fault.Message);
            }
        }
    }
}
