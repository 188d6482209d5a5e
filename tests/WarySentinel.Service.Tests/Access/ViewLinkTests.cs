using System.Net;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>Links that open the live site through somebody else's eyes.</summary>
public sealed class ViewLinkTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task A_link_works_once_and_both_making_and_using_it_stand_in_the_history()
    {
        await using var site = await RunningSite.StartAsync();
        var link = await LinkAsync(site, site.Client);
        var browsers = Enumerable.Range(0, 8).Select(_ => site.NewBrowser()).ToList();
        var answers = await Task.WhenAll(browsers.Select(b => b.StatusAsync(link)));
        answers.Count(a => a == HttpStatusCode.SeeOther).ShouldBe(1);
        answers.Count(a => a == HttpStatusCode.Forbidden).ShouldBe(7);
        (await browsers[Array.IndexOf(answers, HttpStatusCode.SeeOther)].StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        (await browsers[Array.IndexOf(answers, HttpStatusCode.Forbidden)].StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Unauthorized);
        var history = await site.Client.HistoryAsync("role:dealer", 10, Stop);
        history.Select(h => h.Action).ShouldBe(["view.enter", "view.link"]);
        history[1].By.ShouldContain(RunningSite.Owner);
        history[0].After.ShouldBe(history[1].After);
        browsers.ForEach(b => b.Dispose());
    }

    [Fact]
    public async Task It_takes_a_scope_of_its_own()
    {
        await using var site = await RunningSite.StartAsync();
        using var reader = await ClientAsync(site, "read", "write", "decide");
        (await Should.ThrowAsync<SentinelException>(() => LinkAsync(site, reader))).Status.ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task What_a_token_opened_ends_with_the_token()
    {
        await using var site = await RunningSite.StartAsync();
        var made = await site.Client.AddTokenAsync("looks", ["view"], null, null, null, Stop);
        using var client = new SentinelClient(new Uri(site.Admin), made.Token?.Reveal());
        using var browser = site.NewBrowser();
        (await browser.StatusAsync(await LinkAsync(site, client))).ShouldBe(HttpStatusCode.SeeOther);
        var waiting = await LinkAsync(site, client);
        (await browser.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        await site.Client.RemoveTokenAsync(made.Id, Stop);
        (await browser.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Unauthorized);
        using var late = site.NewBrowser();
        (await late.StatusAsync(waiting)).ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task What_was_opened_from_the_console_ends_with_that_session_and_with_the_standing_of_its_owner()
    {
        await using var site = await RunningSite.StartAsync();
        await site.Client.AddMemberAsync("ed@fernlight.example", "Ed", null, "a-quiet-hill-at-night", ["editor"], [], [], Stop);
        foreach (var end in new[] { "sign-out", "suspended", "roles" })
        {
            using var console = new HttpClient(new SocketsHttpHandler { CookieContainer = new CookieContainer() })
            { BaseAddress = new Uri(site.Admin + "/api/v1/"), DefaultRequestHeaders = { { "X-Wary-Console", "1" } } };
            (await System.Net.Http.Json.HttpClientJsonExtensions.PostAsJsonAsync(console, "sign-in", new
            { name = "ed@fernlight.example", password = "a-quiet-hill-at-night" }, Stop)).StatusCode.ShouldBe(HttpStatusCode.OK);
            using var opened = await System.Net.Http.Json.HttpClientJsonExtensions.PostAsJsonAsync(
                console, "viewpoints/open", new Dictionary<string, string> { ["as"] = "role:dealer" }, Stop);
            var url = System.Text.Json.JsonDocument.Parse(await opened.Content.ReadAsStringAsync(Stop)).RootElement.GetProperty("url").GetString()!;
            using var browser = site.NewBrowser();
            (await browser.StatusAsync(url[site.Site.Length..])).ShouldBe(HttpStatusCode.SeeOther);
            (await browser.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
            switch (end)
            {
                case "sign-out":
                    (await console.PostAsync("sign-out", null, Stop)).StatusCode.ShouldBe(HttpStatusCode.NoContent);
                    break;
                case "suspended":
                    await site.Client.SetStatusAsync("ed@fernlight.example", "suspended", null, Stop);
                    break;
                default:
                    await site.Client.SetRolesAsync("ed@fernlight.example", [], "*", Stop);
                    break;
            }

            (await browser.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Unauthorized, end);
            await site.Client.SetStatusAsync("ed@fernlight.example", "active", null, Stop);
            await site.Client.SetRolesAsync("ed@fernlight.example", ["editor"], "*", Stop);
        }
    }

    [Fact]
    public async Task A_link_waits_two_minutes_and_a_view_lasts_no_longer_than_its_maker()
    {
        var time = new FakeTimeProvider(DateTimeOffset.UtcNow);
        await using var site = await RunningSite.StartAsync(time: time);
        var late = await LinkAsync(site, site.Client);
        time.Advance(TimeSpan.FromSeconds(121));
        using var browser = site.NewBrowser();
        (await browser.StatusAsync(late)).ShouldBe(HttpStatusCode.Forbidden);
        (await browser.StatusAsync(await LinkAsync(site, site.Client))).ShouldBe(HttpStatusCode.SeeOther);
        time.Advance(TimeSpan.FromHours(3.9));
        (await browser.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        time.Advance(TimeSpan.FromHours(0.2));
        (await browser.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_ticket_is_no_cookie_and_a_cookie_no_ticket()
    {
        await using var site = await RunningSite.StartAsync();
        var link = await LinkAsync(site, site.Client);
        var ticket = System.Web.HttpUtility.ParseQueryString(link.Split('?')[1])["ticket"]!;
        foreach (var name in new[] { "wary", "wary-view", "wary-here", "wary-console" })
        {
            using var http = new HttpClient(new SocketsHttpHandler { UseCookies = false });
            using var request = new HttpRequestMessage(HttpMethod.Get, site.Site + "/shop/dealer-stock") { Headers = { { "Cookie", $"{name}={ticket}" } } };
            (await http.SendAsync(request, Stop)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        }

        using var browser = site.NewBrowser();
        var cookie = (await browser.SignInAsync("nell", "orchard-quiet-91")).Headers.GetValues("Set-Cookie")
            .First(c => c.StartsWith("wary=", StringComparison.Ordinal))[5..].Split(';')[0];
        (await browser.StatusAsync("/sentinel/view?ticket=" + cookie)).ShouldBe(HttpStatusCode.Forbidden);
    }

    private static async Task<SentinelClient> ClientAsync(RunningSite site, params string[] scopes) =>
        new(new Uri(site.Admin), (await site.Client.AddTokenAsync("scoped", scopes, null, null, null, Stop)).Token?.Reveal());

    private static async Task<string> LinkAsync(RunningSite site, SentinelClient client) =>
        (await client.OpenViewAsync("role:dealer", "/", null, Stop)).Url[site.Site.Length..];
}
