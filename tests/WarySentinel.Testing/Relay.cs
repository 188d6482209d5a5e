using System.Net;
using System.Net.Sockets;

namespace WarySentinel.Testing;

/// <summary>Passes connections on to a server, and can be cut and mended: the network between a machine and its database.</summary>
public sealed class Relay : IAsyncDisposable
{
    private readonly TcpListener listener = new(IPAddress.Loopback, 0);
    private readonly CancellationTokenSource end = new();
    private readonly List<TcpClient> open = [];
    private readonly Lock gate = new();
    private readonly string host;
    private readonly int port;
    private readonly Task accepting;
    private bool isCut;

    public Relay(string host, int port)
    {
        (this.host, this.port) = (host, port);
        listener.Start();
        accepting = AcceptAsync();
    }

    public int Port => ((IPEndPoint)listener.LocalEndpoint).Port;

    public void Cut()
    {
        lock (gate)
        {
            isCut = true;
            open.ForEach(c => c.Dispose());
            open.Clear();
        }
    }

    public void Mend()
    {
        lock (gate)
        {
            isCut = false;
        }
    }

    public async ValueTask DisposeAsync()
    {
        await end.CancelAsync();
        Cut();
        listener.Stop();
        await accepting;
        end.Dispose();
    }

    private async Task AcceptAsync()
    {
        try
        {
            while (true)
            {
                _ = PassAsync(await listener.AcceptTcpClientAsync(end.Token));
            }
        }
        catch (Exception over) when (over is OperationCanceledException or SocketException or ObjectDisposedException)
        {
            // It is over.
        }
    }

    private async Task PassAsync(TcpClient near)
    {
        var far = new TcpClient();
        lock (gate)
        {
            if (isCut)
            {
                near.Dispose();
                far.Dispose();
                return;
            }

            open.AddRange([near, far]);
        }

        try
        {
            await far.ConnectAsync(host, port, end.Token);
            await Task.WhenAny(near.GetStream().CopyToAsync(far.GetStream(), end.Token), far.GetStream().CopyToAsync(near.GetStream(), end.Token));
        }
        catch (Exception broken) when (
            broken is IOException or SocketException or ObjectDisposedException or OperationCanceledException or InvalidOperationException)
        {
            // Cut.
        }
        finally
        {
            near.Dispose();
            far.Dispose();
        }
    }
}
