using System.Net;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests;

/// <summary>A browser somewhere else in the world, behind a proxy that says where.</summary>
public sealed class Network(RunningSite site, string address) : IDisposable
{
    private readonly CookieContainer jar = new();
    private HttpClient? http;

    private HttpClient Http => http ??= new HttpClient(new SocketsHttpHandler { CookieContainer = jar, AllowAutoRedirect = false })
    {
        BaseAddress = new Uri(site.Site),
        DefaultRequestHeaders = { { "X-Forwarded-For", address }, { "Sec-Fetch-Site", "same-origin" }, { "Origin", site.Site } },
    };

    /// <summary>Tries to sign in.</summary>
    public async Task<HttpStatusCode> SignInAsync(string name, string password) =>
        (await Http.PostAsync("/account/sign-in", new FormUrlEncodedContent([new("name", name), new("password", password)]),
            TestContext.Current.CancellationToken)).StatusCode;

    public string? Cookie(string name) => jar.GetCookies(new Uri(site.Site))[name]?.Value;

    public void Set(string name, string value) => jar.Add(new Uri(site.Site), new Cookie(name, value));

    public void Forget(string name) => jar.GetCookies(new Uri(site.Site))[name]!.Expired = true;

    public void Dispose() => http?.Dispose();
}
