using System.Diagnostics;
using System.Globalization;
using System.Net.WebSockets;

namespace WarySentinel.Bench;

/// <summary>Talks to a WebSocket that says everything back, over several connections at once.</summary>
internal static class Talking
{
    /// <summary>Prints how many words came back a second, in the form of the load generator for pages.</summary>
    public static async Task RunAsync(string address, int connections, int seconds)
    {
        var clock = Stopwatch.StartNew();
        var counts = await Task.WhenAll(Enumerable.Range(0, connections).Select(_ => TalkAsync(new Uri(address), () => clock.Elapsed.TotalSeconds < seconds)));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"Requests/sec: {counts.Sum() / clock.Elapsed.TotalSeconds:F2}"));
    }

    private static async Task<int> TalkAsync(Uri address, Func<bool> goesOn)
    {
        using var socket = new ClientWebSocket();
        await socket.ConnectAsync(address, CancellationToken.None);
        var (said, heard, count) = (new byte[64], new byte[64], 0);
        while (goesOn())
        {
            await socket.SendAsync(said, WebSocketMessageType.Binary, true, CancellationToken.None);
            var read = await socket.ReceiveAsync(heard, CancellationToken.None);
            if (read.Count != said.Length)
            {
                throw new InvalidDataException("What came back is not what was said.");
            }

            count++;
        }

        await socket.CloseAsync(WebSocketCloseStatus.NormalClosure, null, CancellationToken.None);
        return count;
    }
}
