using System.Net;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

public sealed class GatewayTests(SiteFixture fixture)
{
    private readonly RunningSite site = fixture.Site;

    [Theory]
    [InlineData("/")]
    [InlineData("/shop")]
    [InlineData("/shop/tag/new")]
    [InlineData("/search?q=case")]
    [InlineData("/search?q=dealer")]
    [InlineData("/sitemap.xml")]
    [InlineData("/product/fern-25")]
    public async Task Dealer_stock_is_in_no_page_that_a_guest_sees(string path)
    {
        using var guest = site.NewBrowser();
        var page = await guest.PageAsync(path);
        page.ShouldNotContain("dealer-", Case.Insensitive);
        page.ShouldNotContain("/product/case-");
        page.ShouldNotContain("Dealer s");
        page.ShouldNotContain("Dealer e");
        page.Length.ShouldBeGreaterThan(500);
    }

    [Theory]
    [InlineData("/shop/dealer-stock")]
    [InlineData("/shop/dealer-stock/")]
    [InlineData("/SHOP/Dealer-Stock")]
    [InlineData("//shop//dealer-stock")]
    [InlineData("/shop/./dealer-stock")]
    [InlineData("/x/../shop/dealer-stock")]
    [InlineData("/x/%2e%2e/shop/dealer-stock")]
    [InlineData("/shop/%64ealer-stock")]
    [InlineData("/shop/dealer-stock?x=1")]
    [InlineData("/product/barlow-boxed")]
    public async Task A_closed_address_is_closed_in_every_spelling(string path)
    {
        using var guest = site.NewBrowser();
        (await guest.StatusAsync(path)).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Theory]
    [InlineData("/shop%2fdealer-stock")]
    [InlineData("/shop%2Fdealer-stock")]
    [InlineData("/shop/dealer-stock;jsessionid=1")]
    [InlineData("/shop/dealer-stock.")]
    [InlineData("/shop/dealer-stock%20")]
    [InlineData("/shop/%2564ealer-stock")]
    [InlineData("/shop/%c0%aedealer")]
    [InlineData("/shop%5cdealer-stock")]
    public async Task What_has_two_readings_is_refused(string path)
    {
        using var guest = site.NewBrowser();
        (await guest.StatusAsync(path)).ShouldBe(HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task A_dealer_signs_in_where_she_stands_and_lands_there()
    {
        using var nell = site.NewBrowser();
        var asked = await nell.GetAsync("/product/case-fern-40");
        asked.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        asked.Headers.WwwAuthenticate.ToString().ShouldStartWith("Cookie ");
        (await asked.Content.ReadAsStringAsync()).ShouldContain("name=\"return_to\" value=\"/product/case-fern-40\"");
        var signedIn = await nell.SignInAsync("nell", "orchard-quiet-91", "/product/case-fern-40");
        signedIn.StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        signedIn.Headers.Location!.ToString().ShouldBe("/product/case-fern-40");
        (await nell.StatusAsync("/product/case-fern-40")).ShouldBe(HttpStatusCode.OK);
        (await nell.PageAsync("/")).ShouldContain("/shop/dealer-spares");
    }

    [Fact]
    public async Task Guarded_and_filtered_answers_are_kept_by_no_cache()
    {
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        foreach (var path in new[] { "/product/case-fern-40", "/shop", "/" })
        {
            var response = await nell.GetAsync(path);
            response.Headers.CacheControl!.Private.ShouldBeTrue();
            response.Headers.Vary.ShouldContain("Cookie");
            var isGuarded = path != "/" && path != "/shop";
            response.Headers.CacheControl.NoStore.ShouldBe(isGuarded, path);
            (response.Headers.CacheControl.NoCache && response.Headers.ETag is not null).ShouldBe(!isGuarded, path);
        }
    }

    [Fact]
    public async Task Signed_out_it_is_gone_again()
    {
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        var ended = await nell.FillAsync("/account/", "/account/sign-out");
        ended.Headers.GetValues("Clear-Site-Data").ShouldHaveSingleItem().ShouldBe("\"cache\"");
        (await nell.StatusAsync("/product/case-fern-40")).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task The_vault_is_listed_with_a_mark()
    {
        using var guest = site.NewBrowser();
        var line = (await guest.PageAsync("/shop")).Split('\n').First(l => l.Contains("/shop/clearance-vault", StringComparison.Ordinal));
        line.ShouldContain("wary-mark");
    }

    [Fact]
    public async Task Somebody_signed_in_who_is_not_admitted_reads_the_owners_message()
    {
        using var pia = site.NewBrowser();
        await pia.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
        var refused = await pia.GetAsync("/shop/observatory-grade");
        refused.StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        (await refused.Content.ReadAsStringAsync()).ShouldContain("Write to us.");
        (await pia.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task A_machine_gets_a_problem()
    {
        using var machine = new HttpClient { BaseAddress = new Uri(site.Site), DefaultRequestHeaders = { { "Accept", "application/json" } } };
        using var refused = await machine.GetAsync("/shop/dealer-stock");
        refused.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        refused.Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
        (await refused.Content.ReadAsStringAsync()).ShouldContain("sign-in-required");
    }

    [Fact]
    public async Task The_origin_sees_neither_our_cookies_nor_forged_headers_but_who_is_signed_in()
    {
        await using var echo = await Origins.EchoAsync();
        await using var guarded = await RunningSite.StartAsync(echo.Address);
        using var nell = guarded.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        using var request = new HttpRequestMessage(HttpMethod.Get, "/echo")
        {
            Headers =
            {
                { "X-Wary-Member", "owner@fernlight.example" }, { "X_Wary_Roles", "owner" }, { "X-Forwarded-For", "10.0.0.1" },
                { "x_forwarded_for", "10.0.0.2" }, { "X_Forwarded-Host", "10.0.0.3" }, { "X-Forwarded_Proto", "10.0.0.4" }, { "Forwarded", "for=10.0.0.5" },
            },
        };
        var seen = await (await nell.SendAsync(request)).Content.ReadAsStringAsync();
        seen.ShouldContain("X-Wary-Member: nell@orchard-optics.example\n");
        seen.ShouldContain("X-Wary-Roles: dealer\n");
        seen.ShouldNotContain("owner");
        seen.ShouldNotContain("wary=");
        seen.ShouldNotContain("10.0.0.");
        seen.ShouldContain("X-Forwarded-For: 127.0.0.1\n");
        seen.ShouldContain($"X-Forwarded-Host: {new Uri(guarded.Site).Authority}\n");
        seen.ShouldContain("X-Forwarded-Proto: http\n");
    }

    [Fact]
    public async Task A_piece_of_a_page_is_not_given_out_unfiltered()
    {
        await using var echo = await Origins.EchoAsync();
        await using var guarded = await RunningSite.StartAsync(echo.Address);
        using var guest = guarded.NewBrowser();
        using var request = new HttpRequestMessage(HttpMethod.Get, "/page") { Headers = { { "Range", "bytes=20-60" } } };
        var page = await guest.SendAsync(request);
        page.StatusCode.ShouldBe(HttpStatusCode.OK);
        (await page.Content.ReadAsStringAsync()).ShouldNotContain("dealer-stock");
        (await guest.StatusAsync("/partial")).ShouldBe(HttpStatusCode.BadGateway);
        (await guest.StatusAsync("/odd-coding")).ShouldBe(HttpStatusCode.BadGateway);
        (await guest.PageAsync("/utf16")).ShouldBe("<p>ü</p>");
    }

    [Fact]
    public async Task A_dead_or_slow_origin_gets_a_page_that_says_so()
    {
        await using var echo = await Origins.EchoAsync();
        await using var guarded = await RunningSite.StartAsync(echo.Address, ["--Wary:OriginTimeoutSeconds=1"]);
        using var guest = guarded.NewBrowser();
        var slow = await guest.GetAsync("/slow");
        slow.StatusCode.ShouldBe(HttpStatusCode.GatewayTimeout);
        (await slow.Content.ReadAsStringAsync()).ShouldContain("takes too long");
        await echo.DisposeAsync();
        var dead = await guest.GetAsync("/echo");
        dead.StatusCode.ShouldBe(HttpStatusCode.BadGateway);
        var page = await dead.Content.ReadAsStringAsync();
        page.ShouldContain("The site doesn’t answer");
        page.ShouldNotContain("   at ");
    }

    [Fact]
    public async Task Oversized_heads_and_bodies_are_refused()
    {
        await using var guarded = await RunningSite.StartAsync(settings: ["--Wary:BodyMaxBytes=100000"]);
        using var guest = new HttpClient { BaseAddress = new Uri(guarded.Site) };
        using var huge = new HttpRequestMessage(HttpMethod.Get, "/shop") { Headers = { { "X-Big", new string('x', 60_000) } } };
        (await guest.SendAsync(huge)).StatusCode.ShouldBe(HttpStatusCode.RequestHeaderFieldsTooLarge);
        using var body = await guest.PostAsync("/cart/add", new ByteArrayContent(new byte[200_000]));
        body.StatusCode.ShouldBe(HttpStatusCode.RequestEntityTooLarge);
    }

    [Fact]
    public async Task The_admin_side_is_not_on_the_sites_port()
    {
        using var guest = site.NewBrowser();
        (await guest.StatusAsync("/api/v1/gates")).ShouldBe(HttpStatusCode.NotFound);
        using var forged = new HttpRequestMessage(HttpMethod.Get, "/api/v1/set-up") { Headers = { Host = new Uri(site.Admin).Authority } };
        (await guest.SendAsync(forged)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_viewpoint_is_marked_and_has_no_staff_privilege()
    {
        using var owner = site.NewBrowser();
        await owner.SignInAsync(RunningSite.Owner, RunningSite.Password);
        (await owner.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        var url = (await site.Client.OpenViewAsync("guest", "/shop", null, CancellationToken.None)).Url;
        var opened = await owner.GetAsync(url[site.Site.Length..]);
        opened.Headers.Location!.ToString().ShouldBe("/shop");
        (await owner.PageAsync("/shop")).ShouldContain("You see the site as: Guest");
        (await owner.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Unauthorized);
        await owner.GetAsync("/sentinel/view?leave=1");
        (await owner.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        (await owner.StatusAsync("/sentinel/view?ticket=forged")).ShouldBe(HttpStatusCode.Forbidden);
    }
}
