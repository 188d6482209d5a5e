using System.Net;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.People;

/// <summary>Roles and groups as those see it who hold them: over HTTP, while they are signed in.</summary>
public sealed class FactApiTests : IAsyncLifetime
{
    private RunningSite site = null!;
    private Caller api = null!;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync();
        api = new Caller(site);
    }

    public async ValueTask DisposeAsync()
    {
        api.Dispose();
        await site.DisposeAsync();
    }

    [Fact]
    public async Task A_plan_lasts_as_long_as_it_says_and_what_was_given_before_keeps_its_end()
    {
        const string pia = "members/pia@lanternlane.example/grants";
        async Task<(string Id, DateTimeOffset? Until)> GivenAsync(string source)
        {
            var grant = (await api.AskAsync("POST", pia, new { fact = "plan:night-pass", source })).Body.GetProperty("grant");
            return (grant.GetProperty("id").GetString()!,
                grant.TryGetProperty("until", out var until) && until.ValueKind == System.Text.Json.JsonValueKind.String ? until.GetDateTimeOffset() : null);
        }

        (await api.AskAsync("POST", "plans", new { title = "Night pass" })).Status.ShouldBe(HttpStatusCode.Created);
        var endless = await GivenAsync("order:1");
        endless.Until.ShouldBeNull();
        (await api.AskAsync("DELETE", pia + "/" + endless.Id)).Status.ShouldBe(HttpStatusCode.OK);
        (await api.AskAsync("PUT", "plans/night-pass", new { title = "Night pass", length = "P30D" }, "*")).Body.GetProperty("length").GetString()
            .ShouldBe("P30D");
        var first = (await GivenAsync("order:2")).Until;
        first!.Value.ShouldBe(DateTimeOffset.UtcNow.AddDays(30), TimeSpan.FromMinutes(2));
        (await GivenAsync("order:3")).Until.ShouldBe(first.Value.AddDays(30));
        (await GivenAsync("order:3")).Until.ShouldBe(first.Value.AddDays(30), "told again");

        foreach (var (path, length) in new[] { ("plans/night-pass", "soon"), ("plans/night-pass", "P0D"), ("roles/dealer", "P30D") })
        {
            var refused = await api.AskAsync("PUT", path, new { title = "x", length }, "*");
            refused.Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
            refused.Body.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe("length");
        }

        await site.RestartAsync();
        (await api.AskAsync("GET", "plans/night-pass")).Body.GetProperty("length").GetString().ShouldBe("P30D");
        (await site.Client.ExportAsync(TestContext.Current.CancellationToken)).ShouldContain("length: P30D");
    }

    [Fact]
    public async Task A_role_is_copied_renamed_and_retired_under_those_who_hold_it()
    {
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        using var pia = site.NewBrowser();
        await pia.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
        (await pia.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Forbidden);

        var copied = await api.AskAsync("POST", "roles", new { key = "branch", title = "Branches", like = "dealer" });
        copied.Status.ShouldBe(HttpStatusCode.Created, copied.Body.ToString());
        await api.AskAsync("POST", "members/pia@lanternlane.example/grants", new { fact = "role:branch" });
        (await pia.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        var uses = (await api.AskAsync("GET", "roles/branch/uses")).Body;
        uses.GetProperty("named")[0].GetProperty("audience").GetString().ShouldBe("role:dealer or role:branch or role:keeper");
        uses.GetProperty("members").GetInt32().ShouldBe(1);

        (await api.AskAsync("POST", "roles/dealer/rename", new { to = "trade" })).Status.ShouldBe(HttpStatusCode.OK);
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        (await api.AskAsync("GET", "members/nell@orchard-optics.example")).Body.GetProperty("roles")[0].GetString().ShouldBe("trade");
        await api.RefusedAsync(HttpStatusCode.Conflict, "standing-exists", "POST", "roles/trade/rename", new { to = "branch" });

        (await api.AskAsync("POST", "roles/branch/retire", new { to = "trade" })).Status.ShouldBe(HttpStatusCode.NoContent);
        (await pia.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
        (await api.AskAsync("GET", "gates/dealer-stock")).Body.GetProperty("audience").GetString().ShouldBe("role:trade or role:keeper");
        await api.RefusedAsync(HttpStatusCode.Conflict, "standing-in-gate", "POST", "roles/trade/retire", new { });
        (await api.AskAsync("POST", "roles/trade/retire", new { to = "guide" })).Status.ShouldBe(HttpStatusCode.NoContent);
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);

        // What was stored says the same after a start.
        await site.RestartAsync();
        (await nell.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_retired_role_ends_and_the_longer_of_two_grants_stays()
    {
        await api.AskAsync("POST", "roles", new { key = "short", title = "Short" });
        await api.AskAsync("POST", "roles", new { key = "long", title = "Long" });
        await api.AskAsync("POST", "members/pia@lanternlane.example/grants", new { fact = "role:short", until = "2090-01-01" });
        await api.AskAsync("POST", "members/pia@lanternlane.example/grants", new { fact = "role:long" });
        (await api.AskAsync("POST", "roles/long/retire", new { to = "short" })).Status.ShouldBe(HttpStatusCode.NoContent);
        var held = (await api.AskAsync("GET", "members/pia@lanternlane.example")).Body.GetProperty("grants").EnumerateArray()
            .Single(g => g.GetProperty("fact").GetString() == "role:short");
        held.GetProperty("until").ValueKind.ShouldBe(System.Text.Json.JsonValueKind.Null);
        (await api.AskAsync("POST", "roles/short/retire", new { })).Status.ShouldBe(HttpStatusCode.NoContent);
        (await api.AskAsync("GET", "members/pia@lanternlane.example")).Body.GetProperty("roles").GetArrayLength().ShouldBe(0);
    }

    [Fact]
    public async Task A_group_by_rule_is_current_at_once_and_travels_as_text()
    {
        await api.AskAsync("POST", "groups", new { key = "friends", title = "Friends", rule = "plan:patron or role:dealer" });
        await api.AskAsync("PUT", "gates/observatory-grade", new
        { title = "Observatory-grade", covers = new[] { "category:observatory-grade" }, audience = "group:friends" }, "*");
        using var pia = site.NewBrowser();
        await pia.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
        (await pia.StatusAsync("/shop/observatory-grade")).ShouldBe(HttpStatusCode.Forbidden);
        var given = (await api.AskAsync("POST", "members/pia@lanternlane.example/grants", new { fact = "plan:patron" })).Body;
        (await pia.StatusAsync("/shop/observatory-grade")).ShouldBe(HttpStatusCode.OK);
        await api.AskAsync("DELETE", $"members/pia@lanternlane.example/grants/{given.GetProperty("grant").GetProperty("id").GetString()}");
        (await pia.StatusAsync("/shop/observatory-grade")).ShouldBe(HttpStatusCode.Forbidden);
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await nell.StatusAsync("/shop/observatory-grade")).ShouldBe(HttpStatusCode.OK);
        var (_, rule, tag) = await api.AskAsync("GET", "groups/friends");
        rule.GetProperty("rule").GetString().ShouldBe("plan:patron or role:dealer");
        (await api.AskAsync("PUT", "groups/friends", new { title = "Friends", rule = "plan:patron" }, tag)).Status.ShouldBe(HttpStatusCode.OK);
        (await nell.StatusAsync("/shop/observatory-grade")).ShouldBe(HttpStatusCode.Forbidden);
        await api.RefusedAsync(HttpStatusCode.PreconditionFailed, "stale", "PUT", "groups/friends", new { title = "Friends" }, tag);
        await api.RefusedAsync(HttpStatusCode.Conflict, "standing-in-group", "DELETE", "plans/patron");
        await api.AskAsync("POST", "groups", new { key = "further", title = "Further", rule = "group:friends" });
        var ring = await api.RefusedAsync(
            HttpStatusCode.UnprocessableEntity, "group-ring", "PUT", "groups/friends", new { title = "Friends", rule = "group:further" }, "*");
        ring.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe("rule");

        using var http = new HttpClient { DefaultRequestHeaders = { { "Authorization", "Bearer " + site.Token } } };
        var yaml = await http.GetStringAsync(site.Admin + "/api/v1/site.yaml");
        yaml.ShouldContain("rule: plan:patron");
        var refused = await ApplyAsync(http, yaml.Replace("rule: plan:patron", "rule: group:further", StringComparison.Ordinal));
        refused.ShouldContain("group:friends → group:further → group:friends");
        (await ApplyAsync(http, yaml)).ShouldContain("\"changed\":0");
        (await ApplyAsync(http, yaml.Replace("rule: plan:patron", "rule: plan:patron or role:dealer", StringComparison.Ordinal)))
            .ShouldContain("\"changed\":1");
        (await nell.StatusAsync("/shop/observatory-grade")).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_home_page_and_links_of_a_role_are_kept_and_refused_where_they_lead_away()
    {
        var (status, role, _) = await api.AskAsync("PUT", "roles/dealer", new
        { title = "Dealers", home = "/shop/dealer-stock", links = new[] { new { address = "/shop", words = "Price list" } } }, "*");
        status.ShouldBe(HttpStatusCode.OK, role.ToString());
        role.GetProperty("links")[0].GetProperty("words").GetString().ShouldBe("Price list");
        var problem = await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "site-address", "PUT", "roles/dealer", new
        { title = "Dealers", home = "https://evil.example/", links = new[] { new { address = "//evil.example", words = "" } } }, "*");
        problem.GetProperty("errors").EnumerateArray().Select(e => e.GetProperty("field").GetString()).ShouldBe(["home", "links.0.address", "links.0.words"]);
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "role-only", "PUT", "plans/patron", new { title = "Patron", home = "/x" }, "*");
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "site-address", "PUT", "roles/dealer", new
        { title = "Dealers", links = new object?[] { null } }, "*");
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "redirect-unknown", "POST", "redirects/order", new { keys = new string?[] { null } });
        await site.RestartAsync();
        (await api.AskAsync("GET", "roles/dealer")).Body.GetProperty("home").GetString().ShouldBe("/shop/dealer-stock");
        using var nell = site.NewBrowser();
        var landed = await nell.SignInAsync("nell", "orchard-quiet-91", "");
        landed.Headers.Location!.ToString().ShouldBe("/shop/dealer-stock", "a role's home page, where nothing else says");
    }

    [Fact]
    public async Task People_land_where_the_redirects_say_and_never_on_what_is_closed_to_them()
    {
        await api.AskAsync("PUT", "redirects/dealers", new { on = "sign-in", audience = "role:dealer", to = "/shop/dealer-stock" });
        await api.AskAsync("PUT", "redirects/first", new { on = "first-sign-in", audience = "signed-in", to = "/visit?from={return_to}", position = 5 });
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "redirect-dead", "PUT", "redirects/x", new { on = "sign-in", to = "/no-such-page" });
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "redirect-invalid", "PUT", "redirects/x",
            new { on = "sign-in", to = "https://evil.example/" });
        await LandsAsync("nell", "orchard-quiet-91", "/visit?x", "/visit?x");
        await LandsAsync("nell", "orchard-quiet-91", null, "/shop/dealer-stock");
        await LandsAsync("pia@lanternlane.example", "lantern-lane-12", "/shop/dealer-stock", "/visit?from=%2Fshop%2Fdealer-stock");
        await LandsAsync("pia@lanternlane.example", "lantern-lane-12", "/shop/dealer-stock", "/account/closed?return_to=%2Fshop%2Fdealer-stock");

        var tried = (await api.AskAsync("POST", "redirects/try", new { @as = "nell@orchard-optics.example", on = "sign-in" })).Body;
        (tried.GetProperty("to").GetString(), tried.GetProperty("rule").GetString()).ShouldBe(("/shop/dealer-stock", "dealers"));
        tried = (await api.AskAsync("POST", "redirects/try", new { @as = "guest", on = "sign-in", wanted = "/members/calendar" })).Body;
        tried.GetProperty("why").GetString().ShouldBe("nothing");
        tried.GetProperty("ways")[0].GetProperty("step").GetString().ShouldBe("closed");

        // The refused are led elsewhere, at the gateway and by the check alike.
        await api.AskAsync("PUT", "redirects/join", new { on = "refusal", audience = "guest", to = "/visit?for={return_to}" });
        using var guest = site.NewBrowser();
        var led = await guest.GetAsync("/members/calendar");
        (led.StatusCode, led.Headers.Location?.ToString()).ShouldBe((HttpStatusCode.SeeOther, "/visit?for=%2Fmembers%2Fcalendar"));
        using var check = new HttpRequestMessage(HttpMethod.Get, "/sentinel/check");
        check.Headers.Add("X-Original-URI", "/members/calendar");
        var asked = await guest.SendAsync(check);
        asked.Headers.GetValues("X-Wary-Location").Single().ShouldBe("/visit?for=%2Fmembers%2Fcalendar");
        asked.Headers.GetValues("X-Wary-Status").Single().ShouldBe("303");
        await api.AskAsync("POST", "redirects/order", new { keys = new[] { "join", "first" } });
        (await api.AskAsync("GET", "redirects")).Body.GetProperty("items").EnumerateArray().Select(r => r.GetProperty("key").GetString())
            .ShouldBe(["join", "first", "dealers"]);
    }

    private async Task LandsAsync(string name, string password, string? wanted, string where)
    {
        using var browser = site.NewBrowser();
        var landed = await browser.SignInAsync(name, password, wanted ?? "");
        landed.Headers.Location!.ToString().ShouldBe(where);
    }

    private async Task<string> ApplyAsync(HttpClient http, string yaml)
    {
        using var answer = await http.PostAsync(site.Admin + "/api/v1/apply", new StringContent(yaml, System.Text.Encoding.UTF8, "application/yaml"));
        return (await answer.Content.ReadAsStringAsync()).Replace("\\u2192", "→", StringComparison.Ordinal);
    }
}
