using WarySentinel.Storage;
using WarySentinel.Storage.Nodes;

namespace WarySentinel.Service.Nodes;

/// <summary>
/// Follows what other machines change: reads the change feed on from where it was, when the bell rings and in any case from time to time, and forgets
/// just that.
/// </summary>
public sealed class FeedFollower(
    Store store, Hearsay hearsay, ServiceOptions options, TimeProvider time, ILogger<FeedFollower> log)
    : BackgroundService
{
    private readonly Feed feed = store.NewFeed();
    private readonly Nudge rung = new();
    private DateTimeOffset behindSince = time.GetUtcNow();
    private bool isBehind;

    /// <summary>Whether this machine has not read the feed to its end for longer than it may.</summary>
    public bool Lags => options.FollowMilliseconds > 0 && Volatile.Read(ref isBehind)
        && time.GetUtcNow() - behindSince > TimeSpan.FromSeconds(options.LagSeconds);

    /// <summary>Goes to the end of the feed, before anything else is read from the store.</summary>
    public Task BeginAsync() => feed.BeginAsync();

    /// <summary>Reads on to the end.</summary>
    public async Task OnceAsync(CancellationToken stop)
    {
        if (!isBehind)
        {
            behindSince = time.GetUtcNow();
            Volatile.Write(ref isBehind, true);
        }

        FeedPage page;
        do
        {
            page = await feed.ReadAsync(stop);
            hearsay.Hear(page.News);
            if (page.Lost)
            {
                log.LogWarning("This machine was away for longer than the change feed is kept; everything it knew is read again");
                hearsay.Lost();
            }
        }
        while (page.More);
        await hearsay.CatchUpAsync(false, stop);
        Volatile.Write(ref isBehind, false);
    }

    /// <inheritdoc/>
    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        options.FollowMilliseconds <= 0 ? Task.CompletedTask
            : Task.WhenAll(FollowAsync(stoppingToken), HearAsync(stoppingToken));

    private async Task FollowAsync(CancellationToken stop)
    {
        var pause = TimeSpan.FromMilliseconds(options.FollowMilliseconds);
        var told = false;
        while (!stop.IsCancellationRequested)
        {
            try
            {
                var heard = await rung.WaitAsync(pause, stop);
                await OnceAsync(stop);
                if (!heard)
                {
                    // The safety net, whatever the feed said.
                    await hearsay.CatchUpAsync(true, stop);
                }

                told = false;
            }
            catch (OperationCanceledException) when (stop.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.Log(told ? LogLevel.Debug : LogLevel.Warning, "The change feed could not be read: {Reason}", fault.Message);
                told = true;
                await QuietlyAsync(pause, stop);
            }
        }
    }

    private async Task HearAsync(CancellationToken stop)
    {
        while (store.HasBell && !stop.IsCancellationRequested)
        {
            try
            {
                // What was rung for before it listened is read at once.
                await store.HearAsync(hearsay.Machine, rung.Give, rung.Give, stop);
            }
            catch (OperationCanceledException) when (stop.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.LogDebug("The bell cannot be heard: {Reason}", fault.Message);
                await QuietlyAsync(TimeSpan.FromSeconds(1), stop);
            }
        }
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        rung.Dispose();
        base.Dispose();
    }

    private static async Task QuietlyAsync(TimeSpan pause, CancellationToken stop)
    {
        try
        {
            await Task.Delay(pause, stop);
        }
        catch (OperationCanceledException)
        {
            // Its caller looks by itself whether to go on.
        }
    }
}
