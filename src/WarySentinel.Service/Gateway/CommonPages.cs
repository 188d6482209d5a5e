using Microsoft.Extensions.Primitives;
using Microsoft.Net.Http.Headers;
using WarySentinel.Core;

namespace WarySentinel.Service.Gateway;

/// <summary>
/// Pages that are the same for everybody, as they were looked through: no gate has a say in anything that they name. They keep what the origin says of
/// how long they may be kept. Each by the origin's own tag for it (RFC 9110 §8.8), and only as long as the same is in force.
/// </summary>
internal sealed class CommonPages
{
    private const int Most = 20_000;
    private readonly Recent<Common> pages = new(Most);

    private sealed record Common(WeakReference Stamp, string Tag);

    /// <summary>Whether a page is known to be the same for everybody.</summary>
    /// <param name="address">Its path and query.</param>
    /// <param name="stamp">What is in force.</param>
    /// <param name="tag">The origin's tag for it.</param>
    public bool Has(string address, object stamp, string tag) => Find(address, stamp) == tag;

    /// <summary>
    /// Whether “unchanged since” may be asked of the origin: only where what the browser has is the very state that was looked through. Of any other
    /// state it is not known what it names.
    /// </summary>
    /// <param name="address">Its path and query.</param>
    /// <param name="stamp">What is in force.</param>
    /// <param name="asked">The headers of the request (RFC 9110 §13.1).</param>
    public bool MayBeUnchanged(string address, object stamp, IHeaderDictionary asked)
    {
        if (Find(address, stamp) is not { } known)
        {
            return false;
        }

        if (asked.IfNoneMatch.Count == 0 && asked.IfModifiedSince.Count == 0)
        {
            return true;
        }

        return known.Split('\n') is [var tag, var at, _]
            && (asked.IfNoneMatch.Count == 0 || asked.IfNoneMatch == tag) && (asked.IfModifiedSince.Count == 0 || asked.IfModifiedSince == at);
    }

    private string? Find(string address, object stamp) =>
        pages.TryGet(address, out var known) && known is not null && ReferenceEquals(known.Stamp.Target, stamp) ? known.Tag : null;

    /// <summary>Notes one that was looked through to its end.</summary>
    public void Note(string address, object stamp, string tag) => pages.Keep(address, new Common(new WeakReference(stamp), tag));

    /// <summary>What the origin says of how long a page may be kept, and by which tag.</summary>
    public static IReadOnlyList<KeyValuePair<string, StringValues>> SaidOf(IHeaderDictionary headers) =>
        [.. Kept.Where(headers.ContainsKey).Select(name => KeyValuePair.Create(name, headers[name]))];

    /// <summary>Says it again, of a page that turned out to be the same for everybody.</summary>
    public static void SayAgain(ProxiedRequest passage, IHeaderDictionary headers)
    {
        foreach (var name in Kept)
        {
            headers.Remove(name);
        }

        foreach (var (name, value) in passage.Said!)
        {
            headers[name] = value;
        }

        KeepForWhomItIs(passage, headers);
    }

    /// <summary>The origin knows a member who asks, and may have written it for them: it is theirs, and asked for again before it is shown.</summary>
    public static void KeepForWhomItIs(ProxiedRequest passage, IHeaderDictionary headers)
    {
        if (passage.RequestIdentity.Visitor.IsSignedIn)
        {
            headers.CacheControl = "private, no-cache";
            headers.Append(HeaderNames.Vary, HeaderNames.Cookie);
        }
    }

    private static readonly string[] Kept =
        ["Cache-Control", "Expires", "Pragma", "ETag", "Last-Modified", "Surrogate-Control", "CDN-Cache-Control", "Vary", "Accept-Ranges", "Content-MD5",
            "Digest"];

    /// <summary>What tells one state of a page from another; null where the origin says nothing.</summary>
    public static string? TagOf(HttpResponse response)
    {
        var (tag, at) = (response.Headers.ETag.ToString(), response.Headers.LastModified.ToString());
        return tag.Length + at.Length == 0 ? null : $"{tag}\n{at}\n{response.Headers.ContentEncoding}";
    }
}
