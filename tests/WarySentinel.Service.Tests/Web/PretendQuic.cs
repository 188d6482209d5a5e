using System.Collections.Concurrent;
using System.IO.Pipelines;
using System.Net;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using System.Threading.Channels;
using Microsoft.AspNetCore.Connections;
using Microsoft.AspNetCore.Connections.Features;
using Microsoft.AspNetCore.Http.Features;

namespace WarySentinel.Service.Tests.Web;

/// <summary>
/// QUIC as the service's web server knows it, within the process: what it is told to listen on, and connections of one request in HTTP/3 (RFC 9114). No
/// registry has the library that .NET speaks QUIC by.
/// </summary>
internal sealed class PretendQuic : IMultiplexedConnectionListenerFactory
{
    /// <summary>What is listened on, by port.</summary>
    public ConcurrentDictionary<int, Ear> Ears { get; } = [];

    public ValueTask<IMultiplexedConnectionListener> BindAsync(
        EndPoint endpoint, IFeatureCollection? features = null, CancellationToken cancellationToken = default)
    {
        var ear = new Ear((IPEndPoint)endpoint, features!);
        Ears[ear.Place.Port] = ear;
        return ValueTask.FromResult<IMultiplexedConnectionListener>(ear);
    }

    /// <summary>One port.</summary>
    internal sealed class Ear(IPEndPoint place, IFeatureCollection features) : IMultiplexedConnectionListener
    {
        private readonly Channel<MultiplexedConnectionContext> coming = Channel.CreateUnbounded<MultiplexedConnectionContext>();

        public IPEndPoint Place => place;

        public EndPoint EndPoint => place;

        /// <summary>What the server set for it.</summary>
        public IFeatureCollection Features => features;

        public async ValueTask<MultiplexedConnectionContext?> AcceptAsync(IFeatureCollection? features = null, CancellationToken cancellationToken = default)
        {
            try
            {
                return await coming.Reader.ReadAsync(cancellationToken);
            }
            catch (Exception fault) when (fault is ChannelClosedException or OperationCanceledException)
            {
                return null;
            }
        }

        public ValueTask UnbindAsync(CancellationToken cancellationToken = default)
        {
            coming.Writer.TryComplete();
            return ValueTask.CompletedTask;
        }

        public ValueTask DisposeAsync() => UnbindAsync();

        /// <summary>Asks for an address on a connection of its own, and gives the body of the answer.</summary>
        public async Task<string> GetAsync(string authority, string path, CancellationToken stop)
        {
            await using var line = new Line(place);
            var kind = new StreamKind(0, true);
            var (mine, its) = Line.NewStream(place, kind);
            its.Features.Set<ITlsConnectionFeature>(line);
            // HEADERS (§7.2.2) of a field section that knows nothing but the static table (RFC 9204 §4.5, appendix A).
            byte[] fields = [0, 0, 0xC0 | 17, 0xC0 | 23, .. Named(0x50, authority), .. Named(0x51, path)];
            await mine.Output.WriteAsync((byte[])[1, .. Number(fields.Length), .. fields], stop);
            await mine.Output.CompleteAsync();
            line.Streams.Writer.TryWrite(its);
            await coming.Writer.WriteAsync(line, stop);
            using var all = new MemoryStream();
            await mine.Input.CopyToAsync(all, stop).WaitAsync(TimeSpan.FromSeconds(30), stop);
            return (kind.Broken ?? line.Broken) is { } fault ? throw fault : Body(all.ToArray());
        }

        /// <summary>A field whose name is in the static table, with its value as it is.</summary>
        private static byte[] Named(byte name, string value) =>
            value.Length < 127 ? [name, (byte)value.Length, .. Encoding.ASCII.GetBytes(value)] : throw new ArgumentException("too long", nameof(value));

        private static byte[] Number(int value) => [(byte)(0x40 | (value >> 8)), (byte)value];

        /// <summary>What the DATA frames hold (§7.2.1).</summary>
        private static string Body(byte[] answer)
        {
            using var body = new MemoryStream();
            for (var at = 0; at < answer.Length;)
            {
                var (kind, length) = (Read(answer, ref at), Read(answer, ref at));
                body.Write(answer, at, kind == 0 ? (int)length : 0);
                at += (int)length;
            }

            return Encoding.UTF8.GetString(body.ToArray());
        }

