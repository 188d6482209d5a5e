namespace WarySentinel.Service.Web;

/// <summary>The headers that keep guarded answers out of every shared cache.</summary>
public static class GuardedHeaders
{
    /// <summary>No cache may keep it (RFC 9111 §5.2.2).</summary>
    public const string CacheControl = "private, no-store";

    /// <summary>Sets the headers on an answer, in place of what the origin said.</summary>
    public static void Set(IHeaderDictionary headers)
    {
        if (headers.Count == 0)
        {
            // A page of ours: nothing was said of it yet.
            (headers.CacheControl, headers.Vary) = (CacheControl, "Cookie");
            return;
        }

        headers.CacheControl = CacheControl;
        headers.Remove("Expires");
        headers.Remove("Pragma");
        headers.Remove("ETag");
        headers.Remove("Last-Modified");
        headers.Remove("Surrogate-Control");
        headers.Remove("CDN-Cache-Control");
        headers.Vary = headers.Vary.ToString() is { Length: > 0 } vary && !vary.Contains("Cookie", StringComparison.OrdinalIgnoreCase) ? vary + ", Cookie"
            : "Cookie";
    }

    /// <summary>A value that may stand in a header.</summary>
    public static string Ascii(string value) => Uri.EscapeDataString(value).Replace("%40", "@", StringComparison.Ordinal);
}
