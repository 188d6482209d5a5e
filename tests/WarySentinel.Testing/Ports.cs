using System.Net;
using System.Net.Sockets;

namespace WarySentinel.Testing;

/// <summary>
/// Ports below those that the system hands out to outgoing connections. Each process of tests has some hundreds of its own as long as it lives: what was
/// free when another looked may be taken by the time that its service listens, and then one test talks to the service of the other.
/// </summary>
internal static class Ports
{
    private const int First = 11_000, Last = 20_000, Own = 500;
    private static readonly Lazy<(int From, FileStream Held)> Mine = new(Take);
    private static int last;

    /// <summary>One that nothing listens on.</summary>
    public static int Free()
    {
        while (true)
        {
            var port = Mine.Value.From + (int)((uint)Interlocked.Increment(ref last) % Own);
            using var socket = new Socket(AddressFamily.InterNetwork, SocketType.Stream, ProtocolType.Tcp);
            try
            {
                socket.Bind(new IPEndPoint(IPAddress.Loopback, port));
                return port;
            }
            catch (SocketException)
            {
                // In use; the next one.
            }
        }
    }

    /// <summary>Takes those that no other process holds: the lock on their file goes with whoever holds it.</summary>
    private static (int From, FileStream Held) Take()
    {
        for (var from = First; from + Own <= Last; from += Own)
        {
            try
            {
                var file = Path.Combine(Path.GetTempPath(), $"wary-ports-{from}");
                return (from, new FileStream(file, FileMode.OpenOrCreate, FileAccess.Read, FileShare.None));
            }
            catch (Exception held) when (held is IOException or UnauthorizedAccessException)
            {
                // Another process, or another user, has them.
            }
        }

        throw new InvalidOperationException($"All ports from {First} to {Last} are held by other processes of tests.");
    }
}
