using WarySentinel.Contract.Catalogue;

namespace WarySentinel.Service.Catalogue;

/// <summary>Knows which addresses are the guarded site's, and counts those of other hosts that a source names.</summary>
/// <param name="options">Knows the site's own addresses.</param>
/// <param name="start">Where the source begins; its host is the site's too. Null for a file.</param>
/// <param name="sameAs">Further hosts that somebody said are the same site.</param>
public sealed class SiteHosts(ServiceOptions options, Uri? start, IReadOnlyList<string>? sameAs)
{
    private const int MostHosts = 100;
    private const int MostTold = 5;
    private readonly Dictionary<string, int> elsewhere = new(StringComparer.OrdinalIgnoreCase);
    private readonly HashSet<string> same = new(
        (sameAs ?? []).Select(h => Uri.TryCreate(h, UriKind.Absolute, out var url) ? url.Authority : h.Trim().TrimEnd('/')), StringComparer.OrdinalIgnoreCase);

    /// <summary>The hosts that are not the site's, the one with the most addresses first.</summary>
    public IReadOnlyList<ElsewhereHost> Elsewhere =>
        [.. elsewhere.OrderByDescending(e => e.Value).ThenBy(e => e.Key, StringComparer.Ordinal).Take(MostTold).Select(e => new ElsewhereHost(e.Key, e.Value))];

    /// <summary>The path and query on the site of an address; null where it is none of the site's.</summary>
    public string? PathOf(string text)
    {
        if (text.StartsWith('/') && !text.StartsWith("//", StringComparison.Ordinal))
        {
            return text.Split('#')[0];
        }

        if (!Uri.TryCreate(text, UriKind.Absolute, out var url) || url.Scheme is not ("http" or "https"))
        {
            return null;
        }

        if ((start is not null || same.Count > 0) && !options.IsSite(url) && !same.Contains(url.Authority)
            && start?.Authority.Equals(url.Authority, StringComparison.OrdinalIgnoreCase) != true)
        {
            if (elsewhere.ContainsKey(url.Authority) || elsewhere.Count < MostHosts)
            {
                elsewhere[url.Authority] = elsewhere.GetValueOrDefault(url.Authority) + 1;
            }

            return null;
        }

        return Uri.UnescapeDataString(url.AbsolutePath) is var path && path.Contains('%', StringComparison.Ordinal) ? url.PathAndQuery : path + url.Query;
    }
}
