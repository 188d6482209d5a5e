using System.Net;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.People;

/// <summary>Our cookie among others, as browsers and peers of all kinds send it.</summary>
public sealed class CookieTests(SiteFixture fixture)
{
    private readonly RunningSite site = fixture.Site;

    [Theory]
    [InlineData("{0}", true)]
    [InlineData("cart=a.b; {0}", true)]
    [InlineData("cart=a.b;{0};theme=dark", true)]
    [InlineData("  {0}  ", true)]
    [InlineData("xwary=1; {0}", true)]
    [InlineData("wary; {0}", true)]
    [InlineData("x{0}", false)]
    [InlineData("{0}x", false)]
    [InlineData("cart={0}", false)]
    [InlineData("wary=; {0}", false)]
    [InlineData("wary=forged; {0}", false)]
    [InlineData("wary-view=forged; wary-here=forged; {0}", true)]
    [InlineData(";;;=;", false)]
    public async Task A_session_is_found_where_its_very_cookie_stands(string header, bool signedIn)
    {
        using var browser = site.NewBrowser();
        var signIn = await browser.SignInAsync("nell", "orchard-quiet-91");
        var cookie = signIn.Headers.GetValues("Set-Cookie").First(c => c.StartsWith("wary=", StringComparison.Ordinal)).Split(';')[0];
        using var http = new HttpClient(new SocketsHttpHandler { UseCookies = false });
        foreach (var check in new[] { false, true })
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, site.Site + (check ? "/sentinel/check" : "/shop/dealer-stock"));
            request.Headers.TryAddWithoutValidation("X-Original-URI", "/shop/dealer-stock");
            request.Headers.TryAddWithoutValidation("Cookie", string.Format(System.Globalization.CultureInfo.InvariantCulture, header, cookie));
            (await http.SendAsync(request)).StatusCode.ShouldBe(signedIn ? check ? HttpStatusCode.NoContent : HttpStatusCode.OK
                : HttpStatusCode.Unauthorized, header);
        }
    }

    [Theory]
    [InlineData("cart=1", "cart=1")]
    [InlineData("wary=x; cart=1; wary-view=y", "cart=1")]
    [InlineData("wary=x; wary-here=y; wary-form=z", "")]
    [InlineData("wary-else=1", "wary-else=1")]
    public async Task Ours_stay_at_home_and_the_sites_own_go_on(string sent, string arrives)
    {
        await using var origin = await Access.Origins.EchoAsync();
        await using var own = await RunningSite.StartAsync(origin.Address);
        using var http = new HttpClient(new SocketsHttpHandler { UseCookies = false });
        using var request = new HttpRequestMessage(HttpMethod.Get, own.Site + "/echo");
        request.Headers.TryAddWithoutValidation("Cookie", sent);
        request.Headers.TryAddWithoutValidation("X_Wary_Member", "forged");
        request.Headers.TryAddWithoutValidation("x-wary-Roles", "owner");
        var echo = await (await http.SendAsync(request)).Content.ReadAsStringAsync();
        (echo.Split('\n').FirstOrDefault(l => l.StartsWith("Cookie: ", StringComparison.Ordinal)) ?? "Cookie: ").ShouldBe("Cookie: " + arrives);
        echo.ShouldNotContain("forged");
        echo.ShouldNotContain("Roles");
    }
}
