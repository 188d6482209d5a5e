using System.Net;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Service.People;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

public sealed class SignInTests
{
    [Theory]
    [InlineData("https://evil.example/")]
    [InlineData("//evil.example")]
    [InlineData("/\\evil.example")]
    [InlineData("/%2f%2fevil.example")]
    public async Task A_visitor_is_never_led_elsewhere(string returnTo)
    {
        await using var site = await RunningSite.StartAsync();
        using var nell = site.NewBrowser();
        (await nell.SignInAsync("nell", "orchard-quiet-91", returnTo)).Headers.Location!.ToString().ShouldBe("/");
    }

    [Fact]
    public async Task The_cookie_is_opaque_and_out_of_reach_of_scripts()
    {
        await using var site = await RunningSite.StartAsync();
        using var nell = site.NewBrowser();
        var cookie = (await nell.SignInAsync("nell", "orchard-quiet-91")).Headers.GetValues("Set-Cookie")
            .First(c => c.StartsWith("wary=", StringComparison.Ordinal));
        cookie.ShouldContain("httponly");
        cookie.ShouldContain("samesite=lax");
        cookie.Split(';')[0].ShouldMatch("^wary=[A-Za-z0-9_-]{66}$");
    }

    [Fact]
    public async Task Under_tls_the_cookie_is_bound_to_the_host()
    {
        await using var site = await RunningSite.StartAsync(settings: ["--Wary:SiteUrl=https://fernlight.example"]);
        using var http = new HttpClient(new SocketsHttpHandler { UseCookies = false, AllowAutoRedirect = false });
        var page = await http.GetAsync(site.Site + "/account/sign-in");
        page.Headers.GetValues("Set-Cookie").ShouldAllBe(c => c.Contains("secure", StringComparison.OrdinalIgnoreCase));
        var token = System.Text.RegularExpressions.Regex.Match(
            await page.Content.ReadAsStringAsync(), "RequestVerificationToken\" value=\"([^\"]+)").Groups[1].Value;
        using var request = new HttpRequestMessage(HttpMethod.Post, site.Site + "/account/sign-in")
        {
            Headers = { { "Cookie", page.Headers.GetValues("Set-Cookie").First().Split(';')[0] } },
            Content = new FormUrlEncodedContent([new("__RequestVerificationToken", token), new("name", "nell"), new("password", "orchard-quiet-91")]),
        };
        var cookie = (await http.SendAsync(request)).Headers.GetValues("Set-Cookie").First();
        cookie.ShouldStartWith("__Host-wary=");
        cookie.ShouldContain("secure");
    }

    [Fact]
    public async Task A_form_without_its_token_is_shown_again()
    {
        await using var site = await RunningSite.StartAsync();
        using var browser = site.NewBrowser();
        var answer = await browser.PostAsync("/account/sign-in", ("name", "nell"), ("password", "orchard-quiet-91"));
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await answer.Content.ReadAsStringAsync()).ShouldContain("This form had grown old.");
        (await browser.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task Known_and_unknown_names_get_the_same_answer_and_the_same_work()
    {
        await using var site = await RunningSite.StartAsync();
        var passwords = site.Services.GetRequiredService<PasswordHashing>();
        var before = passwords.Proved;
        var known = await TryAsync("nell@orchard-optics.example");
        passwords.Proved.ShouldBe(before + 1);
        var unknown = await TryAsync("nobody@orchard-optics.example");
        // The slow hash runs either way.
        passwords.Proved.ShouldBe(before + 2);
        Strip(known, "nell@orchard-optics.example").ShouldBe(Strip(unknown, "nobody@orchard-optics.example"));

        async Task<string> TryAsync(string name)
        {
            using var browser = site.NewBrowser();
            using var answer = await browser.SignInAsync(name, "wrong-password");
            return await answer.Content.ReadAsStringAsync();
        }

        static string Strip(string page, string name) =>
            System.Text.RegularExpressions.Regex.Replace(page.Replace(name, "", StringComparison.Ordinal), "value=\"CfDJ[^\"]+\"", "");
    }

    [Fact]
    public async Task Wrong_tries_are_counted_down_and_then_wait()
    {
        await using var site = await RunningSite.StartAsync(time: new FakeTimeProvider(DateTimeOffset.UtcNow));
        using var browser = site.NewBrowser();
        for (var n = 0; n < 4; n++)
        {
            (await browser.SignInAsync("nell", "wrong")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        }

        var last = await browser.SignInAsync("nell", "wrong");
        last.StatusCode.ShouldBe(HttpStatusCode.TooManyRequests);
        last.Headers.RetryAfter!.Delta!.Value.ShouldBeGreaterThan(TimeSpan.Zero);
        (await last.Content.ReadAsStringAsync()).ShouldContain("Too many tries.");
        (await browser.SignInAsync("nell", "orchard-quiet-91")).StatusCode.ShouldBe(HttpStatusCode.TooManyRequests);
        (await browser.SignInAsync("pia@lanternlane.example", "lantern-lane-12")).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
    }

    [Fact]
    public async Task A_session_ended_by_the_owner_ends_at_once()
    {
        await using var site = await RunningSite.StartAsync();
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        var session = (await site.Client.SessionsAsync("nell@orchard-optics.example", CancellationToken.None)).ShouldHaveSingleItem();
        await site.Client.EndSessionAsync(session.Id, CancellationToken.None);
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_role_taken_away_counts_at_once()
    {
        await using var site = await RunningSite.StartAsync();
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        var (_, tag) = await site.Client.MemberAsync("nell@orchard-optics.example", CancellationToken.None);
        await site.Client.SetRolesAsync("nell@orchard-optics.example", [], tag!, CancellationToken.None);
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task Sessions_and_gates_outlive_a_restart()
    {
        await using var site = await RunningSite.StartAsync();
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        await site.RestartAsync();
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        File.GetUnixFileMode(Path.Combine(site.Data, "secret.key")).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
    }
}
