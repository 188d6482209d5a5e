using System.Text.Encodings.Web;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Redirects;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Check;

/// <summary>
/// Answers nginx's <c>auth_request</c>: 204, or 401/403 with the address to send the person to in <c>X-Wary-Location</c>.
/// On the path of every request of a site behind nginx; measured in docs/performance.md.
/// </summary>
public sealed class CheckEndpoint(
    PolicyHolder policies, VisitorReader visitors, BasicCredentials basic, OriginKnowledge knowledge, IFirstUse uses, ServiceOptions options,
    TimeProvider time)
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
        var identity = await visitors.FindAsync(http);
        var now = identity.At ?? time.GetUtcNow();
        if (!policy.TryResolve(target, now, out var request, out _))
        {
            // auth_request knows no other refusals than 401 and 403; the header says what is meant.
            response.StatusCode = StatusCodes.Status403Forbidden;
            response.Headers["X-Wary-Status"] = "400";
            return;
        }

        var path = request.Path;
        if (RequestPath.IsUnder(path.Key, options.AccountPrefix) || RequestPath.IsUnder(path.Key, options.MachinePrefix)
            || PageBook.Of(policy).PathAt(path.Key, policy.Settings.Paths) is not null)
        {
            response.StatusCode = StatusCodes.Status204NoContent;
            return;
        }

        var verdict = policy.Judge(identity.Visitor, request, now);
        if (!verdict.Allowed && await basic.ReadAsync(http, identity, policy, path, now) is { } proved)
        {
            (identity, verdict) = (proved, policy.Judge(proved.Visitor, request, now));
        }

        if (verdict.Guarded)
        {
            response.Headers["X-Wary-Cache"] = NoStore;
            response.Headers["X-Wary-Vary"] = ByCookie;
        }

        if (verdict.Allowed)
        {
            if (verdict.Guarded && identity.Visitor.MayStart)
            {
                await uses.OpenedAsync(identity, policy, v => policy.Judge(v, request, now).Allowed, now);
            }

            response.StatusCode = StatusCodes.Status204NoContent;
            knowledge.Tell(identity, policy, path, verdict.Guarded, now, new AnsweredHeaders(response.Headers));
            return;
        }

        var refusal = policy.Decide(identity.Visitor, path, Acts.Open, now).Refusal!;
        if (BasicCredentials.ChallengeOf(http.Request, refusal, policy.Settings.SiteName) is { } challenge)
        {
            Ask(http, challenge);
            return;
        }

        Refuse(response, refusal, path, Destination.OfRefusal(policy, identity.Visitor, refusal, path.SentWithQuery, now));
    }

    /// <summary>Has the proxy ask a program for a name and password (RFC 7617).</summary>
    private static void Ask(HttpContext http, string challenge)
    {
        var headers = http.Response.Headers;
        http.Response.StatusCode = StatusCodes.Status401Unauthorized;
        headers["X-Wary-Status"] = "401";
        (headers.WWWAuthenticate, headers.CacheControl) = (challenge, GuardedHeaders.CacheControl);
        if (http.Features.Get<BasicRefused>() is { Wait: { Ticks: > 0 } wait })
        {
            headers.RetryAfter = Math.Ceiling(wait.TotalSeconds).ToString(System.Globalization.CultureInfo.InvariantCulture);
        }
    }

    private void Refuse(HttpResponse response, Refusal refusal, RequestPath path, string? elsewhere)
    {
        var back = UrlEncoder.Default.Encode(path.SentWithQuery);
        var (status, location) = elsewhere is not null ? (303, elsewhere) : refusal.Answer switch
        {
            Answer.SignIn => (401, $"{options.AccountPrefix}/sign-in?return_to={back}"),
            Answer.Register => (303, $"{options.AccountPrefix}/register?return_to={back}"),
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
