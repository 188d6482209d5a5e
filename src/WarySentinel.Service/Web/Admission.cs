using Microsoft.AspNetCore.Http.Features;
using WarySentinel.Core;

namespace WarySentinel.Service.Web;

/// <summary>What an endpoint asks of its callers, before anything of the request is read.</summary>
/// <param name="Scope">The scope that the call needs.</param>
public sealed record NeedsScope(string Scope);

/// <summary>The largest body that an endpoint takes, in bytes.</summary>
/// <param name="MostBytes">The bound.</param>
public sealed record BodyBound(long MostBytes);

/// <summary>The bounds of bodies.</summary>
public static class Bodies
{
    /// <summary>JSON of the API.</summary>
    public const long Json = 1 << 20;

    /// <summary>Forms of visitors, and whatever comes from callers that are not known yet.</summary>
    public const long Form = 64 << 10;
}

/// <summary>
/// Runs between finding the endpoint and calling it: who calls, what they may, how large a body is taken. A caller who is not known makes the
/// service read nothing.
/// </summary>
public sealed class Admission(RequestDelegate next)
{
    /// <summary>Runs one request.</summary>
    public async Task InvokeAsync(HttpContext http)
    {
        var endpoint = http.GetEndpoint();
        var scope = endpoint?.Metadata.GetMetadata<NeedsScope>();
        if (scope is not null && await RefusalOfAsync(http, scope.Scope) is { } refused)
        {
            await refused.ToHttp().ExecuteAsync(http);
            return;
        }

        var most = endpoint?.Metadata.GetMetadata<BodyBound>()?.MostBytes ?? (scope is null ? Bodies.Form : Bodies.Json);
        if (http.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } bound)
        {
            bound.MaxRequestBodySize = most;
        }

        if (http.Request.ContentLength > most)
        {
            await TooLarge(most).ToHttp().ExecuteAsync(http);
            return;
        }

        await next(http);
    }

    /// <summary>The problem of a body that is too large.</summary>
    public static Problem TooLarge(long most) => Problem.Of(ProblemKind.TooLarge, "body-too-large", most >= 1 << 20 ? $"{most >> 20} MB" : $"{most >> 10} KB");

    /// <summary>Why the call is not let through; null where it is, and the caller is known from then on.</summary>
    public static async Task<Problem?> RefusalOfAsync(HttpContext http, string scope)
    {
        if (http.Features.Get<Caller>() is null)
        {
            var found = await http.RequestServices.GetRequiredService<ReadCaller>()(http);
            if (found.Problem is { } problem)
            {
                http.Response.Headers.WWWAuthenticate = "Bearer";
                return problem;
            }

            http.Features.Set(found.Value);
        }

        if (Caller.Of(http).Scopes.Contains(scope))
        {
            return null;
        }

        http.Response.Headers.WWWAuthenticate = $"Bearer error=\"insufficient_scope\", scope=\"{scope}\"";
        return Problem.Of(ProblemKind.Forbidden, "forbidden", scope);
    }
}

/// <summary>Guards endpoints of the API by scope, and by the size of what they take.</summary>
public static class Scopes
{
    /// <summary>Lets only callers with the scope through.</summary>
    public static TBuilder Requires<TBuilder>(this TBuilder builder, string scope)
        where TBuilder : IEndpointConventionBuilder
    {
        builder.WithMetadata(new NeedsScope(scope));
        // Where the endpoint is reached without the middleware, it is closed all the same.
        builder.AddEndpointFilter(async (context, next) =>
            await Admission.RefusalOfAsync(context.HttpContext, scope) is { } refused ? refused.ToHttp() : await next(context));
        return builder;
    }

    /// <summary>Takes bodies up to that size.</summary>
    public static TBuilder Takes<TBuilder>(this TBuilder builder, long mostBytes)
        where TBuilder : IEndpointConventionBuilder
    {
        builder.WithMetadata(new BodyBound(mostBytes));
        return builder;
    }
}
