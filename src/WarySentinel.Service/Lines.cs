using System.Text.Json;
using System.Text.Json.Serialization;
using System.Threading.Channels;
using WarySentinel.Core;

namespace WarySentinel.Service;

/// <summary>Answers that tell line by line how far long work is (NDJSON).</summary>
public static class Lines
{
    private static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web) { DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };

    /// <summary>Runs the work and writes each line as it is told; a break ends in the line that <paramref name="failed"/> makes.</summary>
    public static async Task StreamAsync<T>(HttpContext http, Func<Action<T>, Task> work, Func<string, T> failed)
    {
        var stop = http.RequestAborted;
        http.Response.ContentType = "application/x-ndjson";
        var channel = Channel.CreateUnbounded<T>();
        var running = Task.Run(
            async () =>
            {
                try
                {
                    await work(line => channel.Writer.TryWrite(line));
                }
                catch (Exception fault) when (fault is not OperationCanceledException)
                {
                    http.RequestServices.GetRequiredService<ILogger<T>>().LogError(fault, "Long work broke off");
                    channel.Writer.TryWrite(failed(Words.Of("problem.internal")));
                }
                finally
                {
                    channel.Writer.Complete();
                }
            },
            stop);
        await foreach (var line in channel.Reader.ReadAllAsync(stop))
        {
            await JsonSerializer.SerializeAsync(http.Response.Body, line, Written, stop);
            await http.Response.WriteAsync("\n", stop);
            await http.Response.Body.FlushAsync(stop);
        }

        await running;
    }
}

/// <summary>Tells of progress as it is made.</summary>
internal sealed class Told(Action<int> tell) : IProgress<int>
{
    public void Report(int value) => tell(value);
}
