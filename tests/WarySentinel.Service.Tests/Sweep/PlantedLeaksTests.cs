using System.Text;
using System.Text.Json;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.People;
using WarySentinel.Contract.Sweep;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Sweep;

/// <summary>A site that leaks in many ways, behind the gateway and behind a web server that asks the check: what is not closed by that is found.</summary>
public sealed class PlantedLeaksTests
{
    private const string Mirror = "Grinding begins with the coarse stone. Walk around the barrel, turn the glass a little each time, and never hurry the last "
        + "strokes; a mirror that was hurried shows it for as long as it lives. Rinse well between the grades and keep your sleeves clean.";

    private const string Quarry = "Leave the moor road at the second cattle grid and park behind the wall. From there it is eleven minutes on foot to the old "
        + "quarry floor, which is the darkest place within an hour of the dome. Tell somebody before you go, and take the path back by daylight.";

    private static readonly (string At, string Type, string Body)[] Leaks =
    [
        ("/searchindex.js", "text/javascript", $"Search.setIndex({{docs:['mirror'],titles:['The Quiet Mirror'],texts:[{JsonSerializer.Serialize(Mirror)}]}})"),
        ("/_sources/members/mirror.rst.txt", "text/plain", "The Quiet Mirror\n================\n\n" + Mirror.Replace(". ", ".\n", StringComparison.Ordinal)),
        ("/api/list.json", "application/json", "[{\"name\":\"The Quiet Mirror\",\"price\":40},{\"name\":\"Dome drive, second hand\",\"price\":900}]"),
        ("/map.html", "text/html", "<map><area shape=rect coords=0,0,9,9 href=/members/quarry></map>"),
        ("/feed.xml", "application/rss+xml", "<rss><channel><item><title>x</title><link>/members/mirror</link></item></channel></rss>"),
        ("/members/mirror.bak", "text/plain", Mirror),
        ("/members/quarry~", "application/octet-stream", Quarry),
        ("/print/members/quarry", "text/html", $"<html><body><p>{Quarry}</p></body></html>"),
        ("/members/mirror.json", "application/json", JsonSerializer.Serialize(new { body = "<p>" + Mirror + "</p>" })),
        ("/js/app.js.map", "application/json", JsonSerializer.Serialize(new { sourcesContent = new[] { "const words = `" + Quarry + "`;" } })),
        ("/export.csv", "text/csv", "title;words\nx;\"" + Mirror + "\"\n"),
        ("/calendar.ics", "text/calendar", "BEGIN:VEVENT\nSUMMARY:The Quiet Mirror\nEND:VEVENT\n"),
        ("/sitemap.txt", "text/plain", "http://localhost/\n/members/quarry\n"),
        ("/robots.txt", "text/plain", "User-agent: *\nDisallow: /members/quarry\n"),
        ("/amp/members/mirror", "text/html", $"<html amp><body>{Mirror.Replace(" ", " <i></i>", StringComparison.Ordinal)}</body></html>"),
        ("/tag.html", "text/html", $"<html><body><div data-preview=\"{Quarry}\">A place</div></body></html>"),
        ("/comment.html", "text/html", $"<html><body><p>Nothing here.</p><!-- {Mirror} --></body></html>"),
        ("/state.html", "text/html",
            "<html><body><div id=app></div><script>window.__STATE__={\"items\":[{\"t\":\"Dome drive, second hand\"}]}</script></body></html>"),
        ("/header.html", "text/html", "<html><body>A page with a header.</body></html>"),
        ("/archive/2019.html", "text/html", $"<html><body><h1>From the archive</h1><p>{Mirror}</p><p>{Quarry}</p></body></html>"),
    ];

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static string Page(string title, string body) =>
        $"<!doctype html><html><head><title>{title}</title></head><body><nav><a href=/>Home</a></nav><main><h1>{title}</h1>{body}</main></body></html>";

