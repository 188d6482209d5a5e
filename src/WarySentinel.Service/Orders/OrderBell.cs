using System.Collections.Concurrent;
using System.Threading.Channels;

namespace WarySentinel.Service.Orders;

/// <summary>Takes orders up as soon as something was told of them, several at a time; what this machine cannot finish, a round of any machine finds.</summary>
public sealed class OrderBell(IServiceProvider services, ServiceOptions options, ILogger<OrderBell> log) : BackgroundService
{
    private const int AtOnce = 4;
    private const int MostWaiting = 50_000;

    private readonly Channel<(string Source, string Order)> rung = Channel.CreateBounded<(string, string)>(
        new BoundedChannelOptions(MostWaiting) { FullMode = BoundedChannelFullMode.DropWrite });

    private readonly ConcurrentDictionary<(string, string), byte> waiting = new();

    /// <summary>Has an order taken up soon.</summary>
    public void Ring(string source, string order)
    {
        if (waiting.TryAdd((source, order), 0) && !rung.Writer.TryWrite((source, order)))
        {
            waiting.TryRemove((source, order), out _);
        }
    }

    /// <inheritdoc/>
    protected override Task ExecuteAsync(CancellationToken stoppingToken) => options.RoundMilliseconds <= 0 ? Task.CompletedTask
        : Task.WhenAll(Enumerable.Range(0, AtOnce).Select(_ => Task.Run(() => WorkAsync(stoppingToken), stoppingToken)));

    private async Task WorkAsync(CancellationToken stop)
    {
        var desk = services.GetRequiredService<OrderDesk>();
        try
        {
            await foreach (var one in rung.Reader.ReadAllAsync(stop))
            {
                // From here on what is told of it rings anew.
                waiting.TryRemove(one, out _);
                try
                {
                    var done = await desk.TakeUpAsync(one.Source, one.Order, one.Source, stop);
                    if (done.Problem is { } problem)
                    {
                        log.LogWarning("The order {Source}:{Order} waits for the next round: {Reason}", one.Source, one.Order, problem.Detail);
                    }
                }
                catch (Exception fault) when (!stop.IsCancellationRequested)
                {
                    log.LogWarning("The order {Source}:{Order} waits for the next round: {Reason}", one.Source, one.Order, fault.Message);
                }
            }
        }
        catch (OperationCanceledException) when (stop.IsCancellationRequested)
        {
            // What is left is found after the next start.
        }
    }
}
