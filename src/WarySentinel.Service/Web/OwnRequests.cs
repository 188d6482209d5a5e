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
            .ConfigurePrimaryHttpMessageHandler(() => new SocketsHttpHandler
            {
                AllowAutoRedirect = false,
                UseCookies = false,
                UseProxy = false,
                AutomaticDecompression = DecompressionMethods.All,
            })
            .SetHandlerLifetime(Lifetime).RemoveAllLoggers();
        return services;
    }
}