    private static async Task<WebApplication> OriginAsync(bool leaks)
    {
        var app = SmallSite.At();
        var (links, pages) = ("", new Dictionary<string, (string Type, string Body)>(StringComparer.Ordinal));
        if (leaks)
        {
            links = "<a href=/map.html>Map</a> <a href=tag.html>Tag</a> <a href=comment.html>C</a> <a href=state.html>S</a> <a href=header.html>H</a>"
                + "<a href=archive/2019.html>A</a> <a href='/export.csv'>CSV</a> <a href=/calendar.ics>Dates</a><script src=/js/app.js></script>"
                + "<form action=/find><input name=q></form>";
            foreach (var (at, type, body) in Leaks)
            {
                pages[at] = (type, body);
            }

            pages["/js/app.js"] = ("text/javascript", "fetch('/api/list.json').then(show);\n//# sourceMappingURL=app.js.map");
        }

        pages["/"] = ("text/html", Page("The hill", "<p>Welcome to the hill, where the nights are long.</p>" + links));
        pages["/visit"] = ("text/html", Page("Visit", "<p>We are open on clear nights, from dusk until the last guest has gone home.</p>"));
        pages["/members/mirror"] = ("text/html", Page("The Quiet Mirror", $"<p>{Mirror}</p>"));
        pages["/members/quarry"] = ("text/html", Page("The old quarry", $"<p>{Quarry}</p>"));
        pages["/product/dome"] = ("text/html", Page("Dome drive, second hand", "<p>One owner, eleven winters, new belt.</p>"));
        app.Run(async http =>
        {
            var at = http.Request.Path + http.Request.QueryString.ToString();
            if (leaks && http.Request.Path == "/find")
            {
                var isFound = http.Request.Query["q"].ToString().Contains("Mirror", StringComparison.Ordinal);
                await Html(http, Page("Found", $"<ul><li>{(isFound ? Mirror : "")}</li></ul>"));
                return;
            }

            if (!pages.TryGetValue(at, out var page))
            {
                http.Response.StatusCode = 404;
                return;
            }

            http.Response.ContentType = page.Type;
            if (at == "/header.html")
            {
                http.Response.Headers.Append("Link", "</members/quarry>; rel=next");
            }

            await http.Response.WriteAsync(page.Body);
        });
        await app.StartAsync(Stop);
        return app;
    }

    private static Task Html(HttpContext http, string page)
    {
        http.Response.ContentType = "text/html";
        return http.Response.WriteAsync(page);
    }

    /// <summary>A web server in front of the site that asks the check for each request, as nginx does, and filters nothing.</summary>
    private static async Task<WebApplication> FrontAsync(string address, string origin, string check)
    {
        var (app, client) = (SmallSite.At(address), new HttpClient(new HttpClientHandler { UseCookies = false, AllowAutoRedirect = false }));
        app.Run(async http =>
        {
            var target = http.Request.Path.ToUriComponent() + http.Request.QueryString;
            using var ask = new HttpRequestMessage(HttpMethod.Get, check + "/sentinel/check");
            ask.Headers.TryAddWithoutValidation("X-Original-URI", target);
            using var asked = await client.SendAsync(ask);
            if (!asked.IsSuccessStatusCode)
            {
                http.Response.StatusCode = (int)asked.StatusCode;
                return;
            }

            using var given = await client.GetAsync(origin + target);
            http.Response.StatusCode = (int)given.StatusCode;
            http.Response.ContentType = given.Content.Headers.ContentType?.ToString();
            foreach (var link in given.Headers.TryGetValues("Link", out var links) ? links : [])
            {
                http.Response.Headers.Append("Link", link);
            }

            await given.Content.CopyToAsync(http.Response.Body);
        });
        await app.StartAsync(Stop);
        return app;
    }

    private const string Policy = """
        items:
          - { id: site, title: The hill, addresses: [/] }
          - { id: "page:visit", title: Visit, addresses: [/visit] }
          - { id: "section:members", title: Members, addresses: [] }
          - { id: "page:mirror", title: The Quiet Mirror, parents: ["section:members"], addresses: [/members/mirror] }
          - { id: "page:quarry", title: The old quarry, parents: ["section:members"], addresses: [/members/quarry] }
          - { id: "product:dome", title: "Dome drive, second hand", addresses: [/product/dome] }
        gates:
          - { key: members, title: For members, covers: ["section:members", "product:dome"], audience: signed-in, presence: hidden }

        """;

