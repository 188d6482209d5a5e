using System.Net;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.People;

/// <summary>Wrong tries slow down whoever guesses, and nobody else.</summary>
public sealed class TryTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task A_class_of_thirty_signs_in_at_once_from_one_network()
    {
        await using var site = await StartAsync();
        var browsers = Enumerable.Range(0, 30).Select(_ => site.NewBrowser()).ToList();
        foreach (var n in Enumerable.Range(0, 30))
        {
            await site.Client.AddMemberAsync($"pupil{n}@school.example", "Pupil", null, $"ferry-lantern-{n}-oak", [], [], [], Stop);
        }

        var answers = await Task.WhenAll(browsers.Select((b, n) => b.SignInAsync($"pupil{n}@school.example", $"ferry-lantern-{n}-oak")));
        answers.ShouldAllBe(a => a.StatusCode == HttpStatusCode.SeeOther);
        var unlocked = await Task.WhenAll(Enumerable.Range(0, 30).Select(_ => site.NewBrowser().UnlockAsync(RunningSite.VaultPassword)));
        unlocked.ShouldAllBe(a => a.StatusCode == HttpStatusCode.SeeOther);
    }

    [Fact]
    public async Task One_known_password_makes_no_guess_of_another_free()
    {
        await using var site = await StartAsync();
        var wrong = 0;
        for (var n = 0; n < 32 && wrong >= 0; n++)
        {
            using var own = site.NewBrowser();
            var right = await own.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
            using var guess = site.NewBrowser();
            var answer = await guess.SignInAsync("nell", "guess-number-" + n);
            if (answer.StatusCode == HttpStatusCode.TooManyRequests)
            {
                break;
            }

            answer.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
            right.StatusCode.ShouldBe(HttpStatusCode.SeeOther);
            wrong++;
        }

        // The fifth is looked at still, and told to wait.
        wrong.ShouldBe(4);
    }

    [Fact]
    public async Task Names_for_one_member_count_as_one()
    {
        await using var site = await StartAsync();
        string[] names = ["nell", "Nell", " nell ", "NELL@orchard-optics.example"];
        foreach (var name in names)
        {
            using var browser = site.NewBrowser();
            (await browser.SignInAsync(name, "wrong-password")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        }

        using var fifth = site.NewBrowser();
        (await fifth.SignInAsync("nell@orchard-optics.example", "wrong-password")).StatusCode.ShouldBe(HttpStatusCode.TooManyRequests);
        using var last = site.NewBrowser();
        (await last.SignInAsync("nell@orchard-optics.example", "orchard-quiet-91")).StatusCode.ShouldBe(HttpStatusCode.TooManyRequests);
        using var other = site.NewBrowser();
        (await other.SignInAsync("pia@lanternlane.example", "lantern-lane-12")).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
    }

    [Fact]
    public async Task Many_networks_against_one_member_meet_a_brake_that_spares_the_browsers_they_know()
    {
        await using var site = await StartAsync("--Wary:TrustedProxies:0=127.0.0.1");
        using var known = new Network(site, "198.51.100.7");
        (await known.SignInAsync("nell", "orchard-quiet-91")).ShouldBe(HttpStatusCode.SeeOther);
        known.Forget("wary");
        var answers = new List<HttpStatusCode>();
        for (var n = 1; n <= 40; n++)
        {
            using var guess = new Network(site, $"203.0.113.{n}");
            answers.Add(await guess.SignInAsync("nell", "guess-" + n));
        }

        // The twentieth is looked at still, and told to wait.
        answers.Count(a => a == HttpStatusCode.Unauthorized).ShouldBe(19);
        answers.Skip(19).ShouldAllBe(a => a == HttpStatusCode.TooManyRequests);
        // Elsewhere even the right one has to wait; the browser that they know does not, and other members do not.
        using var stranger = new Network(site, "192.0.2.1");
        (await stranger.SignInAsync("nell", "orchard-quiet-91")).ShouldBe(HttpStatusCode.TooManyRequests);
        (await known.SignInAsync("nell", "orchard-quiet-91")).ShouldBe(HttpStatusCode.SeeOther);
        (await stranger.SignInAsync("pia@lanternlane.example", "lantern-lane-12")).ShouldBe(HttpStatusCode.SeeOther);
    }

    [Fact]
    public async Task A_known_browser_is_known_for_its_own_members_alone_and_its_cookie_cannot_be_made_up()
    {
        await using var site = await StartAsync("--Wary:TrustedProxies:0=127.0.0.1");
        using var pia = new Network(site, "198.51.100.7");
        (await pia.SignInAsync("pia@lanternlane.example", "lantern-lane-12")).ShouldBe(HttpStatusCode.SeeOther);
        var cookie = pia.Cookie("wary-known")!;
        cookie.Split('.').Length.ShouldBe(4);
        for (var n = 1; n <= 20; n++)
        {
            using var guess = new Network(site, $"203.0.113.{n}");
            await guess.SignInAsync("nell", "guess-" + n);
        }

        pia.Forget("wary");
        (await pia.SignInAsync("nell", "orchard-quiet-91")).ShouldBe(HttpStatusCode.TooManyRequests);
        var nell = (await site.Client.MemberAsync("nell@orchard-optics.example", Stop)).Value.Id.ToString("N");
        using var forged = new Network(site, "198.51.100.8");
        forged.Set("wary-known", string.Join('.', cookie.Split('.')[0], cookie.Split('.')[1], nell, cookie.Split('.')[3]));
        (await forged.SignInAsync("nell", "orchard-quiet-91")).ShouldBe(HttpStatusCode.TooManyRequests);
        // It never reaches the guarded site.
        WarySentinel.Service.Web.SteeringHeaders.IsOurs("X-Wary-Known").ShouldBeTrue();
    }

    [Fact]
    public async Task A_suspended_member_is_a_guest_to_every_gate_on_every_surface()
    {
        await using var site = await StartAsync();
        using var browser = site.NewBrowser();
        await browser.SignInAsync("nell", "orchard-quiet-91");
        (await browser.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        using var api = new Caller(site);
        foreach (var status in new[] { "suspended", "closed", "active" })
        {
            await site.Client.SetStatusAsync("nell@orchard-optics.example", status, null, Stop);
            var expected = status == "active";
            (await site.Client.MayAsync(new Contract.Check.Question("nell@orchard-optics.example", "open", "category:dealer-stock", null, null),
                Stop)).Allowed.ShouldBe(expected);
            var evaluation = await api.AskAsync("POST", "/access/v1/evaluation", new
            {
                subject = new { type = "member", id = "nell@orchard-optics.example" }, action = new { name = "open" }, resource = new
                { type = "category", id = "dealer-stock" }
            });
            evaluation.Body.GetProperty("decision").GetBoolean().ShouldBe(expected);
            var search = await api.AskAsync("POST", "/access/v1/search/subject", new
            { subject = new { type = "member" }, action = new { name = "open" }, resource = new { type = "category", id = "dealer-stock" } });
            search.Body.GetProperty("results").EnumerateArray().Any(r => r.GetProperty("id").GetString()!.StartsWith("nell", StringComparison.Ordinal))
                .ShouldBe(expected);
            (await site.Client.SeenAsync("nell@orchard-optics.example", null, null, Stop)).Items.Any(i => i.Item == "category:dealer-stock").ShouldBe(expected);
            (await browser.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Unauthorized);
            (await site.NewBrowser().SignInAsync("nell", "orchard-quiet-91")).StatusCode.ShouldBe(expected ? HttpStatusCode.SeeOther
                : HttpStatusCode.Unauthorized);
        }
    }

    [Fact]
    public async Task A_token_makes_none_that_may_more_or_lasts_longer_than_itself()
    {
        await using var site = await StartAsync();
        var weak = (await site.Client.AddTokenAsync("weak", ["read", "tokens"], 2, null, null, Stop)).Token?.Reveal()!;
        using var api = new Caller(site, weak);
        await api.RefusedAsync(HttpStatusCode.Forbidden, "token-stronger", "POST", "tokens", new { label = "x", scopes = new[] { "read", "write" } });
        await api.RefusedAsync(HttpStatusCode.Forbidden, "token-stronger", "POST", "tokens", new { label = "x" });
        var same = await api.AskAsync("POST", "tokens", new { label = "x", scopes = new[] { "tokens" }, days = 3650 });
        same.Status.ShouldBe(HttpStatusCode.Created);
        same.Body.GetProperty("until").GetDateTimeOffset().ShouldBeLessThan(DateTimeOffset.UtcNow.AddDays(3));
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "token-days", "POST", "tokens", new { label = "x", scopes = new[] { "read" }, days = -1 });
    }

    [Fact]
    public async Task An_editor_ends_no_session_of_an_owner()
    {
        await using var site = await StartAsync();
        await site.Client.AddMemberAsync("ed@fernlight.example", "Ed", null, "a-quiet-hill-at-night", ["editor"], [], [], Stop);
        using var nobody = new Client.SentinelClient(new Uri(site.Admin), null);
        using var editor = new Caller(site, (await nobody.AddTokenAsync("ed", ["read", "write"], null, "ed@fernlight.example", "a-quiet-hill-at-night", Stop))
            .Token?.Reveal());
        using var owner = site.NewBrowser();
        await owner.SignInAsync(RunningSite.Owner, RunningSite.Password);
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        foreach (var session in (await editor.AskAsync("GET", "sessions")).Body.GetProperty("items").EnumerateArray())
        {
            var ended = (await editor.AskAsync("DELETE", "sessions/" + session.GetProperty("id").GetString())).Status;
            ended.ShouldBe(session.GetProperty("member").GetString() == RunningSite.Owner ? HttpStatusCode.Forbidden : HttpStatusCode.NoContent);
        }

        (await owner.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.OK);
        (await nell.StatusAsync("/members/calendar")).ShouldBe(HttpStatusCode.Unauthorized);
    }

    /// <summary>A site whose clock stands: a wait is over by no slow machine.</summary>
    private static Task<RunningSite> StartAsync(params string[] settings) =>
        RunningSite.StartAsync(settings: settings, time: new FakeTimeProvider(DateTimeOffset.UtcNow));
}
