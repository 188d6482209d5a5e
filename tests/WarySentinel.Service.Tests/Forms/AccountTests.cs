using System.Net;
using System.Text.RegularExpressions;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>What a member finds of their own: what they have, their roles' links, their devices.</summary>
public sealed class AccountTests : IAsyncLifetime
{
    private RunningSite site = null!;
    private Caller api = null!;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
        api = new Caller(site);
        await api.AskAsync("PUT", "roles/dealer", new
        {
            title = "Dealers",
            links = new[] { new { address = "/shop/dealer-stock", words = "Dealer stock" },
                new { address = "/shop/observatory-grade", words = "Closed shelf" } },
        }, "*");
        await api.AskAsync("POST", "groups", new { key = "trade", title = "Trade friends", rule = "role:dealer" });
        await api.AskAsync("POST", "members/nell@orchard-optics.example/grants", new { fact = "plan:patron", until = "2090-05-03" });
    }

    public async ValueTask DisposeAsync()
    {
        api.Dispose();
        await site.DisposeAsync();
    }

    [Fact]
    public async Task Downloads_that_are_theirs_stand_on_the_account_page_and_no_others()
    {
        (await api.AskAsync("POST", "gates", new { key = "atlas", title = "Atlas", covers = new[] { "download:sky-atlas" }, audience = "role:dealer" })).Status
            .ShouldBe(HttpStatusCode.Created);
        using var dealer = site.NewBrowser();
        await dealer.SignInAsync("nell", "orchard-quiet-91");
        var page = await dealer.PageAsync("/account/");
        page.ShouldContain("<a href=\"/files/sky-atlas.pdf\" download>Autumn sky atlas</a>");
        page.ShouldNotContain("meteor-log");
        using var member = site.NewBrowser();
        await member.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
        (await member.PageAsync("/account/")).ShouldNotContain("sky-atlas");
    }

    [Fact]
    public async Task The_account_page_says_what_they_have_and_until_when_and_links_to_nothing_that_is_closed()
    {
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        var page = await (await nell.GetAsync("/account/")).Content.ReadAsStringAsync();
        page.ShouldContain("Dealers");
        page.ShouldContain("Trade friends");
        Regex.IsMatch(page, "<b>Patron</b>\\s*<span>until .*2090").ShouldBeTrue();
        page.ShouldContain("href=\"/shop/dealer-stock\"");
        page.ShouldNotContain("Closed shelf");
        using var guest = site.NewBrowser();
        (await (await guest.GetAsync("/account/")).Content.ReadAsStringAsync()).ShouldContain("You are not signed in.");
    }

    [Fact]
    public async Task A_device_is_signed_out_from_another_and_nobody_elses_is()
    {
        using var here = site.NewBrowser();
        using var there = site.NewBrowser();
        using var third = site.NewBrowser();
        using var pia = site.NewBrowser();
        foreach (var browser in new[] { here, there, third })
        {
            await browser.SignInAsync("nell", "orchard-quiet-91");
        }

        await pia.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
        var sessions = (await api.AskAsync("GET", "sessions?member=pia@lanternlane.example")).Body.GetProperty("items");
        // Somebody else's session is not theirs to end, however its name is come by.
        await here.FillAsync("/account/", "/account/devices", ("end", sessions[0].GetProperty("id").GetString()!));
        (await pia.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.OK);

        var page = await (await here.GetAsync("/account/")).Content.ReadAsStringAsync();
        var ends = Regex.Matches(page, "name=\"end\" value=\"([0-9a-f-]{36})\"").Select(m => m.Groups[1].Value).ToList();
        ends.Count.ShouldBe(2, "this device is not in the list of those to end");
        await here.FillAsync("/account/", "/account/devices", ("end", ends[0]));
        new[] { await there.StatusAsync("/members/calendar"), await third.StatusAsync("/members/calendar") }.Order()
            .ShouldBe([HttpStatusCode.OK, HttpStatusCode.Unauthorized]);
        await here.FillAsync("/account/", "/account/devices", ("end", "others"));
        (await there.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.Unauthorized);
        (await third.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.Unauthorized);
        (await here.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task The_menu_in_the_sites_own_page_is_another_for_those_inside()
    {
        using var guest = site.NewBrowser();
        var outside = await (await guest.GetAsync("/visit")).Content.ReadAsStringAsync();
        outside.ShouldContain("/account/sign-in?return_to=%2Fvisit");
        outside.ShouldNotContain("<wary-form");
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        var inside = await (await nell.GetAsync("/visit")).Content.ReadAsStringAsync();
        Regex.IsMatch(inside, "class=\"wary-menu\".*Dealer stock.*/account/sign-out", RegexOptions.Singleline).ShouldBeTrue();
        inside.ShouldNotContain("Closed shelf");
    }

    [Fact]
    public async Task Without_its_token_nothing_is_ended()
    {
        using var here = site.NewBrowser();
        using var there = site.NewBrowser();
        await here.SignInAsync("nell", "orchard-quiet-91");
        await there.SignInAsync("nell", "orchard-quiet-91");
        using var forged = new HttpRequestMessage(HttpMethod.Post, "/account/devices")
        { Content = new FormUrlEncodedContent(new Dictionary<string, string> { ["end"] = "others" }) };
        await here.SendAsync(forged);
        (await there.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.OK);
    }
}
