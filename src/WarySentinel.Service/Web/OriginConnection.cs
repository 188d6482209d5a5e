using System.Net;
using System.Net.Sockets;
using WarySentinel.Core;

namespace WarySentinel.Service.Web;

/// <summary>Why the guarded site cannot be reached.</summary>
/// <param name="Said">What is the matter and what to do, still to be worded.</param>
/// <param name="Since">Since when.</param>
public sealed record OriginFault(Wording Said, DateTimeOffset Since);

/// <summary>
/// How the guarded site is connected to: over TLS where its address says so, its certificate held against the one name and the authority that the settings
/// give, whatever host a visitor asks for. Knows whether the last connection came about, and why not.
/// </summary>
public sealed class OriginConnection(ServiceOptions options, TimeProvider time, ILogger<OriginConnection> log)
{
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan SaidAgainAfter = TimeSpan.FromMinutes(1);
    private readonly Uri? origin = options.Origin.Length > 0 ? new Uri(options.Origin) : null;
    private readonly OriginTrust trust = new(options, time);
    private readonly Lock gate = new();
    private DateTimeOffset saidAt;
    private volatile OriginFault? fault;

    /// <summary>Why the site could not be reached when it was last connected to; null where it could, or was not yet.</summary>
    public OriginFault? Fault => fault;

    /// <summary>The origin as an address for <see cref="NewHandler"/>, which lays TLS around the connection itself.</summary>
    public string Address => origin is null ? ""
        : $"http://{origin.Authority}{(origin.IsDefaultPort && IsTls ? ":443" : "")}{origin.AbsolutePath.TrimEnd('/')}";

    private bool IsTls => origin?.Scheme == "https";

    /// <summary>
    /// A handler that connects to the origin and to nothing else, to be asked by <see cref="Address"/>. All visitors share its connections, whatever host they
    /// name: were TLS the handler's business, each name would get a pool and a certificate's check of its own.
    /// </summary>
    public SocketsHttpHandler NewHandler(DecompressionMethods decompression) => new()
    {
        UseProxy = false,
        AllowAutoRedirect = false,
        AutomaticDecompression = decompression,
        UseCookies = false,
        EnableMultipleHttp2Connections = true,
        // Trace headers of a visitor pass through as they are.
        ActivityHeadersPropagator = null,
        // A name that leads elsewhere by then is heard of.
        PooledConnectionLifetime = TimeSpan.FromMinutes(5),
        ConnectCallback = (_, stop) => OpenAsync(stop),
    };

    /// <summary>Whether something that is connected to is the origin, over TLS.</summary>
    public bool IsSecured(DnsEndPoint to) => IsTls && to.Port == origin!.Port
        && (to.Host.Equals(origin.IdnHost, StringComparison.OrdinalIgnoreCase) || to.Host.Equals(origin.DnsSafeHost, StringComparison.OrdinalIgnoreCase));

    /// <summary>Connects to the origin once, so that what is wrong stands in the log before the first visitor comes.</summary>
    public async Task TryAsync(CancellationToken stop)
    {
        if (origin is null)
        {
            return;
        }

        try
        {
            await using var stream = await OpenAsync(stop);
        }
        catch (HttpRequestException)
        {
            // It is noted.
        }
        catch (Exception odd) when (odd is not OperationCanceledException)
        {
            log.LogError(odd, "The origin could not be tried");
        }
    }

    /// <summary>Connects to the origin. Throws <see cref="HttpRequestException"/> where it cannot be reached, or not be trusted.</summary>
    public async ValueTask<Stream> OpenAsync(CancellationToken stop)
    {
        using var limit = CancellationTokenSource.CreateLinkedTokenSource(stop);
        limit.CancelAfter(Longest);
        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        try
        {
            await socket.ConnectAsync(origin!.DnsSafeHost, origin.Port, limit.Token);
            var plain = new NetworkStream(socket, true);
            var (stream, problem) = IsTls ? await trust.SecureAsync(plain, limit.Token) : (plain, null);
            if (stream is null)
            {
                throw Failed(problem!, null);
            }

            Answered();
            return stream;
        }
        catch (OperationCanceledException late) when (!stop.IsCancellationRequested)
        {
            socket.Dispose();
            throw Failed(Wording.Of("origin.silent", origin!.Authority, (int)Longest.TotalSeconds), late);
        }
        catch (SocketException refused)
        {
            socket.Dispose();
            throw Failed(
                refused.SocketErrorCode is SocketError.HostNotFound or SocketError.NoData or SocketError.TryAgain
                    ? Wording.Of("origin.nowhere", origin!.DnsSafeHost)
                    : refused.SocketErrorCode == SocketError.ConnectionRefused ? Wording.Of("origin.refused", origin!.Authority)
                    : Wording.Of("origin.unreachable", origin!.Authority, refused.Message),
                refused);
        }
        catch
        {
            socket.Dispose();
            throw;
        }
    }

    private void Answered()
    {
        if (fault is null)
        {
            return;
        }

        lock (gate)
        {
            fault = null;
            saidAt = default;
        }

        log.LogInformation("The origin is there again");
    }

    /// <summary>Notes what is wrong; the log has it at once, and from then on once a minute while visitors are turned away for it.</summary>
    private HttpRequestException Failed(Wording said, Exception? cause)
    {
        var now = time.GetUtcNow();
        bool isNew;
        lock (gate)
        {
            isNew = fault?.Said.Equals(said) != true || now - saidAt >= SaidAgainAfter;
            fault = new OriginFault(said, fault?.Since ?? now);
            saidAt = isNew ? now : saidAt;
        }

        if (isNew)
        {
            log.LogError("The origin cannot be reached: {Reason}", said.ToString());
        }

        return new HttpRequestException(said.ToString(), cause);
    }
}

/// <summary>Connects to the origin when the service starts, and now and then while it is out of reach: what is said of it is what is.</summary>
public sealed class OriginWatch(OriginConnection origin, TimeProvider time) : BackgroundService
{
    private static readonly TimeSpan Round = TimeSpan.FromSeconds(20);

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        try
        {
            await origin.TryAsync(stoppingToken);
            using var rounds = new PeriodicTimer(Round, time);
            while (await rounds.WaitForNextTickAsync(stoppingToken))
            {
                if (origin.Fault is not null)
                {
                    await origin.TryAsync(stoppingToken);
                }
            }
        }
        catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
        {
            // The service stops.
        }
    }
}
