using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>Questions, one by one and many at once, and the forms they may have.</summary>
public sealed class QuestionTests(SiteFixture fixture) : IDisposable
{
    private readonly RunningSite site = fixture.Site;
    private readonly Caller api = new(fixture.Site);

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public void Dispose() => api.Dispose();

    [Theory]
    [InlineData("/shop/dealer-stock")]
    [InlineData("shop/dealer-stock")]
    [InlineData("/shop/dealer-stock/index.html#top")]
    [InlineData("SITE/shop/dealer-stock")]
    [InlineData("ORIGIN/shop//dealer-stock/")]
    public async Task An_address_is_understood_in_every_form_by_api_and_protocol_alike(string address)
    {
        address = address.Replace("SITE", site.Site, StringComparison.Ordinal).Replace("ORIGIN", site.Origin, StringComparison.Ordinal);
        foreach (var question in new object[] { new { visitor = "guest", path = address }, new { visitor = "guest", item = address } })
        {
            var (status, body, _) = await api.AskAsync("POST", "decisions/may", question);
            status.ShouldBe(HttpStatusCode.OK);
            (body.GetProperty("allowed").GetBoolean(), body.GetProperty("gate").GetString()).ShouldBe((false, "dealer-stock"));
        }

        var evaluation = (await EvaluateAsync(new { type = "guest", id = "guest" }, new { type = "path", id = address })).Body;
        (evaluation.GetProperty("decision").GetBoolean(), evaluation.GetProperty("context").GetProperty("gate").GetString()).ShouldBe((false, "dealer-stock"));
    }

