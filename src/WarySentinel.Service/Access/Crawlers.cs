using System.Collections.Concurrent;
using System.Net;
using System.Text.Json;
using DnsClient;
using WarySentinel.Core;
using WarySentinel.Core.Access;

namespace WarySentinel.Service.Access;

/// <summary>Looks names up: addresses to names and back. Tests put their own in its place.</summary>
public interface INameLookup
{
    /// <summary>The host names of an address (RFC 1035 §3.5).</summary>
    Task<IReadOnlyList<string>> NamesAsync(IPAddress address, CancellationToken stop);

    /// <summary>The addresses of a host name.</summary>
    Task<IReadOnlyList<IPAddress>> AddressesAsync(string host, CancellationToken stop);
}

/// <summary>Looks names up by DNS.</summary>
public sealed class DnsLookup : INameLookup
{
    private readonly LookupClient dns = new(new LookupClientOptions { Timeout = TimeSpan.FromSeconds(2), Retries = 1, UseCache = true });

    /// <inheritdoc/>
    public async Task<IReadOnlyList<string>> NamesAsync(IPAddress address, CancellationToken stop) =>
        [.. (await dns.QueryReverseAsync(address, stop)).Answers.PtrRecords().Select(r => r.PtrDomainName.Value)];

    /// <inheritdoc/>
    public async Task<IReadOnlyList<IPAddress>> AddressesAsync(string host, CancellationToken stop)
    {
        var four = await dns.QueryAsync(host, QueryType.A, cancellationToken: stop);
        var six = await dns.QueryAsync(host, QueryType.AAAA, cancellationToken: stop);
        return [.. four.Answers.ARecords().Select(r => r.Address), .. six.Answers.AaaaRecords().Select(r => r.Address)];
    }
}

/// <summary>
/// Tells crawlers that the owner welcomes from pretenders: by published ranges, or by forward-confirmed reverse DNS. The user
/// agent only says whom it is worth looking up; it lets nobody in.
/// </summary>
public sealed class Crawlers(PolicyHolder policies, INameLookup names, ServiceOptions options, TimeProvider time, ILogger<Crawlers> log)
{
    private const int MostKept = 20_000;
    private static readonly TimeSpan KeptGood = TimeSpan.FromHours(6);
    private static readonly TimeSpan KeptBad = TimeSpan.FromMinutes(10);
    private static readonly TimeSpan KeptUnsure = TimeSpan.FromSeconds(30);
    private static readonly TimeSpan LookLasts = TimeSpan.FromSeconds(10);
    private const int MostLooks = 8;
    private readonly Recent<(bool Is, DateTimeOffset Until)> known = new(MostKept);
    private readonly ConcurrentDictionary<string, Task<bool>> looking = new(StringComparer.Ordinal);
    private int looks;
    private readonly Lazy<IReadOnlyDictionary<string, IReadOnlyList<IPNetwork>>> published = new(() => ReadRanges(options, log));

    /// <summary>Whether a request comes from a welcome crawler whose address checks out.</summary>
    public async ValueTask<bool> IsWelcomeAsync(HttpContext http)
    {
        var policy = policies.Current;
        var welcome = policy.Settings.Crawlers;
        if (welcome.Count == 0 || http.Connection.RemoteIpAddress is not { } address)
        {
            return false;
        }

        var agent = http.Request.Headers.UserAgent.ToString();
        foreach (var crawler in welcome)
        {
            if (!agent.Contains(crawler.Name, StringComparison.OrdinalIgnoreCase))
            {
                continue;
            }

            if (crawler.Contains(address) || IsPublished(crawler.Name, address))
            {
                return true;
            }

            if (crawler.Hosts.Count > 0 && await ResolvesAsync(crawler, address, policy.Settings.Version, http.RequestAborted))
            {
                return true;
            }
        }

        return false;
    }

    private bool IsPublished(string name, IPAddress address)
    {
        var plain = address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address;
        return published.Value.TryGetValue(name.ToLowerInvariant(), out var ranges) && ranges.Any(r => r.Contains(plain));
    }

    private async Task<bool> ResolvesAsync(WelcomeCrawler crawler, IPAddress address, int version, CancellationToken stop)
    {
        var key = $"{address} {version}:{crawler.Name}";
        if (known.TryGet(key, out var before) && time.GetUtcNow() < before.Until)
        {
            return before.Is;
        }

        // However many ask about an address at once, it is looked up once, and goes on when they leave.
        if (!looking.TryGetValue(key, out var look))
        {
            if (Volatile.Read(ref looks) >= MostLooks)
            {
                // Anybody can call itself a crawler: whoever comes while enough are looked up is a guest this time.
                return false;
            }

            look = looking.GetOrAdd(key, k => LookUpAsync(k, crawler, address));
        }

        return await look.WaitAsync(stop);
    }

    private async Task<bool> LookUpAsync(string key, WelcomeCrawler crawler, IPAddress address)
    {
        Interlocked.Increment(ref looks);
        await Task.Yield();
        using var late = new CancellationTokenSource(LookLasts);
        var (found, kept) = (false, KeptBad);
        try
        {
            var plain = address.IsIPv4MappedToIPv6 ? address.MapToIPv4() : address;
            foreach (var name in (await names.NamesAsync(plain, late.Token)).Where(crawler.Owns).Take(3))
            {
                // Whoever owns an address may write any name for it; the name must lead back to the address.
                found |= (await names.AddressesAsync(name.TrimEnd('.'), late.Token)).Any(a => a.Equals(plain));
            }
        }
        catch (Exception fault) when (fault is DnsResponseException or System.Net.Sockets.SocketException or OperationCanceledException)
        {
            // Nothing is known of it: it is asked again soon.
            kept = KeptUnsure;
            log.LogInformation("A crawler at {Address} could not be looked up: {Reason}", address, fault.Message);
        }
        finally
        {
            known.Keep(key, (found, time.GetUtcNow() + (found ? KeptGood : kept)));
            looking.TryRemove(key, out _);
            Interlocked.Decrement(ref looks);
        }

        return found;
    }

    private static Dictionary<string, IReadOnlyList<IPNetwork>> ReadRanges(ServiceOptions options, ILogger log)
    {
        var all = new Dictionary<string, IReadOnlyList<IPNetwork>>(StringComparer.Ordinal);
        foreach (var entry in options.CrawlerRanges)
        {
            var (name, path) = entry.Split('=', 2) is [var n, var p] ? (n.Trim().ToLowerInvariant(), p.Trim()) : ("", entry);
            try
            {
                all[name] = Parse(File.ReadAllText(path));
            }
            catch (Exception fault) when (fault is IOException or UnauthorizedAccessException or JsonException or FormatException)
            {
                log.LogWarning("The ranges of the crawler {Name} cannot be read, so none of its addresses is let in by them: {Reason}", name, fault.Message);
            }
        }

        return all;
    }

    /// <summary>Ranges from a file: <c>{"prefixes": [{"ipv4Prefix": "192.0.2.0/24"}]}</c>, or one a line.</summary>
    public static IReadOnlyList<IPNetwork> Parse(string text)
    {
        if (!text.TrimStart().StartsWith('{'))
        {
            return [.. text.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Where(l => l[0] != '#')
                .Select(l => IPNetwork.Parse(l))];
        }

        using var json = JsonDocument.Parse(text);
        return [.. json.RootElement.GetProperty("prefixes").EnumerateArray().SelectMany(p => p.EnumerateObject())
            .Where(p => p.Name is "ipv4Prefix" or "ipv6Prefix").Select(p => IPNetwork.Parse(p.Value.GetString()!))];
    }
}
