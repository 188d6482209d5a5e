using System.Collections.Frozen;

namespace WarySentinel.Service.Web;

/// <summary>
/// Headers by which somebody outside could tell the guarded site another address, method, host or sender than the one that was decided on, and
/// those by which an answer could make a proxy in front serve something else. None of them passes, in either direction.
/// </summary>
public static class SteeringHeaders
{
    private static readonly FrozenSet<string> Inbound = FrozenSet.ToFrozenSet(
        [
            "x-original-url", "x-original-uri", "x-original-path", "x-original-method", "x-original-host", "x-rewrite-url", "x-rewrite-uri",
                "x-override-url", "x-request-uri", "x-http-destinationurl",
            "x-http-method-override", "x-http-method", "x-method-override", "x-http-host-override", "x-host", "x-forwarded", "x-forwarded-prefix",
            "x-forwarded-path", "x-forwarded-uri", "x-forwarded-url",
            "x-forwarded-method", "x-forwarded-port", "x-forwarded-server", "x-forwarded-by", "x-forwarded-for-original", "x-forwarded-scheme",
            "x-forwarded-ssl", "x-url-scheme", "front-end-https",
            "x-real-ip", "x-client-ip", "client-ip", "x-cluster-client-ip", "x-originating-ip", "x-remote-ip", "x-remote-addr", "x-remote-user",
            "remote-user", "x-proxyuser-ip", "true-client-ip",
            "cf-connecting-ip", "cf-connecting-ipv6", "fastly-client-ip", "x-azure-clientip", "x-appengine-user-ip", "x-envoy-external-address",
            "x-envoy-original-path",
            "proxy", "x-sendfile-type", "x-accel-mapping", "x-accel-internal", "x-accel-redirect", "x-script-name", "script-name", "path-info", "x-path-info",
        ],
        StringComparer.OrdinalIgnoreCase);

    private static readonly FrozenSet<string> Outbound =
        FrozenSet.ToFrozenSet(["x-sendfile", "x-lighttpd-send-file", "x-reproxy-url", "x-reproxy-file"], StringComparer.OrdinalIgnoreCase);

    /// <summary>
    /// Whether a request's header is kept from the site. A name in underscores is the same to whoever reads it from a CGI environment (RFC
    /// 3875 §4.1.18).
    /// </summary>
    public static bool IsSteering(string name) => IsOurs(name) || Inbound.Contains(Folded(name));

    /// <summary>Whether it says where a request comes from (RFC 7239, and what was before it): that is said by us, if at all.</summary>
    public static bool IsSaidByUs(string name) => name.Length switch
    {
        9 => name.Equals("Forwarded", StringComparison.OrdinalIgnoreCase),
        15 => Folded(name).Equals("X-Forwarded-For", StringComparison.OrdinalIgnoreCase),
        16 => Folded(name).Equals("X-Forwarded-Host", StringComparison.OrdinalIgnoreCase),
        17 => Folded(name).Equals("X-Forwarded-Proto", StringComparison.OrdinalIgnoreCase),
        _ => false,
    };

    /// <summary>Whether a header of the site's answer is kept from the proxy in front. All of them begin with an X.</summary>
    public static bool IsForProxies(string name)
    {
        if (name is not ['x' or 'X', ..])
        {
            return false;
        }

        var folded = Folded(name);
        return folded.StartsWith("x-accel-", StringComparison.OrdinalIgnoreCase) || IsOurs(name) || Outbound.Contains(folded);
    }

    /// <summary>Whether it says something that only we say: <c>X-Wary-…</c>.</summary>
    public static bool IsOurs(string name) =>
        name.Length >= 6 && name[0] is 'x' or 'X' && Folded(name).StartsWith("x-wary", StringComparison.OrdinalIgnoreCase);

    /// <summary>On the path of every header of every request: a name without an underscore is itself.</summary>
    private static string Folded(string name) => name.Replace('_', '-');
}