    [Fact]
    public async Task An_address_of_another_site_is_refused_by_api_and_protocol_alike()
    {
        var problem = await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "path-elsewhere", "POST", "decisions/may", new
        { visitor = "guest", path = "https://elsewhere.example/v/1" });
        var evaluation = (await EvaluateAsync(new { type = "guest", id = "guest" }, new { type = "path", id = "https://elsewhere.example/v/1" })).Body;
        evaluation.GetProperty("context").GetProperty("reason_admin").GetProperty("en").GetString().ShouldBe(problem.GetProperty("detail").GetString());
    }

    [Fact]
    public async Task The_address_of_a_download_says_what_the_check_does()
    {
        await using var own = await RunningSite.StartAsync();
        await own.Client.AddGateAsync(new Contract.Gates.GateDraft
        { Key = "atlas", Title = "Atlas", Covers = ["download:sky-atlas"], Acts = ["download"], Audience = "role:dealer" }, Stop);
        var address = (await own.Client.ItemAsync("download:sky-atlas", Stop)).Addresses[0];
        using var asks = new Caller(own);
        (await asks.AskAsync("POST", "decisions/may", new { visitor = "guest", path = address })).Body.GetProperty("allowed").GetBoolean().ShouldBeFalse();
        (await asks.AskAsync("POST", "decisions/why", new { visitor = "guest", path = address })).Body.GetProperty("allowed").GetBoolean().ShouldBeFalse();
        using var http = new HttpClient { DefaultRequestHeaders = { { "X-Original-URI", address } } };
        (await http.GetAsync(own.Site + "/sentinel/check", Stop)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Theory]
    [InlineData("nobody@x.example")]
    [InlineData("dealers")]
    [InlineData("role:dealr")]
    [InlineData("role:dealer,group:none")]
    public async Task A_visitor_that_is_not_known_is_told_every_form_that_is(string visitor)
    {
        var (status, body, _) = await api.AskAsync("POST", "decisions/may", new { visitor, item = "site" });
        status.ShouldBe(HttpStatusCode.NotFound);
        foreach (var form in new[] { "guest", "signed-in", "e-mail address", "password:", "role:", "group:", "plan:", "joined by commas" })
        {
            body.GetProperty("detail").GetString()!.ShouldContain(form);
        }
    }

    [Fact]
    public async Task Facts_with_commas_are_one_visitor_in_the_protocol_too()
    {
        foreach (var (id, expected) in new[] { ("role:dealer,group:institutions", true), ("role:dealer", false), ("guest", false),
            ("nell@orchard-optics.example,group:institutions", true) })
        {
            (await EvaluateAsync(new { type = "visitor", id }, new { type = "category", id = "observatory-grade" })).Body.GetProperty("decision")
                .GetBoolean().ShouldBe(expected, id);
        }

        (await EvaluateAsync(new { type = "visitor", id = "password:clearance-vault" }, new
        { type = "category", id = "clearance-vault" })).Body.GetProperty("decision").GetBoolean().ShouldBeTrue();
    }

    [Theory]
    [InlineData("""{"unlocked":"clearance-vault"}""", "unlocked")]
    [InlineData("""{"unlocked":[7]}""", "unlocked")]
    [InlineData("""{"unlocked":["no-such-gate"]}""", "no-such-gate")]
    [InlineData("""{"address":"here"}""", "address")]
    [InlineData("""{"address":7}""", "address")]
    [InlineData("[]", "properties")]
    public async Task Properties_that_are_wrong_are_errors(string properties, string told)
    {
        var body = $$$"""{"subject":{"type":"guest","id":"g","properties":{{{properties}}}},"action":{"name":"open"},"resource":{"type":"site","id":"site"}}""";
        using var http = new HttpClient { DefaultRequestHeaders = { { "Authorization", "Bearer " + site.Token } } };
        using var answer = await http.PostAsync(site.Admin + "/access/v1/evaluation", new StringContent(body, Encoding.UTF8, "application/json"), Stop);
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await answer.Content.ReadAsStringAsync(Stop)).ShouldContain(told);
        using var batch = await http.PostAsync(
            site.Admin + "/access/v1/evaluations", new StringContent("{\"evaluations\":[" + body + "]}", Encoding.UTF8, "application/json"), Stop);
        (await batch.Content.ReadAsStringAsync(Stop)).ShouldContain("\"status\":400");
    }

    [Theory]
    [InlineData("""{"page":7}""")]
    [InlineData("""{"page":{"limit":"ten"}}""")]
    [InlineData("""{"page":{"limit":0}}""")]
    [InlineData("""{"page":{"token":7}}""")]
    public async Task A_page_that_is_wrong_is_an_error(string page)
    {
        var body = page.TrimEnd('}').Length == 0 ? page
            : page[..^1] + ""","subject":{"type":"guest","id":"g"},"action":{"name":"open"},"resource":{"type":"product"}}""";
        using var http = new HttpClient { DefaultRequestHeaders = { { "Authorization", "Bearer " + site.Token } } };
        using var answer = await http.PostAsync(site.Admin + "/access/v1/search/resource", new StringContent(body, Encoding.UTF8, "application/json"), Stop);
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
    }

    [Fact]
    public async Task Many_questions_are_answered_line_by_line_in_their_order()
    {
        const string csv =
            "visitor,act,item,path,at\nguest,open,category:dealer-stock,,\nrole:dealer,open,,/shop/dealer-stock,\nguest,opn,site,,\n"
                + "\"role:dealer,group:institutions\",open,category:observatory-grade,,2026-12-24\nguest,,product:none,,\nguest,open,site,,soon\n"
                + "a,b,c,d,e,f,g\n";
        var lines = await BulkAsync(csv, "text/csv");
        lines.Select(l => l.GetProperty("line").GetInt32()).ShouldBe([2, 3, 4, 5, 6, 7, 8]);
        lines.Select(l => l.TryGetProperty("allowed", out var a) ? a.GetBoolean() : (bool?)null).ShouldBe([false, true, null, true, null, null, null]);
        lines[0].GetProperty("gate").GetString().ShouldBe("dealer-stock");
        lines.Where(l => l.TryGetProperty("code", out _)).Select(l => l.GetProperty("code").GetString())
            .ShouldBe(["act-unknown", "item-unknown-near", "time-form", "bulk-line"]);
        var json = await BulkAsync("{\"visitor\":\"guest\",\"item\":\"site\"}\n\n{\"visitr\":\"guest\"}\nnot json\nnull\n{\"item\":\"shop/dealer-stock\"}\n",
            "application/x-ndjson");
        json.Select(l => l.TryGetProperty("allowed", out var a) ? a.GetBoolean() : (bool?)null).ShouldBe([true, null, null, null, false]);
    }

    [Theory]
    [InlineData("who,what\n", "text/csv", "bulk-header")]
    [InlineData("", "text/csv", "bulk-header")]
    public async Task A_file_without_the_columns_is_told_so(string text, string type, string code) =>
        (await BulkAsync(text, type)).ShouldHaveSingleItem().GetProperty("code").GetString().ShouldBe(code);

    [Fact]
    public async Task Bytes_that_are_no_text_are_refused_before_anything_is_answered()
    {
        using var http = new HttpClient { DefaultRequestHeaders = { { "Authorization", "Bearer " + site.Token } } };
        using var answer = await http.PostAsync(site.Admin + "/api/v1/decisions/bulk", new ByteArrayContent([0xff, 0xfe, 0x00])
        { Headers = { ContentType = new MediaTypeHeaderValue("text/csv") } }, Stop);
        answer.StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
    }

    private async Task<List<JsonElement>> BulkAsync(string text, string type)
    {
        using var http = new HttpClient { DefaultRequestHeaders = { { "Authorization", "Bearer " + site.Token } } };
        using var answer = await http.PostAsync(site.Admin + "/api/v1/decisions/bulk", new StringContent(text, Encoding.UTF8, type), Stop);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        return [.. (await answer.Content.ReadAsStringAsync(Stop)).Split('\n', StringSplitOptions.RemoveEmptyEntries)
            .Select(l => JsonSerializer.Deserialize<JsonElement>(l))];
    }

    private Task<(HttpStatusCode Status, JsonElement Body, string? Tag)> EvaluateAsync(object subject, object resource) =>
        api.AskAsync("POST", "/access/v1/evaluation", new { subject, action = new { name = "open" }, resource });
}
