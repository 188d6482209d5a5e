using System.Net;
using System.Net.NetworkInformation;
using System.Net.Sockets;
using WarySentinel.Core;

namespace WarySentinel.Service.Web;

/// <summary>
/// Where the service itself may fetch from on somebody's word: the site's own host (as visitors type it, as it is guarded, as its cache answers),
/// and hosts that the settings name. Any other is refused by name; and what a name leads to is looked at when the connection is made, so that none
/// leads to this machine, to a link's own addresses, or to our own admin port.
/// </summary>
public sealed class Outbound(ServiceOptions options, OriginConnection origin)
{
    private readonly HashSet<string> own = new[] { options.SiteUrl, options.Origin, options.SweepCache }.Where(a => a.Length > 0)
        .Select(a => new Uri(a).Authority).ToHashSet(StringComparer.OrdinalIgnoreCase);
    private readonly int adminPort = new Uri(options.AdminListen).Port;

    /// <summary>Why an address is not fetched from; null where it is.</summary>
    public Problem? Refuses(Uri url) =>
        url.Scheme is not ("http" or "https") || url.UserInfo.Length > 0 ? Problem.In("url", "fetch-address", $"{url.Scheme}://{url.Authority}")
        : own.Contains(url.Authority) || Named(url.Host, url.Port) is not null ? null
        : Problem.In("url", "fetch-host", url.Authority);

    /// <summary>A handler whose connections are looked at where they lead, so many at once to one host.</summary>
    public SocketsHttpHandler NewHandler(int most) => new()
    {
        AllowAutoRedirect = false,
        UseCookies = false,
        UseProxy = false,
        AutomaticDecompression = DecompressionMethods.All,
        ConnectTimeout = TimeSpan.FromSeconds(5),
        MaxConnectionsPerServer = most,
        ConnectCallback = async (context, stop) => await ConnectAsync(context.DnsEndPoint, stop),
    };

    /// <summary>Whether an address belongs to this machine or to a link of it alone (RFC 1122 §3.2.1.3, RFC 3927, RFC 4291 §2.5.6), or to nobody.</summary>
    public static bool IsNear(IPAddress address)
    {
        address = address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address;
        if (IPAddress.IsLoopback(address) || address.IsIPv6LinkLocal || address.IsIPv6Multicast || address.Equals(IPAddress.IPv6Any)
            || IsOfThisMachine(address))
        {
            return true;
        }

        return address.AddressFamily == AddressFamily.InterNetwork && address.GetAddressBytes() is [0, ..] or [169, 254, ..] or [>= 224, ..];
    }

    private async Task<Stream> ConnectAsync(DnsEndPoint to, CancellationToken stop)
    {
        if (origin.IsSecured(to))
        {
            return await origin.OpenAsync(stop);
        }

        var isOwn = own.Contains($"{to.Host}:{to.Port}") || own.Contains(to.Host);
        var isNamedNear = Named(to.Host, to.Port) is { } named
            && (named.Equals("localhost", StringComparison.OrdinalIgnoreCase) || IPAddress.TryParse(named.Trim('[', ']'), out _));
        var addresses = IPAddress.TryParse(to.Host.Trim('[', ']'), out var written) ? [written] : await Dns.GetHostAddressesAsync(to.Host, stop);
        var allowed = addresses.Where(a => !(to.Port == adminPort && IsNear(a)) && (isOwn || isNamedNear || !IsNear(a))).ToArray();
        if (allowed.Length == 0)
        {
            throw new HttpRequestException(addresses.Length == 0 ? Words.Of("fetch.nowhere", to.Host) : Words.Of("fetch.near", to.Host));
        }

        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        try
        {
            await socket.ConnectAsync(allowed, to.Port, stop);
            return new NetworkStream(socket, true);
        }
        catch
        {
            socket.Dispose();
            throw;
        }
    }

    /// <summary>The host of the setting that names this one, or null.</summary>
    private string? Named(string host, int port)
    {
        foreach (var entry in options.FetchHosts)
        {
            if (Uri.TryCreate("http://" + entry, UriKind.Absolute, out var url) && url.Host.Equals(host, StringComparison.OrdinalIgnoreCase)
                && (entry.EndsWith(':' + port.ToString(System.Globalization.CultureInfo.InvariantCulture), StringComparison.Ordinal) || url.IsDefaultPort
                && port is 80 or 443))
            {
                return url.Host;
            }
        }

        return null;
    }

    private static bool IsOfThisMachine(IPAddress address) =>
        NetworkInterface.GetAllNetworkInterfaces().SelectMany(i => i.GetIPProperties().UnicastAddresses).Any(a => a.Address.Equals(address));
}
