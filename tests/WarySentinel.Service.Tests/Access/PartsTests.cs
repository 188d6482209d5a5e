using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Gates;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>Parts, menus, forms and prices in the site's own pages; viewpoints at another date.</summary>
public sealed class PartsTests : IAsyncLifetime
{
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
        await site.Client.AddGateAsync(new GateDraft
        { Key = "tonight", Title = "Tonight", Covers = ["path:/parts/tonight.html"], Audience = "signed-in", Presence = "hidden" }, Stop);
    }

    public ValueTask DisposeAsync() => site.DisposeAsync();

    [Fact]
    public async Task The_guarded_part_goes_to_members_and_the_other_to_everybody_else()
    {
        using var guest = site.NewBrowser();
        var outside = await AskAsync(guest, new
        {
            parts = new object[] { new { @in = "/parts/tonight.html", @else = "/parts/join.html" }, new { @in = "/parts/tonight.html" },
            new { @in = "/../etc%2fpasswd" }, new { @in = "/account/sign-in" } }
        });
        outside.GetProperty("parts").EnumerateArray().Select(p => p.GetProperty("which").GetString()).ShouldBe(["else", "none", "none", "none"]);
        outside.ToString().ShouldNotContain("The dome opens");
        using var pia = site.NewBrowser();
        await pia.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
        var inside = await AskAsync(pia, new { parts = new[] { new { @in = "/parts/tonight.html", @else = "/parts/join.html" } } });
        inside.GetProperty("parts")[0].GetProperty("html").GetString()!.ShouldContain("The dome opens");
    }

    [Fact]
    public async Task Menus_are_decided_in_one_call()
    {
        using var guest = site.NewBrowser();
        var given = await AskAsync(guest, new { links = new[] { "/shop", "/shop/dealer-stock", "/shop/clearance-vault", "//evil.example/x", "/%2f" } });
        given.GetProperty("links").EnumerateArray().Select(l => l.GetString()).ShouldBe(["open", "hidden", "listed", "open", "open"]);
    }

    [Theory]
    [InlineData("nonsense")]
    [InlineData("{\"parts\":7}")]
    public async Task What_cannot_be_read_is_refused(string body)
    {
        using var http = new HttpClient();
        (await http.PostAsync(site.Site + "/sentinel/parts", new StringContent(body, System.Text.Encoding.UTF8, "application/json"),
            Stop)).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        var many = JsonContent.Create(new { links = Enumerable.Repeat("/x", 1001) });
        await many.LoadIntoBufferAsync(Stop);
        (await http.PostAsync(site.Site + "/sentinel/parts", many, Stop)).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task A_form_in_the_sites_own_page_works_and_another_sites_does_not()
    {
        using var guest = site.NewBrowser();
        var home = await guest.PageAsync("/");
        home.ShouldContain("wary-form wary-sign-in");
        home.ShouldContain("Join us under the dome");
        home.ShouldNotContain("For you tonight");
        foreach (var (from, fetch, status) in new[] { (site.Site, "same-origin", HttpStatusCode.SeeOther),
            ("https://evil.example", "cross-site", HttpStatusCode.BadRequest), ("https://evil.example", "same-origin", HttpStatusCode.BadRequest),
            (site.Site, "same-site", HttpStatusCode.BadRequest) })
        {
            using var browser = site.NewBrowser();
            using var request = new HttpRequestMessage(HttpMethod.Post, site.Site + "/account/sign-in")
            { Content = new FormUrlEncodedContent([KeyValuePair.Create("name", "nell"), KeyValuePair.Create("password", "orchard-quiet-91")]) };
            request.Headers.Add("Origin", from);
            request.Headers.Add("Sec-Fetch-Site", fetch);
            (await browser.SendAsync(request)).StatusCode.ShouldBe(status);
        }
    }

    [Fact]
    public async Task A_form_says_where_it_leads_on_this_site_only()
    {
        using var http = new HttpClient();
        async Task<string[]> FormsAsync(params string?[] to)
        {
            var asked = JsonContent.Create(new { page = "/visit", forms = to.Select(_ => "sign-in"), to });
            await asked.LoadIntoBufferAsync(Stop);
            using var answer = await http.PostAsync(site.Site + "/sentinel/parts", asked, Stop);
            var given = await answer.Content.ReadFromJsonAsync<System.Text.Json.JsonElement>(Stop);
            return [.. given.GetProperty("forms").EnumerateArray().Select(f => f.GetString()!)];
        }

        var forms = await FormsAsync("/members?a=1&b=2", null, "https://evil.example/", "//evil.example");
        forms[0].ShouldContain("name=\"to\" value=\"/members?a=1&amp;b=2\"");
        forms[0].ShouldNotContain("return_to");
        forms.Skip(1).ShouldAllBe(f => f.Contains("name=\"return_to\" value=\"/visit\"", StringComparison.Ordinal));
        using var nell = site.NewBrowser();
        (await nell.FillAsync("/account/sign-in", "/account/sign-in", ("name", "nell"), ("password", "orchard-quiet-91"), ("to", "/visit")))
            .Headers.Location!.ToString().ShouldBe("/visit");
    }

    [Fact]
    public async Task A_price_may_be_guarded_while_its_page_stays_open()
    {
        await site.Client.AddGateAsync(new GateDraft
        { Key = "trade", Title = "Trade", Covers = ["category:mounts"], Acts = ["price"], Audience = "role:dealer" }, Stop);
        using var guest = site.NewBrowser();
        var listing = await guest.PageAsync("/shop/mounts");
        var mount = System.Text.RegularExpressions.Regex.Match(listing, "/product/[a-z0-9-]+").Value;
        (await guest.PageAsync(mount)).ShouldSatisfyAllConditions(p => p.ShouldNotContain("Trade price <b"), p => p.ShouldContain("to see trade prices"));
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await nell.PageAsync(mount)).ShouldSatisfyAllConditions(p => p.ShouldContain("Trade price <b"), p => p.ShouldNotContain("to see trade prices"));
    }

    [Fact]
    public async Task A_viewpoint_may_be_a_member_a_holder_or_another_day_and_never_has_staff_privilege()
    {
        async Task<Browser> LookAsync(string viewpoint, string? at = null)
        {
            var browser = site.NewBrowser();
            var url = (await site.Client.OpenViewAsync(viewpoint, "/", at, Stop)).Url;
            (await browser.GetAsync(url[site.Site.Length..])).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
            return browser;
        }

        using var nell = await LookAsync("nell@orchard-optics.example");
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        (await nell.PageAsync("/shop")).ShouldContain("You see the site as: Nell Orchard");
        using var owner = await LookAsync(RunningSite.Owner);
        (await owner.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Forbidden);
        using var holder = await LookAsync("password:clearance-vault");
        (await holder.StatusAsync("/shop/clearance-vault")).ShouldBe(HttpStatusCode.OK);
        await site.Client.AddGateAsync(new GateDraft
        {
            Key = "later", Title = "Later", Covers = ["category:books"], Audience = "role:dealer",
            From = DateTime.UtcNow.AddDays(10).ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture)
        }, Stop);
        using var later = await LookAsync("guest", DateTime.UtcNow.AddDays(20).ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture));
        (await later.StatusAsync("/shop/books")).ShouldBe(HttpStatusCode.Unauthorized);
        using var now = await LookAsync("guest");
        (await now.StatusAsync("/shop/books")).ShouldBe(HttpStatusCode.OK);
        var refused = await Should.ThrowAsync<SentinelException>(() => site.Client.OpenViewAsync("password:none", null, null, Stop));
        refused.Status.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task A_network_of_guests_has_no_more_parts_read_than_the_settings_say_and_members_are_not_counted()
    {
        await using var own = await RunningSite.StartAsync(settings: ["--Wary:PartsBurst=10", "--Wary:PartsPerSecond=1"]);
        using var guest = own.NewBrowser();
        var parts = Enumerable.Range(0, 10).Select(_ => new { @in = "/shop/books" }).ToArray();
        async Task<HttpStatusCode> StatusAsync(Browser browser)
        {
            using var content = JsonContent.Create(new { parts });
            await content.LoadIntoBufferAsync(Stop);
            using var request = new HttpRequestMessage(HttpMethod.Post, own.Site + "/sentinel/parts") { Content = content };
            using var response = await browser.SendAsync(request);
            return response.StatusCode;
        }

        (await StatusAsync(guest)).ShouldBe(HttpStatusCode.OK);
        (await StatusAsync(guest)).ShouldBe(HttpStatusCode.TooManyRequests);
        using var nell = own.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await StatusAsync(nell)).ShouldBe(HttpStatusCode.OK);
        (await StatusAsync(nell)).ShouldBe(HttpStatusCode.OK);
    }

    private async Task<JsonElement> AskAsync(Browser browser, object asked)
    {
        var content = JsonContent.Create(asked);
        await content.LoadIntoBufferAsync(Stop);
        using var request = new HttpRequestMessage(HttpMethod.Post, site.Site + "/sentinel/parts") { Content = content };
        var response = await browser.SendAsync(request);
        response.StatusCode.ShouldBe(HttpStatusCode.OK);
        response.Headers.CacheControl!.NoStore.ShouldBeTrue();
        return await response.Content.ReadFromJsonAsync<JsonElement>(Stop);
    }
}
