using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using WarySentinel.Testing;

namespace WarySentinel.Service.Tests.Passwords;

/// <summary>A site that answers with the credentials that it was sent.</summary>
internal sealed class EchoOrigin : IAsyncDisposable
{
    private readonly WebApplication app;

    private EchoOrigin(WebApplication app, string address) => (this.app, Address) = (app, address);

    public string Address { get; }

    public static async Task<EchoOrigin> StartAsync()
    {
        var address = $"http://127.0.0.1:{RunningSite.FreePort()}";
        var app = WebApplication.CreateBuilder().Build();
        app.Urls.Add(address);
        app.Map("/{**rest}", (HttpRequest request) => request.Headers.Authorization.ToString() is { Length: > 0 } sent ? sent : "none");
        await app.StartAsync();
        return new EchoOrigin(app, address);
    }

    public ValueTask DisposeAsync() => app.DisposeAsync();
}
