using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Shouldly;
using WarySentinel.Contract.Sweep;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Sweep;

/// <summary>A shop that closes its pages by its own code, and forgets something each time.</summary>
public sealed class CarelessShopTests
{
    private const string Bots = "Googlebot";

    /// <summary>Pages that are refused to a browser and given out to whoever asks in another way.</summary>
    private static readonly Dictionary<string, Func<HttpRequest, bool>> Ways = new()
    {
        ["data"] = r => r.Headers.Accept == "application/json",
        ["script"] = r => r.Headers["X-Requested-With"] == "XMLHttpRequest",
        ["crawler"] = r => r.Headers.UserAgent.ToString().Contains(Bots, StringComparison.OrdinalIgnoreCase),
        ["referred"] = r => r.Headers.Referer.ToString().Contains("//www.", StringComparison.Ordinal),
        ["inside"] = r => r.Headers["X-Forwarded-For"] == "127.0.0.1",
        ["part"] = r => r.Headers.Range.Count > 0,
        ["post"] = r => r.Method == "POST",
        ["host"] = r => r.Host.Host == "localhost",
    };

    private static readonly string[] Refusals = ["redirect", "overlay", "gone"];

    private static readonly string[] Closed = ["well", "and-truly", "umlaut"];

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private static string Words(string page, int many = 90) =>
        string.Join(' ', Enumerable.Range(0, many).Select(n => $"{page.Replace("-", "", StringComparison.Ordinal)}{n}word"))
            .Replace("umlaut", "ümläut", StringComparison.Ordinal);

    /// <summary>Copies of a guarded page in the character set of old pages: said by the answer, by the page, by nobody.</summary>
    private static readonly Dictionary<string, (string Type, string Head)> Latin = new()
    {
        ["/latin"] = ("text/html; charset=iso-8859-1", ""),
        ["/meta"] = ("text/html", "<meta charset=windows-1252>"),
        ["/trial"] = ("text/html", ""),
    };

    private static string Page(string title, string body) =>
        "<!doctype html><html><body><nav><a href=/>Home of all the lamps</a> <a href=/visit>Come and visit us on any "
        + $"clear night of the year</a></nav><main><h1>{title}</h1>{body}</main></body></html>";

    private static readonly Dictionary<string, string> Open = new()
    {
        ["/"] = Page("Lamps", "<p>Good light.</p><a href=/mounts>Mounts</a> <a href=/visit>Visit</a> <a href=/app.js>x</a>"
            + "<a href=/latin>l</a> <a href=/meta>m</a> <a href=/trial>t</a>"),
        ["/visit"] = Page("Visit", "<p>By night.</p><p>Entry €&nbsp;4</p>"),
        ["/mounts"] = Page("Mounts", "<div class=card><h3><a href=/mount/heron>Heron</a></h3><span>€ 1,499.00</span></div>"
            + "<div class=card><h3><a href=/mount/egret>Egret</a></h3><span>€ 80.00</span></div>"
            + "<div class=card><h3><a href=/mount/ibis>Ibis</a></h3><span>€ 50</span></div>"),
        ["/mount/ibis"] = Page("Ibis", "<p class=price>€ 50</p><p>Sign in to see trade prices.</p>"),
        ["/mount/heron"] = Page("Heron", "<p class=price>1499</p><p>Free delivery of any order over two hundred euros, that is from € 200 upwards.</p>"
            + "<div class=card><a href=/mount/egret>Egret</a> <b>€ 80.00</b></div>"),
        ["/mount/stork"] = Page("Stork", "<p>Sign in to see prices.</p><div class=card><a href=/mount/egret>Egret</a> <b>€ 80.00</b></div>"),
        ["/mount/egret"] = Page("Egret", "<p class=price>€ 80.00</p>"),
        ["/mount/crane"] = Page("Crane", "<script type=application/ld+json>{\"name\":\"Crane\",\"offers\":{\"price\":\"912.00\"}}</script>"),
        ["/mounts.json"] = "[{\"sku\":\"heron\",\"price\":1499},{\"sku\":\"egret\",\"price\":80}]",
        ["/app.js"] = "fetch('/mounts.json')",
    };

    private static async Task<WebApplication> ShopAsync()
    {
        var app = SmallSite.At();
        app.Run(async http =>
        {
            var path = http.Request.Path.Value!;
            if (Latin.TryGetValue(path, out var latin))
            {
                http.Response.ContentType = latin.Type;
                await http.Response.Body.WriteAsync(System.Text.Encoding.Latin1.GetBytes($"<html>{latin.Head}<p>{Words("umlaut")}</p>"), Stop);
                return;
            }

            var steered = http.Request.Headers["X-Original-URL"].ToString();
            var name = steered == "/members/steered" ? steered : path;
            var key = name.StartsWith("/members/", StringComparison.Ordinal) ? name["/members/".Length..] : "";
            http.Response.ContentType = path.EndsWith(".json", StringComparison.Ordinal) ? "application/json" : "text/html";
            var isPage = Ways.ContainsKey(key) || Refusals.Contains(key) || Closed.Contains(key) || key == "steered";
            var (status, body) = key.Length == 0 && Open.TryGetValue(path, out var open) ? (200, open)
                : !isPage ? (404, Page("Nothing", "<p>Nothing is here.</p>"))
                : Ways.TryGetValue(key, out var way) && way(http.Request) || name == steered ? (200, Page(key, $"<p>{Words(key)}</p>"))
                : Refused(key);
            http.Response.StatusCode = status;
            http.Response.Headers.Location = status == 302 ? "/account/sign-in" : default;
            await http.Response.WriteAsync(body, Stop);
        });
        await app.StartAsync(Stop);
        return app;
    }

