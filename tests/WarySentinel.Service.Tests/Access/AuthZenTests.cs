using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>The OpenID AuthZEN Authorization API 1.0, as a client of the standard calls it.</summary>
public sealed class AuthZenTests(SiteFixture fixture)
{
    private const string Guest = """{"type":"guest","id":"somebody"}""";
    private readonly RunningSite site = fixture.Site;

    [Theory]
    [InlineData("member", "nell@orchard-optics.example", "product", "case-fern-40", "open", true)]
    [InlineData("user", "pia@lanternlane.example", "product", "case-fern-40", "open", false)]
    [InlineData("guest", "x", "product", "fern-25", "open", true)]
    [InlineData("guest", "x", "product", "case-fern-40", "list", false)]
    [InlineData("role", "dealer", "category", "dealer-stock", "open", true)]
    [InlineData("guest", "x", "path", "/shop/dealer-stock", "open", false)]
    [InlineData("guest", "x", "path", "/SHOP//dealer-stock/", "open", false)]
    [InlineData("guest", "x", "path", "/shop%2fdealer-stock", "open", false)]
    [InlineData("guest", "x", "site", "site", "open", true)]
    [InlineData("guest", "x", "product", "no-such", "open", false)]
    [InlineData("member", "nobody@nowhere.example", "product", "fern-25", "open", false)]
    [InlineData("member", "nobody", "product", "fern-25", "open", false)]
    public async Task One_evaluation(string subject, string id, string type, string resource, string action, bool decision)
    {
        var (status, body, _) = await AskAsync("evaluation",
            $$$"""
            {"subject":{"type":"{{{subject}}}","id":"{{{id}}}"},"action":{"name":"{{{action}}}"},
            "resource":{"type":"{{{type}}}","id":"{{{resource}}}"}}
            """);
        status.ShouldBe(HttpStatusCode.OK);
        body.GetProperty("decision").GetBoolean().ShouldBe(decision);
    }

    [Fact]
    public async Task A_refusal_carries_its_reason_and_answer()
    {
        var (_, body, _) = await AskAsync("evaluation", Of(Guest, "open", "product", "case-fern-40"));
        var context = body.GetProperty("context");
        context.GetProperty("answer").GetString().ShouldBe("sign-in");
        context.GetProperty("gate").GetString().ShouldBe("dealer-stock");
        context.GetProperty("location").GetString().ShouldBe("/account/sign-in");
        context.GetProperty("reason_user").GetProperty("en").GetString()!.ShouldContain("may not open");
        context.GetProperty("reason_admin").GetProperty("en").GetString()!.ShouldContain("Dealer stock");
    }

    [Fact]
    public async Task Properties_and_context_count()
    {
        (await AskAsync(
            "evaluation", Of("""{"type":"guest","id":"x","properties":{"unlocked":["clearance-vault"]}}""", "open", "category", "clearance-vault")))
            .Body.GetProperty("decision").GetBoolean().ShouldBeTrue();
        (await AskAsync("evaluation", Of("""{"type":"guest","id":"x","properties":{"address":"nonsense"}}""", "open", "category", "books")))
            .Status.ShouldBe(HttpStatusCode.BadRequest);
        (await AskAsync("evaluation", Of(Guest, "open", "category", "books")
            .Replace("}}", "},\"context\":{\"time\":\"soon\"}}", StringComparison.Ordinal))).Status.ShouldBe(HttpStatusCode.BadRequest);
    }

