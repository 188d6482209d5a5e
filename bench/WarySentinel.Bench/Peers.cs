using System.Net;
using System.Text;
using Yarp.ReverseProxy.Configuration;
using Yarp.ReverseProxy.Forwarder;

namespace WarySentinel.Bench;

/// <summary>What the service is measured against: the same server doing nothing, the same proxy guarding nothing.</summary>
internal static class Peers
{
    /// <summary>Kestrel answering 204 and nothing else.</summary>
    public static Task Bare204(string listen)
    {
        var app = Build(listen);
        app.Run(http =>
        {
            http.Response.StatusCode = StatusCodes.Status204NoContent;
            return Task.CompletedTask;
        });
        return app.RunAsync();
    }

    /// <summary>The bytes of a file as an answer that never changes, from memory, on the same server.</summary>
    /// <param name="listen">Where.</param>
    /// <param name="file">The bytes of the page.</param>
    /// <param name="heads">The heads of the answer that it is compared with, one a line: both send the same.</param>
    public static async Task BarePage(string listen, string file, string heads)
    {
        var page = await File.ReadAllBytesAsync(file);
        string[] made = ["Date", "Server", "Content-Length", "Content-Type", "Transfer-Encoding", "Connection"];
        var said = (await File.ReadAllLinesAsync(heads)).Select(l => l.Split(": ", 2)).Where(l => l.Length == 2 && !made.Contains(l[0])).ToList();
        var app = Build(listen);
        app.Run(async http =>
        {
            http.Response.ContentType = "text/html; charset=utf-8";
            http.Response.ContentLength = page.Length;
            foreach (var head in said)
            {
                http.Response.Headers[head[0]] = head[1];
            }

            await http.Response.Body.WriteAsync(page, http.RequestAborted);
        });
        await app.RunAsync();
    }

    /// <summary>The same forwarder as the gateway's, with nothing around it.</summary>
    public static async Task BareProxy(string listen, string origin)
    {
        var app = Build(listen, services => services.AddHttpForwarder());
        var forwarder = app.Services.GetRequiredService<IHttpForwarder>();
        using var invoker = new HttpMessageInvoker(new SocketsHttpHandler
        { UseProxy = false, AllowAutoRedirect = false, AutomaticDecompression = DecompressionMethods.None, UseCookies = false });
        app.Run(async http => await forwarder.SendAsync(http, origin, invoker));
        await app.RunAsync();
    }

    /// <summary>The whole proxy of which that forwarder is a part, as its package sets it up: with routes, and headers that say who asks.</summary>
    public static Task WholeProxy(string listen, string origin)
    {
        var app = Build(listen, services => services.AddReverseProxy().LoadFromMemory(
            [new RouteConfig { RouteId = "all", ClusterId = "origin", Match = new RouteMatch { Path = "/{**all}" } }],
            [new ClusterConfig
            {
                ClusterId = "origin",
                Destinations = new Dictionary<string, DestinationConfig> { ["origin"] = new() { Address = origin } },
            }]));
        app.MapReverseProxy();
        return app.RunAsync();
    }

    /// <summary>
    /// A site with a picture of 10 KB and a page of 100 KB with a thousand links; beneath <c>/tagged</c> with a tag, beneath <c>/plain</c> one without a link
    /// to anything hidden.
    /// </summary>
    public static Task Origin(string listen)
    {
        var picture = new byte[10 * 1024];
        var page = Encoding.UTF8.GetBytes(Filtering.Page(100 * 1024));
        var plain = Encoding.UTF8.GetBytes("<!doctype html><title>x</title>"
            + string.Concat(Enumerable.Repeat("<p>A page about the sky, <a href=/visit>and more</a>.</p>\n", 1800)));
        var app = Build(listen);
        app.UseWebSockets();
        app.Run(async http =>
        {
            if (http.WebSockets.IsWebSocketRequest)
            {
                await EchoAsync(await http.WebSockets.AcceptWebSocketAsync());
                return;
            }

            var isPicture = http.Request.Path.Value!.EndsWith(".png", StringComparison.Ordinal);
            http.Response.ContentType = isPicture ? "image/png" : "text/html; charset=utf-8";
            var isPlain = http.Request.Path.StartsWithSegments("/plain");
            if (isPlain || http.Request.Path.StartsWithSegments("/tagged"))
            {
                http.Response.Headers.ETag = "\"t1\"";
                http.Response.Headers.CacheControl = "public, no-cache";
                if (http.Request.Headers.IfNoneMatch == "\"t1\"")
                {
                    http.Response.StatusCode = StatusCodes.Status304NotModified;
                    return;
                }
            }

            var body = isPicture ? picture : isPlain ? plain : page;
            http.Response.ContentLength = body.Length;
            await http.Response.Body.WriteAsync(body);
        });
        return app.RunAsync();
    }

    private static async Task EchoAsync(System.Net.WebSockets.WebSocket socket)
    {
        var buffer = new byte[1024];
        while (await socket.ReceiveAsync(buffer, CancellationToken.None) is { MessageType: not System.Net.WebSockets.WebSocketMessageType.Close } said)
        {
            await socket.SendAsync(buffer.AsMemory(0, said.Count), said.MessageType, said.EndOfMessage, CancellationToken.None);
        }

        await socket.CloseOutputAsync(System.Net.WebSockets.WebSocketCloseStatus.NormalClosure, null, CancellationToken.None);
    }

    private static WebApplication Build(string listen, Action<IServiceCollection>? add = null)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.WebHost.UseUrls(listen).ConfigureKestrel(kestrel => kestrel.AddServerHeader = false);
        builder.Logging.ClearProviders();
        add?.Invoke(builder.Services);
        return builder.Build();
    }
}
