using System.Buffers;
using System.IO.Compression;
using System.IO.Pipelines;
using System.Net.Http.Headers;
using System.Text;
using Microsoft.Extensions.Primitives;
using Microsoft.Net.Http.Headers;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Markup;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Gateway;

/// <summary>Changes requests on their way to the origin and the answers on their way back.</summary>
internal sealed class GatewayTransformer(
    ServiceOptions options, Sessions sessions, PageMemory memory, CommonPages pages, OriginKnowledge knowledge, ILogger log)
{
    private readonly KnownKinds kinds = new();
    private readonly AnswerHeaders headers = new(options);
    private readonly FilteredAnswer filtered = new(options, pages, memory, log);
    private static readonly HashSet<string> Whole = new(StringComparer.OrdinalIgnoreCase)
    {
        ".jpg", ".jpeg", ".png", ".gif", ".webp", ".avif", ".ico", ".css", ".js", ".mjs", ".woff", ".woff2", ".ttf", ".mp3", ".m4a", ".ogg", ".opus",
            ".wav", ".mp4", ".webm", ".pdf", ".zip", ".gz", ".epub",
    };

    private static readonly HashSet<string>.AlternateLookup<ReadOnlySpan<char>> Endings = Whole.GetAlternateLookup<ReadOnlySpan<char>>();

    /// <summary>Changes a request, once its headers are copied.</summary>
    public void TurnRequest(HttpContext httpContext, HttpRequestMessage proxyRequest, string destinationPrefix, ProxiedRequest passage)
    {
        proxyRequest.RequestUri = new Uri(
            destinationPrefix + passage.Path.SentWithQuery, new UriCreationOptions { DangerousDisablePathAndQueryCanonicalization = true });
        var headers = proxyRequest.Headers;
        var sent = httpContext.Request.Headers;
        SetWhereFrom(httpContext, headers);
        KeepOurCookiesHome(sent.Cookie, headers);
        passage.WhoForOrigin = knowledge.Tell(
            passage.RequestIdentity, passage.Policy, passage.Path, passage.Guarded, passage.Now, new RequestHeaders(headers));
        passage.IsTold = passage.WhoForOrigin.Length > 0;

        if (passage.Turns && !IsFile(passage.Path.Key))
        {
            AskForWholePage(sent.AcceptEncoding.ToString(), headers, passage.IsWhole, true);
        }

        if (passage.Filtered && (passage.IsWhole || passage.Rules.Count > 0 || !IsFile(passage.Path.Key)))
        {
            var isCommon = passage.MayBeCommon && pages.MayBeUnchanged(passage.Path.SentWithQuery, passage.Policy.StampAt(passage.Now), sent);
            passage.MayBeUnchanged = isCommon;
            AskForWholePage(sent.AcceptEncoding.ToString(), headers, passage.IsWhole, isCommon);
            if (!isCommon && HttpMethods.IsGet(httpContext.Request.Method))
            {
                AskByMemory(httpContext.Request, passage, headers);
            }
        }
    }

    private static readonly string[] WhoSaid = ["Cookie", "Authorization"];

    /// <summary>Asks whether a page still is as it is remembered.</summary>
    private void AskByMemory(HttpRequest request, ProxiedRequest passage, HttpRequestHeaders headers)
    {
        passage.AskedTags = request.Headers.IfNoneMatch;
        passage.WhoForOrigin += string.Join(
            '\n', WhoSaid.Where(headers.NonValidated.Contains).Select(n => headers.NonValidated[n]));
        passage.Remembered = passage.ForgetsPage || passage.IsWhole || request.Headers.Range.Count > 0 ? null
            : memory.Find(passage, request, passage.Policy.StampAt(passage.Now));
        if (passage.Remembered is { } page)
        {
            headers.TryAddWithoutValidation(HeaderNames.IfNoneMatch, page.OriginTag);
        }
    }

    /// <summary>Says where the request comes from, and lets nothing through that outsiders may not say. Its host has been copied as it came.</summary>
    private void SetWhereFrom(HttpContext http, HttpRequestHeaders headers)
    {
        var sent = http.Request.Headers;
        if (options.OriginHost.Length > 0)
        {
            headers.Host = options.OriginHost;
        }

        foreach (var header in sent)
        {
            // Ours alone, what says who asks, and what would have the site serve another address than the one decided on: nobody outside may set them.
            if (SteeringHeaders.IsSteering(header.Key) || SteeringHeaders.IsSaidByUs(header.Key))
            {
                headers.Remove(header.Key);
            }
        }

        if (http.Connection.RemoteIpAddress is { } from)
        {
            headers.TryAddWithoutValidation("X-Forwarded-For", from.ToString());
        }

        headers.TryAddWithoutValidation("X-Forwarded-Proto", http.Request.Scheme);
        headers.TryAddWithoutValidation("X-Forwarded-Host", http.Request.Host.Value);
    }

    /// <summary>Whether what stands at an address is no page, by its name or by what came from there last.</summary>
    private bool IsFile(string path) => (Endings.Contains(Path.GetExtension(path.AsSpan()))
        && AnswerKind.PackedIn(path) == Reading.AsItIs) || kinds.IsFile(path);

    /// <summary>
    /// "Unchanged since" cannot be filtered for this visitor; nor can a coding that we do not read. A piece may be one of a file: it is asked for as a whole
    /// once it turns out to be one of a page.
    /// </summary>
    private static void AskForWholePage(string wanted, HttpRequestHeaders headers, bool isPage, bool isCommon)
    {
        headers.Remove(HeaderNames.AcceptEncoding);
        headers.TryAddWithoutValidation(HeaderNames.AcceptEncoding, Codings.Among(wanted));
        if (isPage)
        {
            headers.Range = null;
            headers.Remove(HeaderNames.IfRange);
        }

        if (!isCommon)
        {
            headers.Remove(HeaderNames.IfNoneMatch);
            headers.Remove(HeaderNames.IfModifiedSince);
        }
    }

    /// <summary>Changes an answer, once its headers are copied; whether its body is to be copied as it is.</summary>
    public ValueTask<bool> TurnResponseAsync(
        HttpContext httpContext, HttpResponseMessage proxyResponse, ProxiedRequest passage, CancellationToken cancellationToken)
    {
        var response = httpContext.Response;
        KeepOriginFromSteering(response.Headers);
        headers.TurnToSite(response.Headers);
        if (response.StatusCode == StatusCodes.Status101SwitchingProtocols)
        {
            // From here on it is no page any more.
            return ValueTask.FromResult(true);
        }

        if (response.StatusCode == StatusCodes.Status304NotModified && passage.Remembered is { } remembered)
        {
            return new ValueTask<bool>(AnswerFromMemoryAsync(httpContext, passage, remembered, cancellationToken));
        }

        if (response.StatusCode == StatusCodes.Status304NotModified && passage.MayBeUnchanged)
        {
            // What the browser has is what was looked through: the origin says how long it is good for.
            headers.Hide(httpContext, passage, response);
            CommonPages.KeepForWhomItIs(passage, response.Headers);
            return ValueTask.FromResult(true);
        }

        if (passage.Turns)
        {
            return new ValueTask<bool>(TurnAsync(httpContext, passage, proxyResponse.Content, cancellationToken));
        }

        return PageIn(httpContext, passage, proxyResponse.Content, out var passes) is { } kind
            ? new ValueTask<bool>(FilterAsync(httpContext, passage, proxyResponse.Content, kind, cancellationToken)) : ValueTask.FromResult(passes);
    }

    private async Task<bool> FilterAsync(HttpContext http, ProxiedRequest passage, HttpContent content, AnswerKind kind, CancellationToken stop)
    {
        await filtered.WriteAsync(http, passage, content, kind, stop);
        return false;
    }

    /// <summary>What kind of page an answer is that is to be filtered; null of any other, which passes as it is or not at all.</summary>
    private AnswerKind? PageIn(HttpContext httpContext, ProxiedRequest passage, HttpContent content, out bool passes)
    {
        passes = false;
        var response = httpContext.Response;
        // “Unchanged” is no page, and says no type: that of a file keeps its tag.
        var kind = passage.Filtered && response.StatusCode != StatusCodes.Status304NotModified
            ? AnswerKind.Of(content, passage.Path.Key, passage.Rules) : null;
        var isRead = kind is { Reading: not Reading.AsItIs };
        passage.Tag = isRead ? CommonPages.TagOf(response) : null;
        var isCommon = isRead && IsCommon(passage, response);
        if (isRead && !isCommon && response.StatusCode == StatusCodes.Status206PartialContent
            && HttpMethods.IsGet(httpContext.Request.Method) && !passage.IsWhole)
        {
            // A piece of a page cannot be filtered: it is asked for as a whole.
            response.Headers.Clear();
            passage.IsWhole = true;
            return null;
        }

        kinds.Note(passage.Path.Key, response.StatusCode, isRead);
        if (isRead && passage.Rules.Any(r => r.IsUnreadable))
        {
            // Nobody knows what an entry is here.
            response.Headers.Clear();
            passage.CannotBeJudged = true;
            return null;
        }

        passage.Origin = isRead && !isCommon ? SaidOf(passage, response) : null;
        if (passage.Filtered && headers.Hide(httpContext, passage, response) is { } target)
        {
            passage.HiddenTarget = target;
            response.Headers.Clear();
            return null;
        }

        if (isCommon)
        {
            CommonPages.KeepForWhomItIs(passage, response.Headers);
            passes = true;
            return null;
        }

        if (isRead && passage is { MayBeCommon: true, Tag: not null })
        {
            passage.Said = CommonPages.SaidOf(response.Headers);
        }

        if (passage.Guarded || isRead)
        {
            // A filtered page differs from visitor to visitor; no cache may hand one's page to another.
            GuardedHeaders.Set(response.Headers);
        }

        if (!isRead || HttpMethods.IsHead(httpContext.Request.Method) || response.StatusCode is 304 or 204)
        {
            if (isRead)
            {
                response.Headers.Remove(HeaderNames.ContentLength);
            }

            passes = true;
            return null;
        }

        return kind;
    }

    /// <summary>A page of a site without a gate: it passes, with the site's address in place of the origin's.</summary>
    private async Task<bool> TurnAsync(HttpContext http, ProxiedRequest passage, HttpContent content, CancellationToken stop)
    {
        var response = http.Response;
        var isPage = response.StatusCode != StatusCodes.Status304NotModified
            && AnswerKind.Of(content, passage.Path.Key, []) is { Reading: not Reading.AsItIs, IsZipped: false };
        kinds.Note(passage.Path.Key, response.StatusCode, isPage);
        if (isPage && response.StatusCode == StatusCodes.Status206PartialContent && HttpMethods.IsGet(http.Request.Method) && !passage.IsWhole)
        {
            response.Headers.Clear();
            passage.IsWhole = true;
            return false;
        }

        passage.Tag = isPage ? CommonPages.TagOf(response) : null;
        return !isPage || HttpMethods.IsHead(http.Request.Method) || response.StatusCode == StatusCodes.Status204NoContent || IsCommon(passage, response)
            || !await filtered.TurnAsync(http, passage, content, stop);
    }

    /// <summary>The origin says that the page still is as it is remembered: it goes out as it went to whoever got the same answers.</summary>
    private async Task<bool> AnswerFromMemoryAsync(HttpContext http, ProxiedRequest passage, PageMemory.Page page, CancellationToken stop)
    {
        var response = http.Response;
        var now = passage.Now;
        if (page.For(passage.Policy, passage.RequestIdentity.Visitor, now) is not { } variant)
        {
            response.Headers.Clear();
            passage.ForgetsPage = true;
            return false;
        }

        response.StatusCode = StatusCodes.Status200OK;
        foreach (var (name, value) in page.Headers)
        {
            // What is said anew counts, beside what belongs to the body (RFC 9111 §3.2).
            if (response.Headers[name].Count == 0 || name.StartsWith("Content-", StringComparison.OrdinalIgnoreCase))
            {
                response.Headers[name] = value;
            }
        }

        headers.Hide(http, passage, response);
        GuardedHeaders.Set(response.Headers);
        response.Headers.ContentEncoding = page.Coding is null ? StringValues.Empty : new StringValues(page.Coding);
        response.Headers.Remove(HeaderNames.ContentLength);
        await FilteredAnswer.WriteAsync(http, passage, variant, stop);
        return false;
    }

    /// <summary>What the origin says of a page that it has a tag for, and sets no cookie with; null for any other.</summary>
    private static OriginSaid? SaidOf(ProxiedRequest passage, HttpResponse response)
    {
        var said = response.Headers;
        var cache = said.CacheControl.ToString();
        if (said.ETag.ToString() is not { Length: > 0 } tag || said.SetCookie.Count > 0 || response.StatusCode != StatusCodes.Status200OK
            || cache.Contains("no-store", StringComparison.OrdinalIgnoreCase))
        {
            return null;
        }

        // Who was told of by us may have been greeted by name, whatever it says of caches.
        var isForAnybody = !passage.IsTold && cache.Contains("public", StringComparison.OrdinalIgnoreCase)
            && !said.Vary.ToString().Contains("cookie", StringComparison.OrdinalIgnoreCase)
            && !said.Vary.ToString().Contains('*', StringComparison.Ordinal);
        return new OriginSaid(tag, isForAnybody, [.. said.Where(h => !NotKept.Contains(h.Key))]);
    }

    private static readonly HashSet<string> NotKept = new(StringComparer.OrdinalIgnoreCase)
    { "ETag", "Date", "Age", "Content-Length", "Transfer-Encoding", "Connection", "Cache-Control", "Expires", "Last-Modified", "Set-Cookie", "Vary" };

    /// <summary>Whether a page, or a piece of one, passes as it is: nobody may see less of it than others.</summary>
    private bool IsCommon(ProxiedRequest passage, HttpResponse response) => passage.MayBeCommon
        && response.StatusCode is StatusCodes.Status200OK or StatusCodes.Status206PartialContent && passage.Tag is { } tag
        && pages.Has(passage.Path.SentWithQuery, passage.Policy.StampAt(passage.Now), tag);

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
            headers.SetCookie = new StringValues([.. headers.SetCookie.Where(c => !IsOurs(c))]);
        }

        bool IsOurs(string? cookie)
        {
            // A cookie without a name is sent as its value alone: "=wary=x" comes back as "wary=x" (RFC 6265bis §5.7).
            var text = cookie.AsSpan().TrimStart(" \t=");
            var end = text.IndexOfAny('=', ';');
            return sessions.IsOurs((end < 0 ? text : text[..end]).Trim());
        }
    }

    private void KeepOurCookiesHome(StringValues cookies, HttpRequestHeaders headers)
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