    [Theory]
    [InlineData("execute_all", 4)]
    [InlineData("deny_on_first_deny", 2)]
    [InlineData("permit_on_first_permit", 1)]
    public async Task A_batch_ends_as_its_semantic_says(string semantic, int answers)
    {
        var (_, body, _) = await AskAsync("evaluations", $$$"""
            {"subject":{{{Guest}}},"action":{"name":"open"},"evaluations":[
            {"resource":{"type":"path","id":"/shop"}},{"resource":{"type":"path","id":"/shop/dealer-stock"}},
            {"resource":{"type":"nonsense","id":"x"}},{"subject":{"type":"role","id":"dealer"},"resource":{"type":"path","id":"/shop/dealer-stock"}}],
            "options":{"evaluations_semantic":"{{{semantic}}}"}}
            """);
        var given = body.GetProperty("evaluations");
        given.GetArrayLength().ShouldBe(answers);
        if (answers == 4)
        {
            given.EnumerateArray().Select(e => e.GetProperty("decision").GetBoolean()).ShouldBe([true, false, false, true]);
            given[2].GetProperty("context").GetProperty("error").GetProperty("status").GetInt32().ShouldBe(400);
        }
    }

    [Fact]
    public async Task A_batch_without_a_list_is_one_evaluation() =>
        (await AskAsync("evaluations", Of(Guest, "open", "path", "/shop"))).Body.GetProperty("decision").GetBoolean().ShouldBeTrue();

    [Fact]
    public async Task A_search_gives_page_after_page_all_that_and_no_more()
    {
        var found = new List<string>();
        var token = "";
        do
        {
            var (_, body, _) = await AskAsync("search/resource",
                $$$"""{"subject":{{{Guest}}},"action":{"name":"open"},"resource":{"type":"product"},"page":{"limit":7,"token":"{{{token}}}"}}""");
            var results = body.GetProperty("results").EnumerateArray().Select(r => r.GetProperty("id").GetString()!).ToList();
            results.Count.ShouldBeLessThanOrEqualTo(7);
            body.GetProperty("page").GetProperty("count").GetInt32().ShouldBe(results.Count);
            found.AddRange(results);
            token = body.GetProperty("page").GetProperty("next_token").GetString()!;
        }
        while (token.Length > 0);
        var seen = await site.Client.SeenAsync("guest", null, null, TestContext.Current.CancellationToken);
        found.Order().ShouldBe(seen.Items.Where(i => i.Kind == "product" && i.Sight == "open").Select(i => i.Item["product:".Length..]).Order());
    }

