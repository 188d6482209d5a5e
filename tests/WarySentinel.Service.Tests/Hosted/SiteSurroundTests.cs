using System.Net;
using Shouldly;
using WarySentinel.Contract.Hosted;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Hosted;

/// <summary>Pages of ours within a page of the site: its menu around them as the visitor sees it, and alone where it cannot be.</summary>
public sealed class SiteSurroundTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task The_site_s_own_page_stands_around_ours_as_the_visitor_sees_it()
    {
        await using var site = await RunningSite.StartAsync();
        await SetAsync(site, "/shop", "main");
        using var guest = site.NewBrowser();
        using (var answer = await guest.GetAsync("/product/case-fern-40"))
        {
            answer.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
            var page = await answer.Content.ReadAsStringAsync(Stop);
            page.ShouldContain("name=\"return_to\" value=\"/product/case-fern-40\"");
            page.ShouldContain("<base href=\"/shop\">");
            page.ShouldContain("class=\"wary-frame\"");
            page.ShouldContain("<title>Sign in to go on · ");
            page.ShouldNotContain("dealer-stock");
            page.Split("<main").Length.ShouldBe(2);
            answer.Headers.CacheControl!.ToString().ShouldContain("no-store");
        }

        (await guest.PageAsync("/account/framed.css")).ShouldContain(".wary-frame{");
        using (var answer = await guest.SignInAsync("nell", "orchard-quiet-91", "/shop"))
        {
            answer.StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        }

        (await guest.PageAsync("/account/")).ShouldContain("class=\"wary-frame\"");
        (await guest.PageAsync("/account/nothing-here")).ShouldContain("class=\"wary-frame\"");
        await SetAsync(site, "", "");
        (await guest.PageAsync("/account/")).ShouldNotContain("wary-frame");
    }

    [Theory]
    [InlineData("/visit")]
    [InlineData("/")]
    [InlineData("/search?q=case")]
    public async Task Any_page_of_the_site_can_stand_around_filtered_or_not(string around)
    {
        await using var site = await RunningSite.StartAsync();
        await SetAsync(site, around, "main");
        using var guest = site.NewBrowser();
        (await guest.PageAsync("/account/sign-in")).ShouldContain("class=\"wary-frame\"");
        foreach (var gate in new[] { "dealer-stock", "clearance-vault", "observatory-grade", "members-pages" })
        {
            await site.Client.RemoveGateAsync(gate, "*", Stop);
        }

        // Nothing is guarded any more, and nothing filtered.
        (await guest.PageAsync("/account/sign-in")).ShouldContain("class=\"wary-frame\"");
    }

    [Fact]
    public async Task A_section_s_pages_stand_in_it_where_the_owner_wants_so()
    {
        await using var site = await RunningSite.StartAsync();
        await SetAsync(site, "/shop", "main");
        await site.Client.PutSectionAsync("book", new HostedSectionDraft("Book", "/book", InSite: true), Stop);
        await site.Client.AddPageAsync(new HostedPageNew("book", "Within", "within", null, null, "::: for role:dealer\nfor dealers\n:::\nto all"), Stop);
        await site.Client.PublishPageAsync("within", new PublishDraft(), Stop);
        using var guest = site.NewBrowser();
        for (var again = 0; again < 3; again++)
        {
            var page = await guest.PageAsync("/book/within");
            page.ShouldContain("to all");
            page.ShouldNotContain("for dealers");
            page.ShouldContain("<title>Within · ");
            page.ShouldContain("<base href=\"/shop\">");
        }

        await site.Client.PutSectionAsync("book", new HostedSectionDraft("Book", "/book"), Stop);
        (await guest.PageAsync("/book/within")).ShouldNotContain("<base");
    }

    [Theory]
    [InlineData("/shop/dealer-stock", "main", false)]
    [InlineData("/no-such-page", "main", false)]
    [InlineData("/shop", "#none", false)]
    [InlineData("/shop", "main", true)]
    public async Task Where_the_page_is_closed_gone_or_other_than_thought_ours_stand_alone(string page, string element, bool silent)
    {
        await using var site = await RunningSite.StartAsync();
        await SetAsync(site, page, element);
        if (silent)
        {
            await site.StopShopAsync();
        }

        using var guest = site.NewBrowser();
        for (var again = 0; again < 2; again++)
        {
            using var answer = await guest.GetAsync("/account/sign-in");
            answer.StatusCode.ShouldBe(HttpStatusCode.OK);
            var alone = await answer.Content.ReadAsStringAsync(Stop);
            alone.ShouldContain("<main class=\"panel\"");
            alone.ShouldNotContain("wary-frame");
        }
    }

    [Fact]
    public async Task A_place_that_cannot_be_is_refused_in_words()
    {
        await using var site = await RunningSite.StartAsync();
        using var caller = new Caller(site);
        foreach (var (page, element, field) in new[]
        {
            ("https://elsewhere.example/", "main", "frame.page"), ("/account/sign-in", "main", "frame.page"), ("/shop", "div > p", "frame.element"),
        })
        {
            var problem = await caller.RefusedAsync(
                HttpStatusCode.UnprocessableEntity, "settings-invalid", "PUT", "settings", new { frame = new { page, element } }, "*");
            problem.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe(field);
        }
    }

    private static async Task SetAsync(RunningSite site, string page, string element)
    {
        using var caller = new Caller(site);
        (await caller.AskAsync("PUT", "settings", new { frame = new { page, element } }, "*")).Status.ShouldBe(HttpStatusCode.OK);
    }
}
