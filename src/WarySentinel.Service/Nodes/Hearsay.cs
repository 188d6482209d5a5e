using WarySentinel.Storage;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Service.Nodes;

/// <summary>Whatever keeps something in memory that another machine, or another part of this one, may change.</summary>
public interface INewsReader
{
    /// <summary>Something has changed, here or elsewhere; called by several threads at once, and to be done with at once.</summary>
    void Hear(News news);

    /// <summary>This machine has lost its place in the feed: everything may have changed.</summary>
    void Lost();

    /// <summary>Reads again what is to be read at once, after all that was heard.</summary>
    /// <param name="anyway">Whether to look even where nothing was heard.</param>
    /// <param name="stop">Cancels.</param>
    Task CatchUpAsync(bool anyway, CancellationToken stop) => Task.CompletedTask;
}

/// <summary>Passes on what has changed: to the caches of this machine at once, to the other machines by the store's bell.</summary>
public sealed class Hearsay : IDisposable
{
    private volatile INewsReader[] readers = [];

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

    /// <summary>Tells somebody from now on.</summary>
    public void Add(INewsReader reader)
    {
        lock (Untold)
        {
            readers = [.. readers, reader];
        }
    }

    /// <summary>Something has changed, here or elsewhere.</summary>
    public void Hear(IReadOnlyList<News> news)
    {
        foreach (var reader in readers)
        {
            foreach (var one in news)
            {
                reader.Hear(one);
            }
        }
    }

    /// <summary>Everything may have changed.</summary>
    public void Lost() => Array.ForEach(readers, r => r.Lost());

    /// <summary>Lets everybody read again what they must.</summary>
    public async Task CatchUpAsync(bool anyway, CancellationToken stop)
    {
        foreach (var reader in readers)
        {
            await reader.CatchUpAsync(anyway, stop);
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
