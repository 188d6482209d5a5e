using System.Net;
using Microsoft.AspNetCore.Server.Kestrel.Core;
using WarySentinel.Service.Web;
using WarySentinel.Service.Web.Acme;

namespace WarySentinel.Service;

/// <summary>Where the service listens: for visitors, for the console and the API, and for whoever comes without TLS.</summary>
internal static class Listeners
{
    /// <summary>Sets all of them up.</summary>
    public static WebApplicationBuilder AddListeners(this WebApplicationBuilder builder, ServiceOptions options)
    {
        if (options.AcmeDirectory.Length > 0)
        {
            AcmeDesk.Prepare(options, TimeProvider.System);
        }

        string[] pairs = options.AcmeDirectory.Length > 0 ? [AcmeDesk.FileOf(options), .. options.Certificates] : options.Certificates;
        var certificates = pairs.Length == 0 ? null : Certificates.Read(pairs, TimeProvider.System);
        if (options.Http3)
        {
            builder.WebHost.UseQuic();
        }

        builder.WebHost.ConfigureKestrel(kestrel =>
        {
            certificates?.OnFault = kestrel.ApplicationServices.GetRequiredService<ILogger<Certificates>>().LogFault;
            kestrel.AddServerHeader = false;
            kestrel.Limits.MaxRequestBodySize = options.BodyMaxBytes;
            kestrel.Limits.MaxRequestHeadersTotalSize = 32 * 1024;
            kestrel.Limits.MaxRequestLineSize = 8 * 1024;
            kestrel.Limits.RequestHeadersTimeout = TimeSpan.FromSeconds(15);
            Listen(kestrel, options.SiteListen, certificates, options.Http3, _ => { });
            // Their marks are the connection's: requests of HTTP/3 don't see those, and would be taken for visitors'.
            Listen(kestrel, options.AdminListen, certificates, false, listen => Mark(listen, AdminListener.Mark));
            if (options.RedirectListen.Length > 0)
            {
                Listen(kestrel, options.RedirectListen, null, false, listen => Mark(listen, RedirectListener.Mark));
            }
        });
        return builder;
    }

    private static void LogFault(this ILogger log, string fault) => log.LogError("{Fault} Those that were read before stay in use", fault);

    private static void Mark<T>(ListenOptions listen, T mark) => listen.Use(next => connection =>
    {
        connection.Features.Set(mark);
        return next(connection);
    });

    private static void Listen(
        KestrelServerOptions kestrel, string address, Certificates? certificates, bool http3, Action<ListenOptions> configure)
    {
        var url = BindingAddress.Parse(address);
        void Configure(ListenOptions listen)
        {
            if (url.Scheme == "https" && http3)
            {
                // Where the platform has no QUIC, Kestrel does without, and says nothing of it to anybody.
                listen.Protocols = HttpProtocols.Http1AndHttp2AndHttp3;
            }

            if (url.Scheme == "https" && certificates is not null)
            {
                listen.UseHttps(certificates.ToKestrel());
            }
            else if (url.Scheme == "https")
            {
                listen.UseHttps();
            }

            configure(listen);
        }

        if (url.Host.Equals("localhost", StringComparison.OrdinalIgnoreCase))
        {
            kestrel.ListenLocalhost(url.Port, Configure);
        }
        else if (IPAddress.TryParse(url.Host.Trim('[', ']'), out var ip))
        {
            kestrel.Listen(ip, url.Port, Configure);
        }
        else
        {
            kestrel.ListenAnyIP(url.Port, Configure);
        }
    }
}
