using System.Net;

namespace WarySentinel.Service.Web;

/// <summary>
/// The requests that the service makes itself, by named clients of the framework's factory: connections are shared, and made anew from time to time, so that
/// a name that leads elsewhere by then is heard of.
/// </summary>
public static class OwnRequests
{
    /// <summary>Sitemaps, feeds and pages for the catalogue, from where <see cref="Outbound"/> lets us.</summary>
    public const string Walk = "walk";

    /// <summary>What a sweep asks for, from where <see cref="Outbound"/> lets us.</summary>
    public const string Sweep = "sweep";

    /// <summary>Parts of pages, from the origin.</summary>
    public const string Parts = "parts";

    private static readonly TimeSpan Lifetime = TimeSpan.FromMinutes(2);

    /// <summary>Registers the clients.</summary>
    public static IServiceCollection AddOwnRequests(this IServiceCollection services, ServiceOptions options)
    {
        services.AddHttpClient(Walk, http => http.Timeout = Timeout.InfiniteTimeSpan)
            .ConfigurePrimaryHttpMessageHandler(provider => provider.GetRequiredService<Outbound>().NewHandler(4)).SetHandlerLifetime(Lifetime)
            .RemoveAllLoggers();
        services.AddHttpClient(Sweep, http => http.Timeout = TimeSpan.FromSeconds(20))
            .ConfigurePrimaryHttpMessageHandler(provider => provider.GetRequiredService<Outbound>().NewHandler(12)).SetHandlerLifetime(Lifetime)
            .RemoveAllLoggers();
        services.AddHttpClient(Parts, http => http.Timeout = TimeSpan.FromSeconds(options.OriginTimeoutSeconds))
            .ConfigurePrimaryHttpMessageHandler(provider => provider.GetRequiredService<OriginConnection>().NewHandler(DecompressionMethods.All))
            .SetHandlerLifetime(Lifetime).RemoveAllLoggers();
        foreach (var name in options.OriginHost.Length == 0 ? [] : new[] { Walk, Sweep, Parts })
        {
            services.AddHttpClient(name).AddHttpMessageHandler(() => new OriginHost(options));
        }

        return services;
    }
}

/// <summary>Names the origin by the host that it wants to hear, where the settings give one.</summary>
internal sealed class OriginHost(ServiceOptions options) : DelegatingHandler
{
    private readonly string authority = new Uri(options.Origin).Authority;

    /// <inheritdoc/>
    protected override Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
    {
        if (request.RequestUri!.Authority.Equals(authority, StringComparison.OrdinalIgnoreCase))
        {
            request.Headers.Host ??= options.OriginHost;
        }

        return base.SendAsync(request, cancellationToken);
    }
}
