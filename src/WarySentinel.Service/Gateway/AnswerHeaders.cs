using Microsoft.Extensions.Primitives;
using Microsoft.Net.Http.Headers;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Markup;
using WarySentinel.Core.Access;
using WarySentinel.Service.Entries;

namespace WarySentinel.Service.Gateway;

/// <summary>Headers of an answer that name addresses: what is hidden goes from them, too.</summary>
internal sealed class AnswerHeaders(ServiceOptions options)
{
    /// <summary>
    /// The site's own address in place of the one that the origin is reached by, which no visitor can; and cookies that the origin gives to its own name are
    /// for the site's.
    /// </summary>
    public void TurnToSite(IHeaderDictionary headers)
    {
        if (turned.Count == 0)
        {
            return;
        }

        if (headers.Location.Count > 0)
        {
            headers.Location = Turned(headers.Location);
        }

        if (headers.ContentLocation.Count > 0)
        {
            headers.ContentLocation = Turned(headers.ContentLocation);
        }

        foreach (var name in Written)
        {
            for (var n = 0; n < turned.Count && headers[name] is { Count: > 0 } written; n++)
            {
                var authority = turned[n];
                if (written.Any(w => w?.Contains(authority, StringComparison.OrdinalIgnoreCase) == true))
                {
                    headers[name] = new StringValues([.. written.Select(w => w?.Replace($"http://{authority}/", Site + "/", StringComparison.OrdinalIgnoreCase)
                        .Replace($"https://{authority}/", Site + "/", StringComparison.OrdinalIgnoreCase))]);
                }
            }
        }

        if (headers.SetCookie.Count > 0 && headers.SetCookie.Any(c => c?.Contains("domain", StringComparison.OrdinalIgnoreCase) == true))
        {
            headers.SetCookie = new StringValues([.. headers.SetCookie.Select(c => ForSite(c ?? ""))]);
        }
    }

    private static readonly string[] Written = ["Refresh", "Link"];
    private readonly IReadOnlyList<string> turned = options.TurnedAuthorities;
    private readonly HashSet<string> turnedHosts = [.. options.TurnedAuthorities.Select(a => new Uri("http://" + a).Host)];

    private string Site => options.SiteUrl.TrimEnd('/');

    private StringValues Turned(StringValues written)
    {
        var address = written.ToString();
        var isOwn = Uri.TryCreate(address, UriKind.Absolute, out var to) && to.Scheme is "http" or "https"
            && turned.Contains(to!.Authority, StringComparer.OrdinalIgnoreCase);
        if (!isOwn || written.Count != 1 || address.IndexOf("//", StringComparison.Ordinal) is not (> 0 and var slashes))
        {
            return written;
        }

        var rest = address.IndexOfAny(['/', '?', '#'], slashes + 2);
        return rest < 0 ? Site + "/" : Site + (address[rest] == '/' ? "" : "/") + address[rest..];
    }

    /// <summary>A cookie without the name of the origin: it is for whoever sent it, the site (RFC 6265 §5.3).</summary>
    private string ForSite(string cookie) => string.Join(';', cookie.Split(';').Where(part => !(part.Split('=', 2) is [var name, var value]
        && name.Trim().Equals("domain", StringComparison.OrdinalIgnoreCase) && turnedHosts.Contains(value.Trim().TrimStart('.').ToLowerInvariant()))));

    /// <summary>Takes hidden addresses out of the headers; gives where the answer sends on to, where the visitor may not know of it.</summary>
    public RequestPath? Hide(HttpContext http, ProxiedRequest passage, HttpResponse response)
    {
        var headers = response.Headers;
        if (headers.Location.Count == 0 && headers.Link.Count == 0 && headers["Refresh"].Count == 0 && headers.ContentLocation.Count == 0)
        {
            return null;
        }

        var decider = new PageDecider(passage, http.Request, options, passage.Now, true);
        if (headers.Location.ToString() is { Length: > 0 } location && decider.HiddenTargetOf(location) is { } target)
        {
            return target;
        }

        if (headers["Content-Location"].ToString() is { Length: > 0 } content && decider.OfLink(content) == Fate.Drop)
        {
            headers.Remove("Content-Location");
        }

        if (headers["Refresh"].ToString() is { Length: > 0 } refresh && refresh.IndexOf("url=", StringComparison.OrdinalIgnoreCase) is >= 0 and var at
            && decider.OfLink(refresh[(at + 4)..].Trim(' ', '"', '\'')) == Fate.Drop)
        {
            headers.Remove("Refresh");
        }

        HideLinks(headers, decider);
        return null;
    }

    /// <summary>Each link of a header stands between angle brackets (RFC 8288 §3); one that is hidden goes with its parameters.</summary>
    private static void HideLinks(IHeaderDictionary headers, PageDecider decider)
    {
        var all = headers.Link.SelectMany(line => Parted(line ?? "")).ToList();
        var kept = all.Where(link => link.IndexOf('<') is var from and >= 0 && link.IndexOf('>', from) is var to and > 0
            && decider.OfLink(link[(from + 1)..to]) != Fate.Drop).ToList();
        if (kept.Count < all.Count)
        {
            headers.Link = kept.Count == 0 ? StringValues.Empty : new StringValues(string.Join(", ", kept));
        }
    }

    /// <summary>The links of a header; a comma parts them where it stands in no address and in no quotes.</summary>
    private static List<string> Parted(string line)
    {
        var (links, from, inAddress, inQuotes) = (new List<string>(), 0, false, false);
        for (var at = 0; at < line.Length; at++)
        {
            inAddress = !inQuotes && (line[at] == '<' || (inAddress && line[at] != '>'));
            inQuotes ^= line[at] == '"' && !inAddress;
            if (line[at] == ',' && !inAddress && !inQuotes)
            {
                links.Add(line[from..at].Trim());
                from = at + 1;
            }
        }

        links.Add(line[from..].Trim());
        return [.. links.Where(l => l.Length > 0)];
    }
}
