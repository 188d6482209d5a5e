using System.Net;
using System.Net.Http.Headers;
using System.Text.Json;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Service.Nodes;
using WarySentinel.StandIns.Mailbox;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.SetUp;

/// <summary>The site in one step, over real HTTP: made, tried, and a letter that arrives.</summary>
public sealed class SetUpApiTests(SiteFixture fixture) : IClassFixture<SiteFixture>
{
    private static readonly CancellationToken Stop = TestContext.Current.CancellationToken;
    private readonly RunningSite site = fixture.Site;

    [Fact]
    public async Task Answers_are_shown_first_then_made_at_once_and_by_two_only_once()
    {
        using var caller = new Caller(site);
        var answers = new { name = "In one step", closed = new[] { "/visit", "/visit/**" }, sells = new[] { new { title = "Night pass" } }, lands = "/visit" };
        var (_, there, _) = await caller.AskAsync("GET", "setup");
        var revision = there.GetProperty("revision").GetInt64();
        var (status, dry, _) = await caller.AskAsync("POST", "setup?dryRun=true", answers);
        status.ShouldBe(HttpStatusCode.OK, dry.ToString());
        (dry.GetProperty("stored").GetBoolean(), dry.GetProperty("gate").GetString()!.Contains("Night pass", StringComparison.Ordinal)).ShouldBe((false, true));
        using var guest = site.NewBrowser();
        (await guest.StatusAsync("/visit")).ShouldBe(HttpStatusCode.OK);

        var both = await Task.WhenAll(
            caller.AskAsync("POST", $"setup?revision={revision}", answers), caller.AskAsync("POST", $"setup?revision={revision}", answers));
        both.Count(b => b.Status == HttpStatusCode.OK).ShouldBe(1);
        (await guest.StatusAsync("/visit")).ShouldBe(HttpStatusCode.Unauthorized);
        (await caller.AskAsync("POST", "setup", answers)).Body.GetProperty("difference").GetProperty("isEmpty").GetBoolean().ShouldBeTrue();
        var (_, history, _) = await caller.AskAsync("GET", "history?action=setup");
        history.GetProperty("items").GetArrayLength().ShouldBe(1);

        var wrong = await caller.AskAsync("POST", "setup", new { closed = new[] { "/x" }, who = "role:dealr" });
        wrong.Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        wrong.Body.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe("who");
        (await caller.AskAsync("POST", "setup", new { look = "https://elsewhere.example/" })).Body.GetProperty("errors")[0].GetProperty("field").GetString()
            .ShouldBe("look");
        (await caller.AskAsync("DELETE", "gates/members", null, "*")).Status.ShouldBe(HttpStatusCode.NoContent);
    }

    [Fact]
    public async Task The_front_page_tells_what_the_site_is_and_nothing_of_our_own()
    {
        using var caller = new Caller(site);
        var (_, found, _) = await caller.AskAsync("GET", "setup/site");
        found.GetProperty("title").GetString().ShouldBe("Fernlight Observatory");
        var parts = found.GetProperty("parts").EnumerateArray().Select(p => p.GetProperty("address").GetString()).ToList();
        parts.ShouldContain("/members");
        parts.ShouldNotContain("/account");
    }

    [Fact]
    public async Task What_lets_a_guest_in_is_found_by_trying_whatever_the_gates_say()
    {
        // The site's own server, which nothing stands in front of: a guest gets all of it.
        await using var open = await RunningSite.StartAsync();
        var checks = await CheckAsync(open);
        checks.Where(c => c.What is "pages" or "guest" or "member").ShouldAllBe(c => c.State == "good");
        checks.ShouldContain(c => c.What == "mail" && c.State == "wrong");
        await using var past = await RunningSite.StartAsync(settings: [$"--Wary:SiteUrl={open.Origin}"]);
        var seen = await CheckAsync(past);
        seen.Where(c => c.What is "pages" or "guest").ShouldAllBe(c => c.State == "wrong");
        await open.StopShopAsync();
        (await CheckAsync(past)).Where(c => c.What is "pages" or "guest" or "member").Select(c => (c.What, c.State))
            .ShouldBe([("pages", "wrong"), ("guest", "wrong")], "what answers nothing is not asked again and again");
    }

