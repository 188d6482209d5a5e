using System.IO.Compression;
using System.Text;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using WarySentinel.Testing;

namespace WarySentinel.Service.Tests.Access;

/// <summary>An origin that misbehaves on purpose.</summary>
internal sealed class Origins : IAsyncDisposable
{
    private readonly WebApplication app;

    private Origins(WebApplication app, string address) => (this.app, Address) = (app, address);

    public string Address { get; }

    public static async Task<Origins> EchoAsync()
    {
        var address = $"http://127.0.0.1:{RunningSite.FreePort()}";
        var app = SmallSite.At(address);
        const string page = "<html><body><ul><li><a href=/shop/dealer-stock>Dealer stock</a></li><li><a href=/shop>Shop</a></li></ul></body></html>";
        app.MapGet("/echo", (HttpRequest request) => string.Concat(request.Headers.Select(h => $"{h.Key}: {h.Value}\n")));
        app.MapGet("/page", () => Results.Bytes(Encoding.UTF8.GetBytes(page), "text/html", enableRangeProcessing: true));
        app.MapGet("/partial", () => Results.Text(page, "text/html", Encoding.UTF8, 206));
        app.MapGet("/odd-coding", (HttpResponse response) =>
        {
            response.Headers.ContentEncoding = "compress";
            return Results.Text(page, "text/html");
        });
        app.MapGet("/utf16", () => Results.Bytes(Encoding.Unicode.GetBytes("<p>ü</p>"), "text/html; charset=utf-16"));
        app.MapGet("/slow", async (CancellationToken stop) => await Task.Delay(TimeSpan.FromSeconds(20), stop));
        MapFormats(app);
        MapTalks(app);
        await app.StartAsync();
        return new Origins(app, address);
    }

    /// <summary>A page that may change.</summary>
    public static string CommonPage { get; set; } = "";

    /// <summary>The tag of a page that differs from visitor to visitor, and how often it was sent whole.</summary>
    public static string TaggedTag { get; set; } = "\"t1\"";

    /// <summary>What it says of caches.</summary>
    public static string TaggedCache { get; set; } = "";

    private static int taggedSent;

    public static int TaggedSent => taggedSent;

    /// <summary>The forms in which a list of pages travels, each with one page that is hidden.</summary>
    private static void MapFormats(WebApplication app)
    {
        const string hidden = "/shop/dealer-stock";
        app.MapGet("/rdf", () => Results.Text(
            $"<rdf:RDF><item rdf:about=\"{hidden}\"><title>x</title></item><item rdf:about=\"/shop\"/></rdf:RDF>", "application/rdf+xml"));
        app.MapGet("/svg", () => Results.Text($"<svg><a xlink:href=\"{hidden}\"><text>Dealer stock</text></a><a href='/shop'/></svg>", "image/svg+xml"));
        app.MapGet("/opml", () => Results.Text($"<opml><body><outline htmlUrl=\"{hidden}\"/><outline htmlUrl='/shop'/></body></opml>", "text/x-opml"));
        app.MapGet("/two-types", (HttpResponse response) =>
        {
            response.Headers.ContentType = new(["image/png", "text/html"]);
            return response.WriteAsync($"<a href={hidden}>Dealer stock</a>x");
        });
        app.MapGet("/no-type", (HttpResponse response) => response.Body.WriteAsync(Encoding.UTF8.GetBytes($"<a href={hidden}>Dealer stock</a>x")).AsTask());
        app.MapGet("/odd-type", (HttpResponse response) =>
        {
            response.Headers.ContentType = "text/html; charset=nonsense; ;;";
            return response.WriteAsync($"<a href={hidden}>Dealer stock</a>x");
        });
        app.MapGet("/bom", () => Results.Bytes([0xFF, 0xFE, .. Encoding.Unicode.GetBytes($"<a href={hidden}>Dealer stock</a>ü")], "text/html"));
        app.MapGet("/xhtml", () => Results.Text($"<html><br/><div/><a href='{hidden}'>Dealer stock</a><a href='/shop'>x</a></html>", "application/xhtml+xml"));
        app.MapGet("/pages.txt", (HttpRequest request) => Results.Text(
            $"http://{request.Host}/shop\r\nhttp://{request.Host}{hidden}\n\nSome words, {hidden}\n", "text/plain"));
        app.MapGet("/pages.xml.gz", () => Results.Bytes(
            Packed($"<urlset><url><loc>{hidden}</loc></url><url><loc>/shop</loc></url></urlset>"), "application/gzip"));
        app.MapGet("/sends-on", () => Results.Redirect(hidden));
        app.MapGet("/own", (HttpRequest request, HttpResponse response) =>
        {
            // What it is reached by, as an origin writes that knows no other name of itself.
            var own = "http://127.0.0.1:" + request.HttpContext.Connection.LocalPort;
            response.Headers.Location = own + "/shop?x=1#y";
            response.Headers.Link = $"<{own}/shop>; rel=next";
            response.Headers.SetCookie = new(["a=1; Domain=127.0.0.1; Path=/", "b=2; domain=other.example", "c=domain"]);
            response.StatusCode = 302;
        });
        app.MapGet("/squeezed/{coding}", (string coding, HttpResponse response) =>
        {
            response.Headers.ContentEncoding = coding;
            response.Headers.ETag = "\"one\"";
            return Results.Bytes(Squeezed(coding, $"<ul><li><a href={hidden}>Dealer stock</a></li><li>x</li></ul>"), "text/html");
        });
        app.MapGet("/common", (HttpResponse response) =>
        {
            response.Headers.CacheControl = "public, max-age=60";
            return Results.Text(CommonPage, "text/html", Encoding.UTF8);
        }).AddEndpointFilter(async (context, next) =>
        {
            var tag = $"\"{CommonPage.Length}\"";
            context.HttpContext.Response.Headers.ETag = tag;
            context.HttpContext.Response.Headers.Link = $"<{hidden}>; rel=next";
            return context.HttpContext.Request.Headers.IfNoneMatch == tag ? Results.StatusCode(304) : await next(context);
        });
        app.MapGet("/own-page", (HttpRequest request) =>
        {
            var own = "http://127.0.0.1:" + request.HttpContext.Connection.LocalPort;
            return Results.Text(
                $"<a href=\"{own}/shop\">a</a><a href='{own}'>b</a><a href='{own}9/x'>c</a>"
                    + $"<script>x='{own.Replace("/", "\\/", StringComparison.Ordinal)}\\/y'</script>"
                + $"<ul><li><a href={own}{hidden}>Dealer stock</a></li><li>d</li></ul>", "text/html");
        });
        app.MapGet("/tagged", (HttpRequest request, HttpResponse response) =>
        {
            response.Headers.ETag = TaggedTag;
            response.Headers["X-Said"] = "once";
            response.Headers.CacheControl = TaggedCache;
            if (request.Headers.IfNoneMatch == TaggedTag)
            {
                return Results.StatusCode(304);
            }

            Interlocked.Increment(ref taggedSent);
            return Results.Text($"<ul><li><a href={hidden}>Dealer stock</a></li><li>{TaggedTag}{request.Headers["X-Wary-Member"]}</li></ul>", "text/html");
        });
        app.MapGet("/data/{type}", (string type) => Results.Text(
            $"[{{\"url\":\"{hidden}\"}},{{\"url\":\"/shop\"}}]", type.Replace('_', '/')));
        app.MapGet("/data/broken", () => Results.Text("[{\"url\":", "application/json"));
        app.MapGet("/data/utf16", () => Results.Bytes(Encoding.Unicode.GetBytes($"[\"{hidden}\",\"ü\"]"), "application/json; charset=utf-16"));
        app.MapGet("/sends-open", () => Results.Redirect("/shop"));
        app.MapGet("/headers", (HttpResponse response) =>
        {
            response.Headers.Link = new([$"<{hidden}>; rel=preload; title=\"a, b\", </shop>; rel=next", $"<{hidden}>; rel=prev"]);
            response.Headers["Refresh"] = $"5; url={hidden}";
            response.Headers.ContentLocation = hidden;
            return Results.Text("x", "text/html");
        });
    }

