using System.Net.Sockets;
using System.Text;

namespace WarySentinel.Testing;

/// <summary>HTTP as bytes: what no client library would send.</summary>
public static class RawHttp
{
    /// <summary>Sends bytes and reads what comes back until the peer closes, or for so long; empty where the connection was cut.</summary>
    public static async Task<string> SendAsync(string address, byte[] request, TimeSpan? patience = null)
    {
        using var stop = new CancellationTokenSource(patience ?? TimeSpan.FromSeconds(20));
        using var socket = new TcpClient();
        var url = new Uri(address);
        await socket.ConnectAsync(url.Host, url.Port, stop.Token);
        var stream = socket.GetStream();
        var answer = new MemoryStream();
        try
        {
            await stream.WriteAsync(request, stop.Token);
            var buffer = new byte[16 * 1024];
            int read;
            while ((read = await stream.ReadAsync(buffer, stop.Token)) > 0)
            {
                answer.Write(buffer, 0, read);
                if (IsWhole(answer))
                {
                    break;
                }
            }
        }
        catch (Exception fault) when (fault is IOException or SocketException or OperationCanceledException)
        {
            // What came so far is the answer.
        }

        return Encoding.Latin1.GetString(answer.ToArray());
    }

    /// <summary>The same for text, whose line ends are as HTTP wants them.</summary>
    public static Task<string> SendAsync(string address, string request, TimeSpan? patience = null) =>
        SendAsync(address, Encoding.Latin1.GetBytes(request.ReplaceLineEndings("\r\n")), patience);

    /// <summary>The status of an answer; 0 where there is none.</summary>
    public static int StatusOf(string answer) =>
        answer.StartsWith("HTTP/1.", StringComparison.Ordinal) && int.TryParse(answer.AsSpan(9, 3), out var status) ? status : 0;

    private static bool IsWhole(MemoryStream answer)
    {
        var text = Encoding.Latin1.GetString(answer.GetBuffer(), 0, (int)answer.Length);
        var end = text.IndexOf("\r\n\r\n", StringComparison.Ordinal);
        if (end < 0)
        {
            return false;
        }

        var head = text[..end];
        var length = head.Split("\r\n").FirstOrDefault(h => h.StartsWith("Content-Length:", StringComparison.OrdinalIgnoreCase));
        return length is not null ? text.Length - end - 4 >= int.Parse(length.Split(':')[1], System.Globalization.CultureInfo.InvariantCulture)
            : text.EndsWith("0\r\n\r\n", StringComparison.Ordinal) || StatusOf(text) is 204 or 304;
    }
}
