using System.Net;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>The look of the service's pages taken from the site's own, with its letters and a film.</summary>
public sealed class LookTakingTests(SiteFixture fixture) : IClassFixture<SiteFixture>
{
    private readonly RunningSite site = fixture.Site;

    [Fact]
    public async Task The_look_of_the_site_is_read_and_a_look_of_it_can_be_stored()
    {
        using var caller = new Caller(site);
        var (status, found, _) = await caller.AskAsync("POST", "settings/look/take", new { page = "/visit" });
        status.ShouldBe(HttpStatusCode.OK, found.ToString());
        found.GetProperty("colours").GetArrayLength().ShouldBeGreaterThan(0);
        (await caller.AskAsync("PUT", "settings", new { look = found.GetProperty("look") }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        using var guest = site.NewBrowser();
        (await guest.PageAsync("/account/sign-in")).ShouldContain(found.GetProperty("look").GetProperty("background").GetString()!);
    }

    [Theory]
    [InlineData("https://elsewhere.example/")]
    [InlineData("//elsewhere.example/")]
    [InlineData("/no-such-page")]
    public async Task A_page_that_is_none_of_the_site_is_refused_in_words(string page)
    {
        using var caller = new Caller(site);
        var (status, problem, _) = await caller.AskAsync("POST", "settings/look/take", new { page });
        status.ShouldBe(HttpStatusCode.UnprocessableEntity, problem.ToString());
        problem.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe("page");
    }

    [Fact]
    public async Task Letters_of_the_site_and_a_film_stand_on_its_pages_and_what_could_not_is_refused()
    {
        using var caller = new Caller(site);
        async Task<HttpStatusCode> PutAsync(object look) => (await caller.AskAsync("PUT", "settings", new { look }, "*")).Status;
        (await PutAsync(new { type = "site" })).ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await PutAsync(new { type = "site", font = "https://elsewhere.example/a.woff2" })).ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await PutAsync(new { type = "site", font = "/a.woff2'){}" })).ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await PutAsync(new { film = "/a.mp4" })).ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await PutAsync(new { film = "/a.exe", picture = "/a.jpg" })).ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await PutAsync(new { type = "site", font = "/fonts/a.woff2", film = "/a.mp4", picture = "/a.jpg" })).ShouldBe(HttpStatusCode.OK);
        using var guest = site.NewBrowser();
        var page = await guest.PageAsync("/account/sign-in");
        page.ShouldContain("url('/fonts/a.woff2')");
        page.ShouldContain("data-src=\"/a.mp4\"");
        page.ShouldContain("<button type=\"button\" class=\"film-stop\" hidden");
        (await PutAsync(new { })).ShouldBe(HttpStatusCode.OK);
        (await guest.PageAsync("/account/sign-in")).ShouldNotContain("film");
    }
}
