using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract;
using WarySentinel.Contract.Catalogue;
using WarySentinel.Contract.Check;
using WarySentinel.Contract.Gates;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

public sealed class ApiTests(SiteFixture fixture)
{
    private readonly RunningSite site = fixture.Site;

    [Theory]
    [InlineData("GET", "gates")]
    [InlineData("POST", "gates")]
    [InlineData("GET", "items")]
    [InlineData("POST", "items/import")]
    [InlineData("GET", "members")]
    [InlineData("GET", "passwords")]
    [InlineData("GET", "roles")]
    [InlineData("GET", "sessions")]
    [InlineData("GET", "tokens")]
    [InlineData("GET", "settings")]
    [InlineData("GET", "status")]
    [InlineData("GET", "history")]
    [InlineData("GET", "redirects")]
    [InlineData("GET", "sweeps")]
    [InlineData("GET", "site.yaml")]
    [InlineData("GET", "board")]
    [InlineData("GET", "seen")]
    [InlineData("GET", "viewpoints")]
    [InlineData("GET", "me")]
    public async Task Nothing_answers_without_a_token(string method, string path)
    {
        using var http = new HttpClient();
        using var request = new HttpRequestMessage(new HttpMethod(method), $"{site.Admin}/api/v1/{path}")
        {
            Content = method == "POST" ? new StringContent("{}", Encoding.UTF8, path.EndsWith("import", StringComparison.Ordinal) ? "text/csv"
                : "application/json") : null,
        };
        using var response = await http.SendAsync(request);
        response.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        response.Content.Headers.ContentType!.MediaType.ShouldBe("application/problem+json");
        response.Headers.WwwAuthenticate.ToString().ShouldBe("Bearer");
    }

    [Fact]
    public async Task The_committed_document_is_the_one_that_is_served()
    {
        using var http = new HttpClient();
        var served = await http.GetStringAsync(site.Admin + "/api/v1/openapi.json");
        var committed = await File.ReadAllTextAsync(Path.Combine(RunningSite.Root, "console", "openapi.json"));
        JsonElement.DeepEquals(JsonDocument.Parse(served).RootElement, JsonDocument.Parse(committed).RootElement).ShouldBeTrue(
            "Run ./demo.sh, then: curl -s localhost:7401/api/v1/openapi.json > console/openapi.json && (cd console && npm run types)");
    }

