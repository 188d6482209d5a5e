using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Shouldly;
using WarySentinel.Service.Web;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Web;

/// <summary>What may not pass between a visitor and the guarded site, in either direction.</summary>
public sealed class SteeringTests
{
    private static readonly string[] Steering =
    [
        "X-Original-URL", "X-Rewrite-URL", "X-HTTP-Method-Override", "X-Method-Override", "X-HTTP-Method", "X-Forwarded-Prefix", "X-Real-IP",
            "True-Client-IP", "Proxy", "X-Original-URI", "X-Forwarded-Port",
        "X-Original-Host", "X-Host", "X-Forwarded-Server", "X-Client-IP", "Client-IP", "X-Cluster-Client-IP", "X-Accel-Mapping", "X-Sendfile-Type",
        "X-Wary-Member", "X-Wary-Roles", "Remote-User",
    ];

    [Fact]
    public async Task Nothing_steers_the_origin_to_another_address_or_sender()
    {
        await using var origin = await OriginAsync();
        await using var site = await RunningSite.StartAsync(origin.Urls.First());
        using var browser = site.NewBrowser();
        using var request = new HttpRequestMessage(HttpMethod.Get, "/echo");
        foreach (var name in Steering.SelectMany(n => new[] { n, n.ToUpperInvariant(), n.Replace('-', '_') }))
        {
            request.Headers.TryAddWithoutValidation(name, "/shop/dealer-stock").ShouldBeTrue();
        }

        request.Headers.Add("X-Requested-With", "kept");
        var echo = await (await browser.SendAsync(request)).Content.ReadAsStringAsync();
        echo.ShouldContain("kept");
        echo.ShouldNotContain("/shop/dealer-stock");
        foreach (var name in Steering)
        {
            SteeringHeaders.IsSteering(name).ShouldBeTrue(name);
            SteeringHeaders.IsSteering(name.Replace('-', '_')).ShouldBeTrue(name);
        }

        SteeringHeaders.IsSteering("X-Requested-With").ShouldBeFalse();
    }

    [Fact]
    public async Task The_origin_sets_no_cookie_of_ours_and_steers_no_proxy_in_front()
    {
        await using var origin = await OriginAsync();
        await using var site = await RunningSite.StartAsync(origin.Urls.First());
        using var browser = site.NewBrowser();
        var answer = await browser.GetAsync("/cookies");
        answer.Headers.GetValues("Set-Cookie").ShouldBe(["cart=1; path=/"]);
        answer.Headers.ShouldAllBe(h => !h.Key.StartsWith("X-Accel", StringComparison.OrdinalIgnoreCase)
            && !h.Key.StartsWith("X-Wary", StringComparison.OrdinalIgnoreCase) && h.Key != "X-Sendfile");
        answer.Headers.Contains("X-Shop").ShouldBeTrue();
    }

    private static async Task<WebApplication> OriginAsync()
    {
        var app = SmallSite.At($"http://127.0.0.1:{RunningSite.FreePort()}");
        app.MapGet("/echo", (HttpRequest request) => string.Concat(request.Headers.Select(h => $"{h.Key}: {h.Value}\n")));
        app.MapGet("/cookies", (HttpResponse response) =>
        {
            foreach (var cookie in new[] { "wary=x; path=/", "wary-view=x", "wary-here=x", "wary-form=x", "wary-known=x", " wary =x", "wary", "=wary=x",
                " = wary-view=x", "cart=1; path=/" })
            {
                response.Headers.Append("Set-Cookie", cookie);
            }

            foreach (var name in new[] { "X-Accel-Redirect", "X-Accel-Expires", "x-accel-buffering", "X-Sendfile", "X-Wary-Member", "X-Wary-Status", "X-Shop" })
            {
                response.Headers[name] = "1";
            }

            return "cookies";
        });
        await app.StartAsync();
        return app;
    }
}