    [Fact]
    public async Task A_token_is_good_for_its_own_search_only()
    {
        var (_, body, _) = await AskAsync("search/resource",
            $$$"""{"subject":{{{Guest}}},"action":{"name":"open"},"resource":{"type":"product"},"page":{"limit":1}}""");
        var token = body.GetProperty("page").GetProperty("next_token").GetString();
        (await AskAsync("search/resource",
            $$$"""{"subject":{{{Guest}}},"action":{"name":"buy"},"resource":{"type":"product"},"page":{"token":"{{{token}}}"}}"""))
            .Status.ShouldBe(HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task Subjects_and_actions_are_found()
    {
        var members = (await AskAsync("search/subject",
            """{"subject":{"type":"member"},"action":{"name":"open"},"resource":{"type":"product","id":"case-fern-40"}}""")).Body;
        members.GetProperty("results").EnumerateArray().Select(r => r.GetProperty("id").GetString())
            .ShouldBe(["nell@orchard-optics.example", RunningSite.Owner], ignoreOrder: true);
        var roles = (await AskAsync("search/subject",
            """{"subject":{"type":"role"},"action":{"name":"open"},"resource":{"type":"path","id":"/shop/dealer-stock"}}""")).Body;
        roles.GetProperty("results").EnumerateArray().Select(r => r.GetProperty("id").GetString()).ShouldBe(["dealer", "keeper"]);
        var acts = (await AskAsync("search/action", $$$"""{"subject":{{{Guest}}},"resource":{"type":"category","id":"clearance-vault"}}""")).Body;
        acts.GetProperty("results").EnumerateArray().Select(r => r.GetProperty("name").GetString()).ShouldBe(["list"]);
        (await AskAsync("search/action",
            $$$"""{"subject":{{{Guest}}},"resource":{"type":"category","id":"no-such"}}""")).Body.GetProperty("results").GetArrayLength().ShouldBe(0);
    }

    [Theory]
    [InlineData("evaluation", "{}")]
    [InlineData("evaluation", "[]")]
    [InlineData("evaluation", "nonsense")]
    [InlineData("evaluation", """{"subject":{"type":"martian","id":"x"},"action":{"name":"open"},"resource":{"type":"site","id":"site"}}""")]
    [InlineData("evaluation", """{"subject":{"type":"guest","id":"x"},"action":{"name":"eat"},"resource":{"type":"site","id":"site"}}""")]
    [InlineData("evaluation", """{"subject":"guest","action":{"name":"open"},"resource":{"type":"site","id":"site"}}""")]
    [InlineData("evaluation", """{"subject":{"type":"guest","id":7},"action":{"name":"open"},"resource":{"type":"site","id":"site"}}""")]
    [InlineData("evaluations", """{"evaluations":7}""")]
    [InlineData("evaluations", """{"evaluations":[{}],"options":{"evaluations_semantic":"some"}}""")]
    [InlineData("search/resource", """{"subject":{"type":"guest","id":"x"},"action":{"name":"open"},"resource":{"type":"path"}}""")]
    public async Task What_the_standard_does_not_allow_is_status_400(string path, string body) =>
        (await AskAsync(path, body)).Status.ShouldBe(HttpStatusCode.BadRequest);

    [Fact]
    public async Task The_id_of_a_request_comes_back_and_the_metadata_names_the_endpoints()
    {
        (await AskAsync("evaluation", Of(Guest, "open", "path", "/shop"), id: "abc-1")).Id.ShouldBe("abc-1");
        using var http = new HttpClient();
        foreach (var host in new[] { site.Site, site.Admin })
        {
            var metadata = JsonSerializer.Deserialize<JsonElement>(await http.GetStringAsync(host + "/.well-known/authzen-configuration"));
            metadata.GetProperty("policy_decision_point").GetString().ShouldBe(host);
            metadata.GetProperty("search_action_endpoint").GetString().ShouldBe(host + "/access/v1/search/action");
        }
    }

    [Fact]
    public async Task Without_a_token_or_its_scope_nothing_is_told()
    {
        (await AskAsync("evaluation", Of(Guest, "open", "path", "/shop"), token: "none")).Status.ShouldBe(HttpStatusCode.Unauthorized);
        using var caller = new Caller(site);
        var (_, made, _) = await caller.AskAsync("POST", "tokens", new { label = "reader", scopes = new[] { "read" } });
        (await AskAsync("evaluation", Of(Guest, "open", "path", "/shop"), token: made.GetProperty("token").GetString())).Status.ShouldBe(
            HttpStatusCode.Forbidden);
    }

    [Fact]
    public async Task From_other_networks_these_addresses_belong_to_the_site()
    {
        await using var far = await RunningSite.StartAsync(settings: ["--Wary:DecisionNetworks:0=192.0.2.0/24", "--Wary:DecisionNetworks:1=192.0.2.0/24"]);
        using var http = new HttpClient();
        (await http.GetAsync(far.Site + "/.well-known/authzen-configuration")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await http.GetAsync(far.Admin + "/.well-known/authzen-configuration")).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    private static string Of(string subject, string action, string type, string id) =>
        $$$"""{"subject":{{{subject}}},"action":{"name":"{{{action}}}"},"resource":{"type":"{{{type}}}","id":"{{{id}}}"}}""";

    private async Task<(HttpStatusCode Status, JsonElement Body, string? Id)> AskAsync(string path, string body, string? token = null, string? id = null)
    {
        using var http = new HttpClient();
        using var request = new HttpRequestMessage(HttpMethod.Post, $"{site.Site}/access/v1/{path}")
        { Content = new StringContent(body, Encoding.UTF8, "application/json") };
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", token ?? site.Token);
        if (id is not null)
        {
            request.Headers.Add("X-Request-ID", id);
        }

        using var response = await http.SendAsync(request);
        var text = await response.Content.ReadAsStringAsync();
        return (response.StatusCode, text.StartsWith('{') ? JsonSerializer.Deserialize<JsonElement>(text)
            : default, response.Headers.TryGetValues("X-Request-ID", out var ids) ? ids.Single() : null);
    }
}
