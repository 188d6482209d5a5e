using System.IO.Compression;
using WarySentinel.Core.Access;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Service.People;

/// <summary>What is known of mail domains: the owner's own lists first, then ours.</summary>
public sealed class MailDomains(ServiceOptions options)
{
    private const int ShortestAlike = 6;
    private readonly Lazy<HashSet<string>> disposable = new(() => options.DisposableDomains.Length > 0
        ? Read(File.OpenRead(options.DisposableDomains)) : Read(new GZipStream(Ours("disposable-domains.txt.gz"), CompressionMode.Decompress)));

    private readonly Lazy<HashSet<string>> providers = new(() => Read(Ours("mail-providers.txt")));

    /// <summary>What is known of a domain, and of what it lies beneath.</summary>
    public MailDomain KindOf(string domain, JoinSettings joining)
    {
        var above = Above(domain).ToList();
        return above.Exists(joining.Blocked.Contains) ? MailDomain.Blocked
            : above.Exists(joining.Trusted.Contains) ? MailDomain.Trusted
            : above.Exists(disposable.Value.Contains) ? MailDomain.Disposable
            : providers.Value.Contains(domain) ? MailDomain.Trusted
            : domain.Length >= ShortestAlike && providers.Value.Any(p => p.Length >= ShortestAlike && IsOneAway(p, domain)) ? MailDomain.LookAlike
            : MailDomain.Unknown;
    }

    private static IEnumerable<string> Above(string domain)
    {
        for (var rest = domain; rest.Contains('.', StringComparison.Ordinal); rest = rest[(rest.IndexOf('.', StringComparison.Ordinal) + 1)..])
        {
            yield return rest;
        }
    }

    /// <summary>Whether one letter is other, missing or too many, or two stand the wrong way round.</summary>
    public static bool IsOneAway(string one, string other)
    {
        if (Math.Abs(one.Length - other.Length) > 1 || one == other)
        {
            return false;
        }

        var from = one.Zip(other).TakeWhile(p => p.First == p.Second).Count();
        var (a, b) = (one[from..], other[from..]);
        return a.Length == b.Length ? a[1..] == b[1..] || (a.Length > 1 && a[0] == b[1] && a[1] == b[0] && a[2..] == b[2..])
            : a.Length > b.Length ? a[1..] == b : a == b[1..];
    }

    private static Stream Ours(string name) => typeof(MailDomains).Assembly.GetManifestResourceStream("WarySentinel.Service." + name)
        ?? throw new InvalidOperationException($"The resource {name} is missing from the build.");

    private static HashSet<string> Read(Stream stream)
    {
        using var reader = new StreamReader(stream);
        var domains = new HashSet<string>(StringComparer.Ordinal);
        while (reader.ReadLine() is { } line)
        {
            if (line.Trim() is { Length: > 0 } domain && domain[0] != '#')
            {
                domains.Add(domain.ToLowerInvariant());
            }
        }

        return domains;
    }
}
