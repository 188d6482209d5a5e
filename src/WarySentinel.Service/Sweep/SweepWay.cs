using WarySentinel.Core;

namespace WarySentinel.Service.Sweep;

/// <summary>Another way of asking for an address than a browser's: what closes one does not always close the other.</summary>
/// <param name="Word">The word that says which.</param>
/// <param name="Method">The method.</param>
/// <param name="Headers">Headers beside the usual ones.</param>
internal sealed record SweepWay(string Word, HttpMethod Method, params (string Name, string Value)[] Headers)
{
    private const string Crawler = "Mozilla/5.0 (compatible; Googlebot/2.1; +http://www.google.com/bot.html)";

    private static readonly string[] Senders = ["X-Forwarded-For", "X-Real-IP", "X-Client-IP"];

    /// <summary>Whether the address travels in headers, and the start page is asked for.</summary>
    public bool IsSteered { get; private init; }

    /// <summary>The host to be named in place of the site's own; null for that.</summary>
    public string? Host { get; private init; }

    /// <summary>What the owner reads of it.</summary>
    public string Said => Words.Of("sweep.way-" + Word, Host);

    /// <summary>The ways that are worth trying at a host.</summary>
    public static IReadOnlyList<SweepWay> At(Uri site) =>
    [
        new("data", HttpMethod.Get, ("Accept", "application/json")),
        new("script", HttpMethod.Get, ("X-Requested-With", "XMLHttpRequest")),
        new("crawler", HttpMethod.Get, ("User-Agent", Crawler), ("From", "googlebot(at)googlebot.com")),
        new("referred", HttpMethod.Get, ("Referer", "https://www.google.com/")),
        new("inside", HttpMethod.Get, [.. Senders.Select(name => (name, "127.0.0.1")), ("Forwarded", "for=127.0.0.1")]),
        new("part", HttpMethod.Get, ("Range", "bytes=0-")),
        new("post", HttpMethod.Post),
        new("steered", HttpMethod.Get) { IsSteered = true },
        .. OtherHosts(site).Select(host => new SweepWay("host", HttpMethod.Get) { Host = host }),
    ];

    private static IEnumerable<string> OtherHosts(Uri site)
    {
        var port = site.IsDefaultPort ? "" : $":{site.Port}";
        yield return "localhost" + port;
        if (site.HostNameType == UriHostNameType.Dns && site.Host.Contains('.', StringComparison.Ordinal))
        {
            yield return (site.Host.StartsWith("www.", StringComparison.OrdinalIgnoreCase) ? site.Host[4..] : "www." + site.Host) + port;
        }
    }
}
