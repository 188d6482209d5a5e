using System.Text;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Logging;
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
        var builder = WebApplication.CreateSlimBuilder();
        builder.WebHost.UseUrls(address);
        builder.Logging.ClearProviders();
        var app = builder.Build();
        const string page = "<html><body><ul><li><a href=/shop/dealer-stock>Dealer stock</a></li><li><a href=/shop>Shop</a></li></ul></body></html>";
        app.MapGet("/echo", (HttpRequest request) => string.Concat(request.Headers.Select(h => $"{h.Key}: {h.Value}\n")));
        app.MapGet("/page", () => Results.Bytes(Encoding.UTF8.GetBytes(page), "text/html", enableRangeProcessing: true));
        app.MapGet("/partial", () => Results.Text(page, "text/html", Encoding.UTF8, 206));
        app.MapGet("/odd-coding", (HttpResponse response) =>
        {
            response.Headers.ContentEncoding = "zstd";
            return Results.Text(page, "text/html");
        });
        app.MapGet("/utf16", () => Results.Bytes(Encoding.Unicode.GetBytes("<p>ü</p>"), "text/html; charset=utf-16"));
        app.MapGet("/slow", async (CancellationToken stop) => await Task.Delay(TimeSpan.FromSeconds(20), stop));
        await app.StartAsync();
        return new Origins(app, address);
    }

    public ValueTask DisposeAsync() => app.DisposeAsync();
}
