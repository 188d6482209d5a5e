using System.Buffers;
using System.IO.Compression;
using System.Net.Http.Headers;
using System.Text;
using Microsoft.Net.Http.Headers;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Markup;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using Yarp.ReverseProxy.Forwarder;

namespace WarySentinel.Service.Gateway;

/// <summary>Changes a request on its way to the origin and the answer on its way back.</summary>
public sealed class GatewayTransformer(ServiceOptions options, Sessions sessions, TimeProvider time) : HttpTransformer
{
    private static readonly string[] Codings = ["gzip", "br", "deflate"];
    private static readonly HashSet<string> Whole = new(StringComparer.OrdinalIgnoreCase)
    {
        ".jpg", ".jpeg", ".png", ".gif", ".webp", ".avif", ".svg", ".ico", ".css", ".js", ".mjs", ".woff", ".woff2", ".ttf", ".mp3", ".m4a", ".ogg", ".opus",
            ".wav", ".mp4", ".webm", ".pdf", ".zip", ".gz", ".epub",
    };

    /// <inheritdoc/>
    public override async ValueTask TransformRequestAsync(
        HttpContext httpContext, HttpRequestMessage proxyRequest, string destinationPrefix, CancellationToken cancellationToken)
    {
        var passage = httpContext.Features.Get<ProxiedRequest>()!;
        await base.TransformRequestAsync(httpContext, proxyRequest, destinationPrefix, cancellationToken);
        proxyRequest.RequestUri = new Uri(
            destinationPrefix.TrimEnd('/') + passage.Path.SentWithQuery, new UriCreationOptions { DangerousDisablePathAndQueryCanonicalization = true });
        var headers = proxyRequest.Headers;
        var sent = httpContext.Request.Headers;
        SetWhereFrom(httpContext, headers);
        KeepOurCookiesHome(sent.Cookie, headers);
        if (passage.RequestIdentity is { Viewpoint: null, MemberHeader: { } member })
        {
            headers.TryAddWithoutValidation("X-Wary-Member", member);
            var now = time.GetUtcNow();
            headers.TryAddWithoutValidation("X-Wary-Roles", RolesOf(passage.RequestIdentity.Visitor, now));
        }

        if (passage.Filtered && !Whole.Contains(Path.GetExtension(passage.Path.Key)))
        {
            AskForWholePage(sent.AcceptEncoding.ToString(), headers);
        }
    }

    /// <summary>Says where the request comes from, and lets nothing through that outsiders may not say.</summary>
    private static void SetWhereFrom(HttpContext http, HttpRequestHeaders headers)
    {
        var sent = http.Request.Headers;
        headers.Host = http.Request.Host.Value;
        foreach (var header in sent)
        {
            // Ours alone, what says who asks, and what would have the site serve another address than the one decided on: nobody outside may set them.
            if (SteeringHeaders.IsSteering(header.Key))
            {
                headers.Remove(header.Key);
            }
        }

        SetForwarding(sent, headers, "X-Forwarded-For", http.Connection.RemoteIpAddress?.ToString());
        SetForwarding(sent, headers, "X-Forwarded-Proto", http.Request.Scheme);
        SetForwarding(sent, headers, "X-Forwarded-Host", http.Request.Host.Value);
        SetForwarding(sent, headers, "Forwarded", null);
    }

    /// <summary>A piece of a page, or "unchanged since", cannot be filtered for this visitor; nor can a coding that we do not read.</summary>
    private static void AskForWholePage(string wanted, HttpRequestHeaders headers)
    {
        headers.Remove(HeaderNames.AcceptEncoding);
        headers.TryAddWithoutValidation(
            HeaderNames.AcceptEncoding,
            string.Join(", ", Codings.Where(c => wanted.Contains(c, StringComparison.OrdinalIgnoreCase)).DefaultIfEmpty("identity")));
        headers.Range = null;
        headers.Remove(HeaderNames.IfRange);
        headers.Remove(HeaderNames.IfNoneMatch);
        headers.Remove(HeaderNames.IfModifiedSince);
    }

