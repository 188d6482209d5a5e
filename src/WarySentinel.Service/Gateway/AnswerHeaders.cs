using Microsoft.Extensions.Primitives;
using Microsoft.Net.Http.Headers;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Markup;
using WarySentinel.Core.Access;

namespace WarySentinel.Service.Gateway;

/// <summary>Headers of an answer that name addresses: what is hidden goes from them, too.</summary>
internal sealed class AnswerHeaders(ServiceOptions options, TimeProvider time)
{
    /// <summary>Takes hidden addresses out of the headers; gives where the answer sends on to, where the visitor may not know of it.</summary>
    public RequestPath? Hide(HttpContext http, ProxiedRequest passage, HttpResponse response)
    {
        var headers = response.Headers;
        if (headers.Location.Count == 0 && headers.Link.Count == 0 && headers["Refresh"].Count == 0 && headers["Content-Location"].Count == 0)
        {
            return null;
        }

        var decider = new PageDecider(passage, http.Request, options, passage.RequestIdentity.At ?? time.GetUtcNow(), true);
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
