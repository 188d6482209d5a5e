using System.Text.Json;
using System.Threading.Channels;
using WarySentinel.Contract;
using WarySentinel.Core;

namespace WarySentinel.Service.Web;

/// <summary>Answers that tell line by line how far long work is (NDJSON).</summary>
public static class Lines
{
    private const int MostUntold = 1000;

    /// <summary>
    /// Runs the work and writes each line as it is told; a break ends in the line that <paramref name="failed"/> makes. When the caller leaves, the
    /// work is told to stop, and has stopped before this returns. A caller who reads slowly misses the oldest lines, never the last.
    /// </summary>
    public static async Task StreamAsync<T>(HttpContext http, Func<Action<T>, CancellationToken, Task> work, Func<string, T> failed)
    {
        http.Response.ContentType = "application/x-ndjson";
        using var leaving = CancellationTokenSource.CreateLinkedTokenSource(http.RequestAborted);
        var channel = Channel.CreateBounded<T>(new BoundedChannelOptions(MostUntold) { FullMode = BoundedChannelFullMode.DropOldest });
        var log = http.RequestServices.GetRequiredService<ILogger<T>>();
        var running = Task.Run(
            async () =>
            {
                try
                {
                    await work(line => channel.Writer.TryWrite(line), leaving.Token);
                }
                catch (Exception fault) when (!leaving.IsCancellationRequested)
                {
                    log.LogError(fault, "Long work broke off");
                    channel.Writer.TryWrite(failed(Wording.Of(Storage.Store.IsFull(fault) ? "problem.storage-full" : "problem.internal").ToReader()));
                }
                catch (OperationCanceledException)
                {
                    // The caller left.
                }
                finally
                {
                    channel.Writer.Complete();
                }
            },
            CancellationToken.None);
        try
        {
            await foreach (var line in channel.Reader.ReadAllAsync(leaving.Token))
            {
                await JsonSerializer.SerializeAsync(http.Response.Body, line, ApiJson.Options, leaving.Token);
                await http.Response.WriteAsync("\n", leaving.Token);
                await http.Response.Body.FlushAsync(leaving.Token);
            }
        }
        finally
        {
            await leaving.CancelAsync();
            await running;
        }
    }
}

/// <summary>Tells of progress as it is made.</summary>
internal sealed class Telling(Action<int> tell) : IProgress<int>
{
    public void Report(int value) => tell(value);
}