    /// <inheritdoc/>
    public override async ValueTask<bool> TransformResponseAsync(
        HttpContext httpContext, HttpResponseMessage? proxyResponse, CancellationToken cancellationToken)
    {
        var passage = httpContext.Features.Get<ProxiedRequest>()!;
        if (!await base.TransformResponseAsync(httpContext, proxyResponse, cancellationToken) || proxyResponse is null)
        {
            return false;
        }

        var response = httpContext.Response;
        KeepOriginFromSteering(response.Headers);
        var kind = passage.Filtered ? MarkupKind.Of(proxyResponse.Content.Headers.ContentType) : MarkupKind.None;
        if (passage.Guarded || kind != MarkupKind.None)
        {
            // A filtered page differs from visitor to visitor; no cache may hand one's page to another.
            GuardedHeaders.Set(response.Headers);
        }

        if (kind == MarkupKind.None || HttpMethods.IsHead(httpContext.Request.Method) || response.StatusCode is 304 or 204)
        {
            if (kind != MarkupKind.None)
            {
                response.Headers.Remove(HeaderNames.ContentLength);
            }

            return true;
        }

        await AnswerFilteredAsync(httpContext, passage, proxyResponse.Content, kind == MarkupKind.Xml, cancellationToken);
        return false;
    }

    /// <summary>What an origin says to proxies is said to us, and our cookies are not its to set.</summary>
    private void KeepOriginFromSteering(IHeaderDictionary headers)
    {
        foreach (var header in headers)
        {
            if (SteeringHeaders.IsForProxies(header.Key))
            {
                DropForProxies(headers);
                break;
            }
        }

        if (headers.SetCookie.Count > 0)
        {
            KeepTheirCookiesOut(headers);
        }
    }

    private async Task AnswerFilteredAsync(HttpContext http, ProxiedRequest passage, HttpContent content, bool xml, CancellationToken stop)
    {
        var response = http.Response;
        var body = await DecodedAsync(content, stop);
        if (body is null || response.StatusCode == StatusCodes.Status206PartialContent)
        {
            // It cannot be read, so it cannot be known to be clean: closed.
            response.Headers.Clear();
            response.StatusCode = StatusCodes.Status502BadGateway;
            return;
        }

        response.Headers.Remove(HeaderNames.ContentLength);
        response.Headers.Remove(HeaderNames.ContentEncoding);
        response.Headers.Remove(HeaderNames.ContentMD5);
        response.Headers.Remove("Digest");
        response.Headers.Remove("Accept-Ranges");
        await using (body)
        {
            await FilterAsync(http, passage, body, xml, content.Headers.ContentType, stop);
        }
    }

