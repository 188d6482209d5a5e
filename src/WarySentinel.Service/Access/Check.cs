using System.Text.Encodings.Web;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Access;

/// <summary>
/// Answers nginx's <c>auth_request</c>: 204, or 401/403 with the address to send the person to in <c>X-Wary-Location</c>.
/// On the path of every request of a site behind nginx; measured in docs/performance.md.
/// </summary>
public sealed class Check(PolicyHolder policies, VisitorReader visitors, ServiceOptions options, TimeProvider time)
{
    /// <summary>The header in which the proxy gives the address asked for, as the visitor sent it.</summary>
    public const string AskedFor = "X-Original-URI";

    private static readonly Microsoft.Extensions.Primitives.StringValues NoStore = GuardedHeaders.CacheControl;
    private static readonly Microsoft.Extensions.Primitives.StringValues ByCookie = "Cookie";

    /// <summary>Decides about the address in <see cref="AskedFor"/>.</summary>
    public async Task InvokeAsync(HttpContext http)
    {
        var response = http.Response;
        var target = http.Request.Headers[AskedFor].ToString();
        var policy = policies.Current;
        var arrival = await visitors.FindAsync(http);
        var now = arrival.At ?? time.GetUtcNow();
        if (!policy.TryResolve(target, now, out var request, out _))
        {
            // auth_request knows no other refusals than 401 and 403; the header says what is meant.
            response.StatusCode = StatusCodes.Status403Forbidden;
            response.Headers["X-Wary-Status"] = "400";
            return;
        }

        var path = request.Path;
        if (RequestPath.IsUnder(path.Key, options.AccountPrefix) || RequestPath.IsUnder(path.Key, options.MachinePrefix))
        {
            response.StatusCode = StatusCodes.Status204NoContent;
            return;
        }

        var verdict = policy.Judge(arrival.Visitor, request, now);
        if (verdict.Guarded)
        {
            response.Headers["X-Wary-Cache"] = NoStore;
            response.Headers["X-Wary-Vary"] = ByCookie;
        }

        if (verdict.Allowed)
        {
            response.StatusCode = StatusCodes.Status204NoContent;
            if (arrival.MemberHeader is { } member)
            {
                response.Headers["X-Wary-Member"] = member;
            }

            return;
        }

        Refuse(response, policy.Decide(arrival.Visitor, path, Acts.Open, now).Refusal!, path);
    }

    private void Refuse(HttpResponse response, Refusal refusal, RequestPath path)
    {
        var back = UrlEncoder.Default.Encode(path.SentWithQuery);
        var (status, location) = refusal.Answer switch
        {
            Answer.SignIn => (401, $"{options.AccountPrefix}/sign-in?return_to={back}"),
            Answer.Password => (401, $"{options.AccountPrefix}/unlock?gate={refusal.Gate.Key}&return_to={back}"),
            Answer.Redirect => (303, refusal.Gate.RedirectTo!),
            Answer.NotFound => (404, $"{options.AccountPrefix}/not-found"),
            _ => (403, $"{options.AccountPrefix}/closed?return_to={back}"),
        };
        response.StatusCode = status == 401 ? 401 : 403;
        response.Headers["X-Wary-Status"] = status.ToString(System.Globalization.CultureInfo.InvariantCulture);
        response.Headers["X-Wary-Location"] = location;
        response.Headers.CacheControl = GuardedHeaders.CacheControl;
    }
}

/// <summary>The headers that keep guarded answers out of every shared cache.</summary>
public static class GuardedHeaders
{
    /// <summary>No cache may keep it (RFC 9111 §5.2.2).</summary>
    public const string CacheControl = "private, no-store";

    /// <summary>Sets the headers on an answer, in place of what the origin said.</summary>
    public static void Set(IHeaderDictionary headers)
    {
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