        private static long Read(byte[] from, ref int at)
        {
            var more = (1 << (from[at] >> 6)) - 1;
            long value = from[at++] & 0x3F;
            for (; more > 0; more--)
            {
                value = (value << 8) | from[at++];
            }

            return value;
        }
    }

    /// <summary>Where a stream goes, and its number.</summary>
    private sealed record StreamKind(long StreamId, bool CanRead)
        : IStreamDirectionFeature, IStreamIdFeature, IProtocolErrorCodeFeature, IStreamAbortFeature, IStreamClosedFeature,
            IPersistentStateFeature
    {
        public IDictionary<object, object?> State { get; } = new Dictionary<object, object?>();

        public bool CanWrite => true;

        public long Error { get; set; }

        /// <summary>Why the server broke it off, where it did.</summary>
        public Exception? Broken { get; private set; }

        public void AbortRead(long errorCode, ConnectionAbortedException abortReason) => Broken ??= abortReason;

        public void AbortWrite(long errorCode, ConnectionAbortedException abortReason) => Broken ??= abortReason;

        public void OnClosed(Action<object?> callback, object? state)
        {
        }
    }

    /// <summary>A connection.</summary>
    private sealed class Line : MultiplexedConnectionContext, IProtocolErrorCodeFeature, ITlsConnectionFeature
    {
        public Line(IPEndPoint place)
        {
            (LocalEndPoint, RemoteEndPoint) = (place, new IPEndPoint(IPAddress.Loopback, 50_000));
            Features.Set<IProtocolErrorCodeFeature>(this);
        }

        public Channel<ConnectionContext> Streams { get; } = Channel.CreateUnbounded<ConnectionContext>();

        public override string ConnectionId { get; set; } = "pretended";

        public override IFeatureCollection Features { get; } = new FeatureCollection();

        public override IDictionary<object, object?> Items { get; set; } = new Dictionary<object, object?>();

        public long Error { get; set; }

        public X509Certificate2? ClientCertificate { get; set; }

        public static (IDuplexPipe Mine, ConnectionContext Its) NewStream(EndPoint place, StreamKind kind)
        {
            var (there, back) = (new Pipe(), new Pipe());
            var its = new DefaultConnectionContext("stream", new Duplex(there.Reader, back.Writer), new Duplex(back.Reader, there.Writer))
            {
                LocalEndPoint = place,
            };
            its.Features.Set<IStreamDirectionFeature>(kind);
            its.Features.Set<IStreamIdFeature>(kind);
            its.Features.Set<IProtocolErrorCodeFeature>(kind);
            its.Features.Set<IStreamAbortFeature>(kind);
            its.Features.Set<IStreamClosedFeature>(kind);
            its.Features.Set<IPersistentStateFeature>(kind);
            return (its.Application!, its);
        }

        public Task<X509Certificate2?> GetClientCertificateAsync(CancellationToken cancellationToken) => Task.FromResult<X509Certificate2?>(null);

        public override void Abort() => Streams.Writer.TryComplete();

        /// <summary>Why the server broke it off, where it did.</summary>
        public Exception? Broken { get; private set; }

        public override void Abort(ConnectionAbortedException abortReason)
        {
            Broken ??= abortReason;
            Abort();
        }

        public override async ValueTask<ConnectionContext?> AcceptAsync(CancellationToken cancellationToken = default)
        {
            try
            {
                return await Streams.Reader.ReadAsync(cancellationToken);
            }
            catch (Exception fault) when (fault is ChannelClosedException or OperationCanceledException)
            {
                return null;
            }
        }

        /// <summary>The server's own streams: nobody reads them.</summary>
        public override ValueTask<ConnectionContext> ConnectAsync(IFeatureCollection? features = null, CancellationToken cancellationToken = default) =>
            ValueTask.FromResult(NewStream(LocalEndPoint!, new StreamKind(3, false)).Its);

        public override ValueTask DisposeAsync()
        {
            Abort();
            return base.DisposeAsync();
        }
    }

    private sealed record Duplex(PipeReader Input, PipeWriter Output) : IDuplexPipe;
}