    private static (int Status, string Body) Refused(string key) => key switch
    {
        "redirect" => (302, Page(key, $"<p>{Words(key)}</p>")),
        "overlay" => (403, Page(key, $"<div class=overlay>Members only</div><p style='filter:blur(4px)'>{Words(key)}</p>")),
        "gone" => (404, Page("Nothing", "<p>Perhaps you looked for <a href=/members/well>this</a>?</p>")),
        "and-truly" => (403, Page("Members only", "<p>It begins like this: " + Words(key, 12) + " …</p>")),
        _ => (403, Page("Members only", "<p>Sign in first.</p>")),
    };

    /// <summary>The guarded pages as their owner reads them, around all of it.</summary>
    private static async Task<WebApplication> OriginAsync()
    {
        var app = SmallSite.At();
        app.Run(async http =>
        {
            var path = http.Request.Path.Value!;
            // What it takes out of a page that says two prices, it closes: the other is for all.
            var body = path == "/mount/ibis" ? Page("Ibis", "<p class=price>€ 50</p><p class=price>€ 40</p>")
                : path.StartsWith("/members/", StringComparison.Ordinal) ? Page(path[9..], $"<p>{Words(path[9..])}</p>") : Open.GetValueOrDefault(path);
            http.Response.ContentType = "text/html";
            http.Response.StatusCode = body is null ? 404 : 200;
            await http.Response.WriteAsync(body ?? "", Stop);
        });
        await app.StartAsync(Stop);
        return app;
    }

    private static string Policy() => "items:\n  - { id: site, title: Lamps, addresses: [/] }\n  - { id: \"page:visit\", title: Visit, addresses: [/visit] }\n"
        + "  - { id: \"section:members\", title: Members, addresses: [] }\n  - { id: \"category:mounts\", title: Mounts, addresses: [/mounts] }\n"
        + string.Concat(Ways.Keys.Concat(Refusals).Concat(Closed).Append("steered").Select(
            k => $"  - {{ id: \"page:{k}\", title: \"Page of {k} words\", parents: [\"section:members\"], addresses: [/members/{k}] }}\n"))
        + string.Concat(new[] { "heron", "stork", "crane", "egret", "ibis" }.Select(
            k => $"  - {{ id: \"product:{k}\", title: {k}, parents: [\"category:mounts\"], addresses: [/mount/{k}] }}\n"))
        + "gates:\n  - { key: members, title: Members, covers: [\"section:members\"], audience: signed-in, presence: hidden }\n"
        + "  - { key: trade, title: Trade prices, covers: [\"product:heron\", \"product:stork\", \"product:crane\", \"product:ibis\"], "
        + "acts: [price], audience: signed-in }\n";

    [Fact]
    public async Task All_that_it_forgets_is_found_and_of_what_is_well_closed_nothing_is_said()
    {
        await using var shop = await ShopAsync();
        await using var origin = await OriginAsync();
        var address = shop.Urls.First();
        await using var site = await RunningSite.StartAsync(origin.Urls.First(), [$"--Wary:FetchHosts:0={new Uri(address).Authority}"], empty: true);
        var client = await site.OwnAsync(Policy(), Stop);
        var last = await client.SweepAsync(new SweepDraft(null, address, null, null, null) { Draw = 0 }, Stop).LastAsync(Stop);
        var found = last.Report.ShouldNotBeNull(last.Detail).Findings.Where(f => f.IsLeak).ToList();
        var said = string.Join('\n', found.Select(f => $"{f.Kind} {f.Address} {f.What}"));
        var expected = Ways.Keys.Concat(Refusals).Append("steered").Select(k => "/members/" + k)
            .Concat(Latin.Keys).Concat(["/mounts", "/mount/heron", "/mount/crane", "/mounts.json"]).Order(StringComparer.Ordinal);
        found.Select(f => f.Address).Distinct().Order(StringComparer.Ordinal).ShouldBe(expected, said);
        found.Where(f => f.Address.StartsWith("/mount", StringComparison.Ordinal)).ShouldAllBe(
            f => f.Kind == "priced" && !f.What.Contains("egret") && !f.What.Contains("ibis"), said);
        found.Single(f => f.Address == "/members/post").What.ShouldContain("POST");
        found.ShouldAllBe(f => f.Mend.Length > 10);
    }
}
