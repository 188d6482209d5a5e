using System.Collections.Concurrent;
using System.Net;

namespace WarySentinel.StandIns.PageCache;

/// <summary>A page cache as badly set up as they come: it keeps every good page for everybody, whatever the page says.</summary>
public static class HeedlessCache
{
    private static readonly TimeSpan Keeps = TimeSpan.FromSeconds(60);

    private sealed record Kept(byte[] Body, string Type, DateTimeOffset Until);

    /// <summary>Builds a cache in front of a site.</summary>
    public static WebApplication Build(string upstream, string listen)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.WebHost.UseUrls(listen).ConfigureKestrel(kestrel => kestrel.AddServerHeader = false);
        builder.Logging.ClearProviders();
        var app = builder.Build();
        var pages = new ConcurrentDictionary<string, Kept>(StringComparer.Ordinal);
        var client = new HttpClient(new SocketsHttpHandler
        { AllowAutoRedirect = false, UseCookies = false, UseProxy = false, AutomaticDecompression = DecompressionMethods.All });
        app.Run(async http =>
        {
            var address = http.Request.Path.Value + http.Request.QueryString.Value;
            if (HttpMethods.IsGet(http.Request.Method) && pages.TryGetValue(address, out var kept) && kept.Until > DateTimeOffset.UtcNow)
            {
                http.Response.ContentType = kept.Type;
                http.Response.Headers["X-Cache"] = "HIT";
                await http.Response.Body.WriteAsync(kept.Body);
                return;
            }

            using var request = new HttpRequestMessage(new HttpMethod(http.Request.Method), upstream.TrimEnd('/') + address);
            foreach (var name in new[] { "Cookie", "Accept", "User-Agent" })
            {
                request.Headers.TryAddWithoutValidation(name, http.Request.Headers[name].ToString());
            }

            using var response = await client.SendAsync(request);
            var body = await response.Content.ReadAsByteArrayAsync();
            var type = response.Content.Headers.ContentType?.ToString() ?? "application/octet-stream";
            if (response.StatusCode == HttpStatusCode.OK && HttpMethods.IsGet(http.Request.Method))
            {
                pages[address] = new Kept(body, type, DateTimeOffset.UtcNow + Keeps);
            }

            http.Response.StatusCode = (int)response.StatusCode;
            http.Response.ContentType = type;
            if (response.Headers.Location is { } location)
            {
                http.Response.Headers.Location = location.OriginalString;
            }

            await http.Response.Body.WriteAsync(body);
        });
        return app;
    }
}
