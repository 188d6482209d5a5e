using System.Net;
using System.Text.Json;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

public sealed class BoardApiTests(SiteFixture fixture) : IDisposable
{
    private readonly Caller api = new(fixture.Site);

    public void Dispose() => api.Dispose();

    [Fact]
    public async Task The_board_has_a_cell_for_every_column()
    {
        var board = (await api.AskAsync("GET", "board?beneath=category:dealer-stock")).Body;
        var columns = board.GetProperty("columns").EnumerateArray().Select(c => c.GetProperty("key").GetString()!).ToList();
        columns.ShouldContain("guest");
        columns.ShouldContain("role:dealer");
        var row = board.GetProperty("rows").EnumerateArray().First(r => r.GetProperty("item").GetString() == "category:dealer-spares");
        row.GetProperty("cells").GetArrayLength().ShouldBe(columns.Count);
        row.GetProperty("cells")[columns.IndexOf("guest")].GetString().ShouldBe("hidden");
        row.GetProperty("cells")[columns.IndexOf("role:dealer")].GetString().ShouldBe("open");
        row.GetProperty("children").GetInt32().ShouldBe(4);
        await api.RefusedAsync(HttpStatusCode.NotFound, "item-unknown", "GET", "board?beneath=nothing");
    }

    [Fact]
    public async Task The_board_is_searched_and_looked_at_on_another_date()
    {
        (await api.AskAsync("GET", "board?search=barlow")).Body.GetProperty("rows").GetArrayLength().ShouldBe(2);
        await api.AskAsync("POST", "gates", new
        {
            key = "spring", title = "Spring", covers = new[] { "category:books" }, audience = "nobody", from = "2031-01-01T00:00:00Z",
            until = "2031-02-01T00:00:00Z"
        });
        Cell((await api.AskAsync("GET", "board?search=category:books")).Body).ShouldBe("open");
        Cell((await api.AskAsync("GET", "board?search=category:books&at=2031-01-15T00:00:00Z")).Body).ShouldBe("listed");
        Cell((await api.AskAsync("GET", "board?search=category:books&at=2031-02-01T00:00:00Z")).Body).ShouldBe("open");
        await api.AskAsync("DELETE", "gates/spring", null, "*");

        static string? Cell(JsonElement board) => board.GetProperty("rows")[0].GetProperty("cells")[0].GetString();
    }

    [Fact]
    public async Task What_is_seen_is_counted_and_paged_without_the_hidden()
    {
        var first = (await api.AskAsync("GET", "seen?as=guest&limit=10")).Body;
        var total = first.GetProperty("open").GetInt32() + first.GetProperty("listed").GetInt32();
        var seen = new List<string>();
        var cursor = "";
        do
        {
            var page = (await api.AskAsync("GET", $"seen?as=guest&limit=10&cursor={cursor}")).Body;
            seen.AddRange(page.GetProperty("items").EnumerateArray().Select(i => i.GetProperty("item").GetString()!));
            cursor = page.GetProperty("next").GetString() ?? "";
        }
        while (cursor.Length > 0);
        seen.Count.ShouldBe(total);
        seen.Distinct().Count().ShouldBe(total);
        seen.ShouldNotContain("category:dealer-stock");
        first.GetProperty("hidden").GetInt32().ShouldBeGreaterThan(10);
        await api.RefusedAsync(HttpStatusCode.NotFound, "viewpoint-unknown-near", "GET", "seen?as=role:dealr");
    }

    [Fact]
    public async Task A_preview_saves_nothing_and_tells_who_loses()
    {
        var draft = new { title = "Finders", covers = new[] { "category:finders" }, audience = "role:dealer", presence = "hidden" };
        var effect = (await api.AskAsync("POST", "gates/preview", new { draft })).Body;
        effect.GetProperty("itemsClosing").GetInt32().ShouldBe(6);
        effect.GetProperty("membersLosing").GetInt32().ShouldBeGreaterThan(0);
        effect.GetProperty("rows")[0].GetProperty("after").GetString().ShouldBe("hidden");
        effect.GetProperty("sentence").GetString()!.ShouldStartWith("Finders and all in it: only dealers may");
        await api.RefusedAsync(HttpStatusCode.NotFound, "gate-unknown", "GET", "gates/finders");
        var gone = (await api.AskAsync("POST", "gates/preview", new { key = "dealer-stock" })).Body;
        gone.GetProperty("itemsOpening").GetInt32().ShouldBe(12);
    }

    [Theory]
    [InlineData("""{"siteName":""}""", "siteName")]
    [InlineData("""{"look":{"accent":"red","background":"#ffffff","links":[]}}""", "look.accent")]
    [InlineData("""{"look":{"accent":"#b00000;}","background":"#ffffff","links":[]}}""", "look.accent")]
    [InlineData("""{"look":{"accent":"#b00000","background":"#ffffff","logo":"https://evil.example/x.png","links":[]}}""", "look.logo")]
    [InlineData("""{"look":{"accent":"#b00000","background":"#ffffff","links":[{"address":"javascript:x","words":"X"}]}}""", "look.links")]
    public async Task Settings_that_would_break_a_page_are_refused(string body, string field)
    {
        var problem = await api.RefusedAsync(
            HttpStatusCode.UnprocessableEntity, "settings-invalid", "PUT", "settings", JsonSerializer.Deserialize<JsonElement>(body), "*");
        problem.GetProperty("errors")[0].GetProperty("field").GetString().ShouldBe(field);
    }

    [Fact]
    public async Task Questions_that_cannot_be_understood_are_told_so()
    {
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "act-unknown", "POST", "decisions/may", new
        { visitor = "guest", act = "opn", item = "site" });
        await api.RefusedAsync(HttpStatusCode.NotFound, "item-unknown-near", "POST", "decisions/may", new { visitor = "guest", item = "product:fern-26" });
        await api.RefusedAsync(HttpStatusCode.NotFound, "visitor-unknown-member", "POST", "decisions/why", new { visitor = "nobody@x.example", item = "site" });
        await api.RefusedAsync(HttpStatusCode.UnprocessableEntity, "path-ambiguous", "POST", "decisions/may", new { visitor = "guest", path = "/a%2fb" });
        var facts = (await api.AskAsync("POST", "decisions/may", new { visitor = "role:dealer,group:institutions", item = "category:observatory-grade" })).Body;
        facts.GetProperty("allowed").GetBoolean().ShouldBeTrue();
        var owner = (await api.AskAsync("POST", "decisions/why", new { visitor = RunningSite.Owner, item = "category:dealer-stock" })).Body;
        owner.GetProperty("steps").EnumerateArray().Last().GetProperty("title").GetString().ShouldBe("Staff");
    }
}
