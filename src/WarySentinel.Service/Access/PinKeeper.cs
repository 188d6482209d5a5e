namespace WarySentinel.Service.Access;

/// <summary>A gate that starts or ends by its date is worked out a moment before it does, and pinned when it has.</summary>
public sealed class PinKeeper(PolicyHolder policies, ServiceOptions options, TimeProvider time, ILogger<PinKeeper> log) : BackgroundService
{
    private static readonly TimeSpan Ahead = TimeSpan.FromSeconds(3);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (options.FollowMilliseconds <= 0)
        {
            return;
        }

        using var timer = new PeriodicTimer(TimeSpan.FromMilliseconds(Math.Min(1000, options.FollowMilliseconds)), time);
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await timer.WaitForNextTickAsync(stoppingToken);
                var now = time.GetUtcNow();
                policies.Current.Pin(now);
                policies.Current.Prepare(now + Ahead);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.LogError(fault, "What holds next could not be worked out ahead");
            }
        }
    }
}
