using System.Net;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

public sealed class CheckTests(SiteFixture fixture)
{
    private readonly RunningSite site = fixture.Site;

    [Theory]
    [InlineData("/shop", 204, null, null)]
    [InlineData("/shop/dealer-stock", 401, "401", "/account/sign-in?return_to=%2Fshop%2Fdealer-stock")]
    [InlineData("/shop/%64ealer-stock?x=1", 401, "401", "/account/sign-in?return_to=%2Fshop%2Fdealer-stock%3Fx%3D1")]
    [InlineData("/shop/clearance-vault", 401, "401", "/account/unlock?gate=clearance-vault&return_to=%2Fshop%2Fclearance-vault")]
    [InlineData("/shop/observatory-grade", 403, "403", "/account/closed?return_to=%2Fshop%2Fobservatory-grade")]
    [InlineData("/shop%2fdealer-stock", 403, "400", null)]
    [InlineData("", 403, "400", null)]
    [InlineData("/account/sign-in", 204, null, null)]
    [InlineData("/accounts-secret/../shop/dealer-stock", 401, "401", "/account/sign-in?return_to=%2Fshop%2Fdealer-stock")]
    [InlineData("/account/../shop/dealer-stock", 401, "401", "/account/sign-in?return_to=%2Fshop%2Fdealer-stock")]
    public async Task The_check_answers_in_the_way_auth_request_knows(string asked, int status, string? meant, string? location)
    {
        using var response = await AskAsync(asked, null);
        ((int)response.StatusCode).ShouldBe(status);
        Header(response, "X-Wary-Status").ShouldBe(meant);
        Header(response, "X-Wary-Location").ShouldBe(location);
    }

    [Fact]
    public async Task A_signed_in_dealer_passes_and_the_page_is_not_to_be_cached()
    {
        using var nell = site.NewBrowser();
        var signedIn = await nell.SignInAsync("nell", "orchard-quiet-91");
        var cookie = signedIn.Headers.GetValues("Set-Cookie").First(c => c.StartsWith("wary=", StringComparison.Ordinal)).Split(';')[0];
        using var response = await AskAsync("/shop/dealer-stock", cookie);
        response.StatusCode.ShouldBe(HttpStatusCode.NoContent);
        Header(response, "X-Wary-Cache").ShouldBe("private, no-store");
        Header(response, "X-Wary-Member").ShouldBe("nell@orchard-optics.example");
        using var forged = await AskAsync("/shop/dealer-stock", cookie[..^2] + "xx");
        forged.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    private async Task<HttpResponseMessage> AskAsync(string asked, string? cookie)
    {
        using var http = new HttpClient(new SocketsHttpHandler { UseCookies = false });
        using var request = new HttpRequestMessage(HttpMethod.Get, site.Site + "/sentinel/check");
        request.Headers.TryAddWithoutValidation("X-Original-URI", asked);
        if (cookie is not null)
        {
            request.Headers.TryAddWithoutValidation("Cookie", cookie);
        }

        return await http.SendAsync(request);
    }

    private static string? Header(HttpResponseMessage response, string name) => response.Headers.TryGetValues(name, out var values) ? values.First() : null;
}