    [Fact]
    public async Task A_page_at_an_address_of_its_own_and_a_gate_that_sends_elsewhere_are_no_faults()
    {
        await using var own = await RunningSite.StartAsync();
        using var caller = new Caller(own);
        (await caller.AskAsync("PUT", "visitor-pages/sign-in", new { address = "/lamp" }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        (await caller.AskAsync("POST", "gates", new
        { key = "sent", title = "Sent", covers = new[] { "path:/visit" }, audience = "role:guide", answer = "redirect", redirectTo = "/shop" })).Status
            .ShouldBe(HttpStatusCode.Created);
        var checks = await CheckAsync(own);
        checks.ShouldContain(c => c.What == "pages" && c.Said.Contains("/lamp", StringComparison.Ordinal));
        checks.ShouldContain(c => c.What == "guest" && c.Said.Contains("/visit", StringComparison.Ordinal));
        checks.Where(c => c.What is "pages" or "guest" or "member").ShouldAllBe(c => c.State == "good");
    }

    [Fact]
    public async Task A_letter_has_arrived_once_somebody_followed_its_link()
    {
        var clock = new FakeTimeProvider(DateTimeOffset.UtcNow);
        var port = RunningSite.FreePort();
        await using var mailbox = new SmtpMailbox(port);
        await using var own = await RunningSite.StartAsync(
            settings: [$"--Wary:Smtp=smtp://127.0.0.1:{port}", "--Wary:MailFrom=lamp@fernlight.example"], time: clock);
        using var caller = new Caller(own);
        async Task<string> StandsAsync() => (await CheckAsync(own)).Single(c => c.What == "letter").State;
        (await StandsAsync()).ShouldBe("waiting");
        (await caller.AskAsync("POST", "setup/letter", new { })).Status.ShouldBe(HttpStatusCode.UnprocessableEntity, "nobody is named");
        (await caller.AskAsync("POST", "setup", new { notices = "owner@fernlight.example" })).Status.ShouldBe(HttpStatusCode.OK);
        (await caller.AskAsync("POST", "setup/letter", new { })).Status.ShouldBe(HttpStatusCode.NoContent);
        (await caller.AskAsync("POST", "setup/letter", new { })).Status.ShouldBe(HttpStatusCode.UnprocessableEntity, "one a minute");
        await own.Services.GetRequiredService<Jobs>().OnceAsync(Stop);
        var letter = mailbox.Letters.Single(l => l.Subject.Contains("letters arrive", StringComparison.Ordinal));
        (await StandsAsync()).ShouldBe("waiting");

        using var reader = own.NewBrowser();
        var link = letter.Text.Split('\n', ' ').First(w => w.Contains("/letters/arrived?", StringComparison.Ordinal)).Trim('<', '>', '\r');
        var at = new Uri(link).PathAndQuery;
        (await reader.StatusAsync(at[..^4] + "AAAA")).ShouldBe(HttpStatusCode.NotFound, "a link that we did not write");
        (await StandsAsync()).ShouldBe("waiting");
        (await reader.PageAsync(at)).ShouldContain("It arrived");
        (await StandsAsync()).ShouldBe("good");
        await reader.PageAsync(at);
        (await caller.AskAsync("GET", "history?action=mail.arrived")).Body.GetProperty("items").GetArrayLength().ShouldBe(1);

        mailbox.Mishap = _ => MailMishap.NoSuchMailbox;
        clock.Advance(TimeSpan.FromMinutes(2));
        (await caller.AskAsync("POST", "setup/letter", new { })).Status.ShouldBe(HttpStatusCode.NoContent);
        await own.Services.GetRequiredService<Jobs>().OnceAsync(Stop);
        (await StandsAsync()).ShouldBe("wrong");
    }

    private static async Task<List<(string What, string State, string Said)>> CheckAsync(RunningSite at)
    {
        using var http = new HttpClient { DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", at.Token) } };
        using var answer = await http.PostAsync(at.Admin + "/api/v1/setup/check", null, Stop);
        var lines = (await answer.Content.ReadAsStringAsync(Stop)).Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .Select(l => JsonSerializer.Deserialize<JsonElement>(l)).ToList();
        lines[^1].GetProperty("stage").GetString().ShouldBe("done", lines[^1].ToString());
        return
        [
            .. lines.SkipLast(1).Select(l => l.GetProperty("check")).Select(c => (
                c.GetProperty("what").GetString()!, c.GetProperty("state").GetString()!, c.GetProperty("said").GetString()!)),
        ];
    }
}