    private static byte[] Packed(string text) => Squeezed("gzip", text);

    private static byte[] Squeezed(string coding, string text)
    {
        using var to = new MemoryStream();
        using (Stream packed = coding switch
        {
            "br" => new BrotliStream(to, CompressionLevel.Fastest),
            "deflate" => new ZLibStream(to, CompressionLevel.Fastest),
            "zstd" => new ZstdSharp.CompressionStream(to),
            _ => new GZipStream(to, CompressionLevel.Fastest),
        })
        {
            packed.Write(Encoding.UTF8.GetBytes(text));
        }

        return to.ToArray();
    }

    /// <summary>What is no page: talks in both directions, events as they come, files in pieces, bodies that pause or break off.</summary>
    private static void MapTalks(WebApplication app)
    {
        app.UseWebSockets();
        app.Map("/talk", async (HttpContext http, CancellationToken stop) =>
        {
            using var socket = await http.WebSockets.AcceptWebSocketAsync();
            var buffer = new byte[1024];
            while (await socket.ReceiveAsync(buffer, stop) is { MessageType: not System.Net.WebSockets.WebSocketMessageType.Close } said)
            {
                await socket.SendAsync(buffer.AsMemory(0, said.Count), said.MessageType, said.EndOfMessage, stop);
            }

            await socket.CloseOutputAsync(System.Net.WebSockets.WebSocketCloseStatus.NormalClosure, null, stop);
        });
        app.MapGet("/events", async (HttpResponse response, CancellationToken stop) =>
        {
            response.ContentType = "text/event-stream";
            await response.WriteAsync("data: one\n\n", stop);
            await response.Body.FlushAsync(stop);
            await Told.Task.WaitAsync(stop);
            await response.WriteAsync("data: two\n\n", stop);
        });
        app.MapGet("/blob", () => Results.Bytes([.. Enumerable.Range(0, 1000).Select(n => (byte)n)], "application/octet-stream", enableRangeProcessing: true,
            entityTag: new("\"blob\"")));
        app.MapGet("/pauses", async (HttpResponse response, CancellationToken stop) =>
        {
            response.ContentType = "text/html";
            await response.WriteAsync("<p>one ", stop);
            await response.Body.FlushAsync(stop);
            await Task.Delay(TimeSpan.FromSeconds(3), stop);
            await response.WriteAsync("two", stop);
        });
        app.MapGet("/breaks", async (HttpContext http) =>
        {
            http.Response.ContentType = "text/html";
            http.Response.ContentLength = 500;
            await http.Response.WriteAsync("<p>one ");
            await http.Response.Body.FlushAsync();
            http.Abort();
        });
    }

    /// <summary>The second event comes when this is done.</summary>
    public static TaskCompletionSource Told { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);

    public ValueTask DisposeAsync() => app.DisposeAsync();
}
