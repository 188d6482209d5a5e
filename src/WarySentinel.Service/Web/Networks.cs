using System.Net;
using System.Net.Sockets;

namespace WarySentinel.Service.Web;

/// <summary>From where a request comes.</summary>
internal static class Networks
{
    /// <summary>The part of an address that one household or office shares: IPv4 whole, IPv6 its first 64 bits.</summary>
    public static string Of(HttpContext http)
    {
        var address = http.Connection.RemoteIpAddress ?? IPAddress.None;
        if (address.AddressFamily == AddressFamily.InterNetworkV6 && !address.IsIPv4MappedToIPv6)
        {
            return Convert.ToHexString(address.GetAddressBytes().AsSpan(0, 8));
        }

        return address.MapToIPv4().ToString();
    }
}