    private async Task FilterAsync(
        HttpContext http, ProxiedRequest passage, Stream body, bool xml, System.Net.Http.Headers.MediaTypeHeaderValue? type, CancellationToken stop)
    {
        var encoding = MarkupKind.EncodingOf(type);
        var decider = new PageDecider(passage, http.Request, options, passage.RequestIdentity.At ?? time.GetUtcNow(), xml, encoding.IsSingleByteSafe
            ? encoding.Encoding : Encoding.UTF8);
        var filter = MarkupFilter.Of(decider, xml, encoding.IsSingleByteSafe ? encoding.Encoding : Encoding.UTF8);
        var output = http.Response.BodyWriter;
        if (!encoding.IsSingleByteSafe)
        {
            body = Encoding.CreateTranscodingStream(body, encoding.Encoding, new UTF8Encoding(false));
            http.Response.ContentType = type!.MediaType + "; charset=utf-8";
        }

        var buffer = ArrayPool<byte>.Shared.Rent(32 * 1024);
        try
        {
            int read;
            while ((read = await body.ReadAsync(buffer, stop)) > 0)
            {
                filter.Write(buffer.AsSpan(0, read), false, output);
                await output.FlushAsync(stop);
            }

            filter.Write([], true, output);
            await output.FlushAsync(stop);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    private static async Task<Stream?> DecodedAsync(HttpContent content, CancellationToken stop)
    {
        var stream = await content.ReadAsStreamAsync(stop);
        foreach (var coding in content.Headers.ContentEncoding.Reverse())
        {
            if (Decoded(stream, coding.ToLowerInvariant()) is not { } decoded)
            {
                return null;
            }

            stream = decoded;
        }

        return stream;
    }

    /// <summary>The stream behind a coding; null behind one that we do not read.</summary>
    private static Stream? Decoded(Stream coded, string coding) => coding switch
    {
        "identity" => coded,
        "gzip" or "x-gzip" => new GZipStream(coded, CompressionMode.Decompress),
        "br" => new BrotliStream(coded, CompressionMode.Decompress),
        "deflate" => new ZLibStream(coded, CompressionMode.Decompress),
        _ => null,
    };

    private static string RolesOf(Visitor visitor, DateTimeOffset now)
    {
        var roles = "";
        foreach (var grant in visitor.Grants)
        {
            // The same role may be held twice, by hand and by plan.
            if (grant.Kind == FactKind.Role && grant.IsInForce(now) && !roles.Split(',').Contains(grant.Key))
            {
                roles = roles.Length == 0 ? grant.Key : roles + "," + grant.Key;
            }
        }

        return roles;
    }

    private static void DropForProxies(IHeaderDictionary headers)
    {
        foreach (var name in headers.Keys.Where(SteeringHeaders.IsForProxies).ToList())
        {
            headers.Remove(name);
        }
    }

    /// <summary>The site sets no cookie of ours: it could end, or begin, somebody's session.</summary>
    private void KeepTheirCookiesOut(IHeaderDictionary headers)
    {
        if (headers.SetCookie.Any(IsOurs))
        {
            headers.SetCookie = new Microsoft.Extensions.Primitives.StringValues([.. headers.SetCookie.Where(c => !IsOurs(c))]);
        }

        bool IsOurs(string? cookie)
        {
            // A cookie without a name is sent as its value alone: "=wary=x" comes back as "wary=x" (RFC 6265bis §5.7).
            var text = cookie.AsSpan().TrimStart(" \t=");
            var end = text.IndexOfAny('=', ';');
            return sessions.IsOurs((end < 0 ? text : text[..end]).Trim());
        }
    }

    private static void SetForwarding(IHeaderDictionary sent, HttpRequestHeaders headers, string name, string? value)
    {
        if (sent.ContainsKey(name))
        {
            headers.Remove(name);
        }

        if (value is not null)
        {
            headers.TryAddWithoutValidation(name, value);
        }
    }

    private void KeepOurCookiesHome(Microsoft.Extensions.Primitives.StringValues cookies, HttpRequestHeaders headers)
    {
        if (cookies.Count == 0)
        {
            return;
        }

        var (ours, others) = (0, 0);
        foreach (var line in cookies)
        {
            foreach (var pair in line.AsSpan().Split(';'))
            {
                var cookie = line.AsSpan(pair).Trim(' ');
                _ = IsOurs(cookie) ? ours++ : cookie.Length > 0 ? others++ : 0;
            }
        }

        if (ours == 0)
        {
            return;
        }

        headers.Remove(HeaderNames.Cookie);
        if (others > 0)
        {
            var kept = cookies.SelectMany(line => (line ?? "").Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
                .Where(pair => !IsOurs(pair));
            headers.TryAddWithoutValidation(HeaderNames.Cookie, string.Join("; ", kept));
        }

        bool IsOurs(ReadOnlySpan<char> pair) => sessions.IsOurs(pair[..Math.Max(0, pair.IndexOf('='))]);
    }
}

/// <summary>Which answers are filtered, and in which encoding they are written.</summary>
internal enum MarkupKind
{
    None,
    Html,
    Xml,
}

internal static class MarkupKinds
{
    private static bool Is(string type, string other) => type.Equals(other, StringComparison.OrdinalIgnoreCase);

    extension(MarkupKind)
    {
        // A page without a type is sniffed by browsers, and most often taken for HTML.
        public static MarkupKind Of(System.Net.Http.Headers.MediaTypeHeaderValue? type) => type?.MediaType is not { } media ? MarkupKind.Html
            : Is(media, "text/html") || Is(media, "application/xhtml+xml") ? MarkupKind.Html
            : Is(media, "application/xml") || Is(media, "text/xml") || Is(media, "application/rss+xml") || Is(media, "application/atom+xml") ? MarkupKind.Xml
            : MarkupKind.None;

        public static (Encoding Encoding, bool IsSingleByteSafe) EncodingOf(System.Net.Http.Headers.MediaTypeHeaderValue? type)
        {
            var name = type?.CharSet?.Trim('"') ?? "utf-8";
            try
            {
                var encoding = Encoding.GetEncoding(name);
                return (encoding, encoding.CodePage is not (1200 or 1201 or 12000 or 12001));
            }
            catch (ArgumentException)
            {
                return (Encoding.UTF8, true);
            }
        }
    }
}