    [Fact]
    public async Task A_token_does_what_its_scopes_say_and_no_more()
    {
        var made = await site.Client.AddTokenAsync("asks", ["decide"], 1, null, null, CancellationToken.None);
        using var asks = new SentinelClient(new Uri(site.Admin), made.Token?.Reveal());
        (await asks.MayAsync(new Question("guest", "open", "product:fern-25", null, null), CancellationToken.None)).Allowed.ShouldBeTrue();
        (await Should.ThrowAsync<SentinelException>(() => asks.StatusAsync(CancellationToken.None))).Status.ShouldBe(HttpStatusCode.Forbidden);
        await site.Client.RemoveTokenAsync(made.Id, CancellationToken.None);
        (await Should.ThrowAsync<SentinelException>(() =>
            asks.MayAsync(new Question("guest", "open", "site", null, null), CancellationToken.None))).Status.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task A_gate_is_added_changed_and_removed_with_its_tag()
    {
        var added = await site.Client.AddGateAsync(new GateDraft
        { Title = "Gift cards", Covers = ["path:/cards-of-a-test/**"], Audience = "signed-in", Presence = "hidden" }, CancellationToken.None);
        added.Key.ShouldBe("gift-cards");
        var (gate, tag) = await site.Client.GateAsync("gift-cards", CancellationToken.None);
        tag.ShouldBe("\"1\"");
        await site.Client.SetGateAsync("gift-cards", GateDraft.Of(gate) with { Presence = "listed" }, tag!, CancellationToken.None);
        (await Should.ThrowAsync<SentinelException>(() =>
            site.Client.SetGateAsync("gift-cards", GateDraft.Of(gate), tag!, CancellationToken.None))).Status.ShouldBe(HttpStatusCode.PreconditionFailed);
        (await Should.ThrowAsync<SentinelException>(() =>
            site.Client.AddGateAsync(GateDraft.Of(gate) with { Key = "gift-cards" }, CancellationToken.None))).Status.ShouldBe(HttpStatusCode.Conflict);
        await site.Client.RemoveGateAsync("gift-cards", "*", CancellationToken.None);
        (await Should.ThrowAsync<SentinelException>(() => site.Client.GateAsync("gift-cards", CancellationToken.None))).Code.ShouldBe("gate-unknown");
    }

    [Fact]
    public async Task A_change_without_a_version_is_asked_for_one()
    {
        using var http = new HttpClient { DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", site.Token) } };
        using var response = await http.PutAsJsonAsync(site.Admin + "/api/v1/gates/dealer-stock", new { title = "X" });
        response.StatusCode.ShouldBe(HttpStatusCode.PreconditionRequired);
    }

    [Fact]
    public async Task Lists_come_in_pages()
    {
        var items = new List<ItemView>();
        await foreach (var item in site.Client.AllAsync<ItemView>("items?kind=product", 1000, CancellationToken.None))
        {
            items.Add(item);
        }

        using var http = new HttpClient { DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", site.Token) } };
        var walked = new List<string>();
        string? cursor = null;
        do
        {
            var on = cursor is null ? "" : "&cursor=" + cursor;
            var page = await http.GetFromJsonAsync<PageOf<ItemView>>($"{site.Admin}/api/v1/items?kind=product&limit=7{on}", ApiJson.Options);
            walked.AddRange(page!.Items.Select(i => i.Id));
            cursor = page.Next;
        }
        while (cursor is not null);
        walked.ShouldBe(items.Select(i => i.Id));
        walked.Count.ShouldBe(56);
        (await http.GetAsync(site.Admin + "/api/v1/items?cursor=%21")).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
    }

    [Fact]
    public async Task Faults_are_located()
    {
        var refused = await Should.ThrowAsync<SentinelException>(() => site.Client.AddGateAsync(
            new GateDraft { Title = "X", Covers = ["category:filtres"], Audience = "role:dealr or group:institutions" }, CancellationToken.None));
        refused.Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        refused.Faults.Select(f => f.Field).ShouldBe(["covers", "audience"]);
        refused.Faults[1].Column.ShouldBe(6);
    }

    [Fact]
    public async Task Broken_json_gets_a_problem_and_no_stack_trace()
    {
        using var http = new HttpClient { DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", site.Token) } };
        foreach (var body in new[] { "{", "[]", "{\"title\":5}", "null", "" })
        {
            using var response = await http.PostAsync(site.Admin + "/api/v1/gates", new StringContent(body, Encoding.UTF8, "application/json"));
            ((int)response.StatusCode).ShouldBeInRange(400, 422, body);
            (await response.Content.ReadAsStringAsync()).ShouldNotContain("   at ");
        }

        (await http.GetAsync(site.Admin + "/api/v1/nothing")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task The_console_signs_in_only_from_its_own_page()
    {
        using var http = new HttpClient(new SocketsHttpHandler { CookieContainer = new CookieContainer() }) { BaseAddress = new Uri(site.Admin + "/api/v1/") };
        var credentials = new { name = RunningSite.Owner, password = RunningSite.Password };
        (await http.PostAsJsonAsync("sign-in", credentials)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        http.DefaultRequestHeaders.Add("X-Wary-Console", "1");
        (await http.PostAsJsonAsync("sign-in", new { name = "nell", password = "orchard-quiet-91" })).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        (await http.PostAsJsonAsync("sign-in", new { name = RunningSite.Owner, password = "wrong-password" })).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        var signedIn = await http.PostAsJsonAsync("sign-in", credentials);
        signedIn.Headers.GetValues("Set-Cookie").ShouldAllBe(c => c.Contains("samesite=strict") && c.Contains("httponly"));
        (await http.GetAsync("gates")).StatusCode.ShouldBe(HttpStatusCode.OK);
        http.DefaultRequestHeaders.Remove("X-Wary-Console");
        (await http.DeleteAsync("gates/dealer-stock")).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task The_first_owner_is_made_once()
    {
        using var nobody = new SentinelClient(new Uri(site.Admin), null);
        (await Should.ThrowAsync<SentinelException>(() =>
            nobody.FirstOwnerAsync("guess", "x@y.example", "X", "long-enough-mill-1", CancellationToken.None))).Code.ShouldBe("set-up-done");
    }

    [Fact]
    public async Task Every_change_is_in_the_audit_trail()
    {
        await site.Client.AddFactDefinitionAsync("groups", "auditors", "Auditors", CancellationToken.None);
        using var http = new HttpClient { DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", site.Token) } };
        var trail = await http.GetFromJsonAsync<JsonElement>(site.Admin + "/api/v1/history?subject=auditors");
        var entry = trail.GetProperty("items")[0];
        entry.GetProperty("action").GetString().ShouldBe("group.add");
        entry.GetProperty("by").GetString().ShouldBe($"{RunningSite.Owner} (tests)");
    }

    [Fact]
    public async Task Why_tells_a_member_by_name()
    {
        var why = await site.Client.WhyAsync(new Question("pia@lanternlane.example", "open", null, "/product/case-fern-40", null), CancellationToken.None);
        why.Headline.ShouldBe("Pia Lantern may not open Case of 6 Fern 40 mm, and doesn’t see it listed.");
        why.Steps.ShouldHaveSingleItem().Gate.ShouldBe("dealer-stock");
    }

    [Fact]
    public async Task Health_is_told()
    {
        using var http = new HttpClient();
        (await http.GetStringAsync(site.Admin + "/health/live")).ShouldBe("live");
        (await http.GetStringAsync(site.Admin + "/health/ready")).ShouldBe("ready");
    }
}