    private static async Task<(RunningSite Site, SentinelClient Client)> SiteAsync(string origin, string front, string policy)
    {
        var site = await RunningSite.StartAsync(
            origin, [$"--Wary:FetchHosts:0={new Uri(front).Authority}", $"--Wary:FetchHosts:1={new Uri(origin).Authority}"], empty: true);
        return (site, await site.OwnAsync(policy, Stop));
    }

    private static async Task<SweepReport> SweepAsync(SentinelClient client, string? at)
    {
        var last = await client.SweepAsync(new SweepDraft(["signed-in"], at, null, null, null) { Draw = 0 }, Stop).LastAsync(Stop);
        return last.Report.ShouldNotBeNull(last.Detail);
    }

    [Fact]
    public async Task Behind_a_server_that_only_asks_all_of_them_are_found_each_with_a_word_on_how_to_mend_it()
    {
        await using var origin = await OriginAsync(true);
        var address = $"http://127.0.0.1:{RunningSite.FreePort()}";
        var (site, client) = await SiteAsync(origin.Urls.First(), address, Policy);
        await using var first = site;
        await using var front = await FrontAsync(address, origin.Urls.First(), site.Site);
        var report = await SweepAsync(client, address);
        var found = report.Findings.Where(f => f.IsLeak).ToList();
        Leaks.Select(l => l.At).Append("/find").Where(at => !found.Exists(f => f.Address.StartsWith(at, StringComparison.Ordinal))).ShouldBeEmpty(
            string.Join('\n', found.Select(f => $"{f.Kind} {f.Address} {f.What}")));
        found.ShouldAllBe(f => f.Mend.Length > 10 && f.What.Length > 10);
        found.Where(f => Leaks.All(l => !f.Address.StartsWith(l.At, StringComparison.Ordinal)) && !f.Address.StartsWith("/find", StringComparison.Ordinal))
            .ShouldBeEmpty();
        report.Warnings.ShouldBeEmpty();
    }

    [Fact]
    public async Task Behind_the_gateway_what_it_does_not_close_by_itself_is_found()
    {
        await using var origin = await OriginAsync(true);
        var (site, client) = await SiteAsync(origin.Urls.First(), "http://127.0.0.1:1", Policy);
        await using var first = site;
        var report = await SweepAsync(client, null);
        var found = report.Findings.Where(f => f.IsLeak).Select(f => f.Address.Split('&')[0]).ToList();
        // Links of pages, feeds and headers it leaves out, and a list of addresses; the words of pages and the titles in data are no links.
        string[] closed = ["/map.html", "/feed.xml", "/header.html"];
        Leaks.Select(l => l.At).Except(closed).Where(at => !found.Contains(at)).ShouldBeEmpty(
            string.Join('\n', report.Findings.Select(f => $"{f.Kind} {f.Address} {f.What}")));
    }

    [Fact]
    public async Task A_site_without_leaks_has_none_and_what_proves_nothing_is_said()
    {
        await using var origin = await OriginAsync(false);
        var address = $"http://127.0.0.1:{RunningSite.FreePort()}";
        var (site, client) = await SiteAsync(origin.Urls.First(), address, Policy);
        await using var first = site;
        await using var front = await FrontAsync(address, origin.Urls.First(), site.Site);
        (await SweepAsync(client, null)).ShouldSatisfyAllConditions(r => r.Leaks.ShouldBe(0), r => r.Warnings.ShouldBeEmpty(), r => r.Guarded.ShouldBe(3));
        (await SweepAsync(client, address)).Leaks.ShouldBe(0);

        using var caller = new Caller(site);
        await caller.AskAsync("POST", "gates", new { key = "later", title = "Later", covers = new[] { "tag:later" }, audience = "signed-in" });
        await caller.AskAsync("POST", "items", new { id = "tag:later", title = "Later" });
        await caller.AskAsync("POST", "gates", new { key = "later", title = "Later", covers = new[] { "tag:later" }, audience = "signed-in" });
        (await SweepAsync(client!, null)).Warnings.ShouldHaveSingleItem().ShouldContain("covers no address");
        await caller.AskAsync("DELETE", "gates/members", null, "*");
        (await SweepAsync(client!, null)).Warnings[0].ShouldContain("proved nothing");
        await origin.StopAsync(Stop);
        (await SweepAsync(client!, null)).Warnings[0].ShouldContain("Nothing came back");
    }
}
