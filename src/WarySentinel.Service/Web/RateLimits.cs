using System.Globalization;
using System.Threading.RateLimiting;
using Microsoft.AspNetCore.RateLimiting;
using WarySentinel.Core;

namespace WarySentinel.Service.Web;

/// <summary>
/// How often one network may ask, without being known, for what costs much: a password to be proved, page parts to be read from the origin. Wrong tries are
/// counted apart, in the store, whatever network they come from.
/// </summary>
public static class RateLimits
{
    /// <summary>The policy of calls that prove a password.</summary>
    public const string Proofs = "proofs";

    /// <summary>Registers the framework's rate limiting with our policies.</summary>
    public static IServiceCollection AddRateLimits(this IServiceCollection services, ServiceOptions options) => services.AddRateLimiter(limits =>
    {
        limits.RejectionStatusCode = StatusCodes.Status429TooManyRequests;
        limits.AddPolicy(Proofs, http => RateLimitPartition.GetTokenBucketLimiter(
            Networks.Of(http), _ => BucketOf(options.ProofsBurst, options.ProofsPerSecond)));
        limits.OnRejected = async (rejected, stop) =>
        {
            var http = rejected.HttpContext;
            var seconds = rejected.Lease.TryGetMetadata(MetadataName.RetryAfter, out var wait) ? Math.Max(1, Math.Ceiling(wait.TotalSeconds)) : 1;
            http.Response.Headers.RetryAfter = seconds.ToString(CultureInfo.InvariantCulture);
            http.Response.Headers.CacheControl = "no-store";
            if (http.Features.Get<AdminListener>() is not null)
            {
                await Problem.Of(ProblemKind.TooMany, "too-many-tries", seconds).ToHttp().ExecuteAsync(http);
                return;
            }

            http.Response.ContentType = "text/plain; charset=utf-8";
            await http.Response.WriteAsync(Wording.Of("problem.too-many-tries", seconds).ToReader(), stop);
        };
    });

    /// <summary>So many at once, and so many more a second.</summary>
    public static TokenBucketRateLimiterOptions BucketOf(int burst, int perSecond) => new()
    {
        TokenLimit = burst,
        TokensPerPeriod = perSecond,
        ReplenishmentPeriod = TimeSpan.FromSeconds(1),
        AutoReplenishment = true,
        QueueLimit = 0,
    };
}
