using System.Net;
using System.Text;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Service.Nodes;
using WarySentinel.StandIns.Mailbox;
using WarySentinel.StandIns.PageCache;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>The sweep against real listeners: the gateway, the bare shop, a heedless cache, an origin that misbehaves.</summary>
public sealed class SweepApiTests(SiteFixture fixture)
{
    private readonly RunningSite site = fixture.Site;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task The_shop_names_dealer_stock_in_what_the_gateway_does_not_filter()
    {
        var report = await RunAsync(site, new Contract.Sweep.SweepDraft(["role:dealer"], null, null, null, null));
        var leaks = report.Findings.Where(f => f.IsLeak).ToList();
        // What the shop's own search reads is found too, though no page of the catalogue leads there.
        leaks.Select(f => (f.Address, f.Kind, f.As)).ShouldBe(
            [("/products.json", "listed", "guest"), ("/search-index.js", "listed", "guest"), ("/print/members/coordinates", "copied", "guest")]);
        leaks[2].What.ShouldContain("/members/coordinates");
        leaks[0].Mend.ShouldContain("a gate of its own");
        (report.Leaks, report.Closed, report.Missing).ShouldBe((3, 0, 0), string.Join('\n', report.Findings));
        (await site.Client.LatestSweepAsync(Stop)).Id.ShouldBe(report.Id);
    }

    [Fact]
    public async Task The_bare_shop_is_found_out_when_it_is_asked_directly()
    {
        var report = await RunAsync(site, new Contract.Sweep.SweepDraft(null, null, site.Origin, null, null));
        report.Findings.Where(f => f.Via == "origin").ShouldAllBe(f => f.Kind == "around" && f.As == "guest");
        report.Findings.ShouldContain(f => f.Address == "/shop/dealer-stock" && f.Via == "origin");
    }

    [Fact]
    public async Task A_cache_that_keeps_members_pages_betrays_itself_in_one_order_or_the_other()
    {
        var address = $"http://127.0.0.1:{RunningSite.FreePort()}";
        await using var named = await RunningSite.StartAsync(settings: [$"--Wary:FetchHosts:0={new Uri(address).Authority}"]);
        await using var cache = HeedlessCache.Build(named.Site, address);
        await cache.StartAsync(Stop);
        var report = await RunAsync(named, new Contract.Sweep.SweepDraft(["role:dealer"], null, null, address, null));
        report.Findings.ShouldContain(f => f.Kind == "reachable" && f.Via == "cache" && f.As == "guest" && f.Address == "/product/case-fern-40");
        report.Findings.ShouldContain(f => f.Kind == "cacheable" && f.Via == "cache");
        report.Findings.Where(f => f.Via == "public" && f.IsLeak).Select(f => f.Address)
            .ShouldBe(["/products.json", "/search-index.js", "/print/members/coordinates"]);
    }

    [Fact]
    public async Task A_site_that_closes_pages_of_its_own_accord_is_told_of()
    {
        await using var origin = await MoodyAsync();
        await using var moody = await RunningSite.StartAsync(origin.Urls.First());
        var report = await RunAsync(moody, new Contract.Sweep.SweepDraft(null, null, null, null, null));
        report.Findings.ShouldContain(f => f.Kind == "closed" && f.Address == "/shop/books" && !f.IsLeak);
        report.Missing.ShouldBeGreaterThan(10);
        report.Leaks.ShouldBe(0);
    }

    [Fact]
    public async Task After_a_change_of_one_gate_just_that_is_asked_for()
    {
        var part = await RunAsync(site, new Contract.Sweep.SweepDraft(null, null, null, null, null) { Gate = "clearance-vault", AtOnce = 2 });
        var whole = await RunAsync(site, new Contract.Sweep.SweepDraft(null, null, null, null, null));
        (part.Guarded, part.Leaks).ShouldBe((6, 0));
        part.Requests.ShouldBeLessThan(whole.Requests / 2);
        var last = await site.Client.SweepAsync(new Contract.Sweep.SweepDraft(null, null, null, null, null) { Gate = "vault" }, Stop).LastAsync(Stop);
        last.Detail!.ShouldContain("vault");
    }

    [Fact]
    public async Task A_bound_is_kept_and_said()
    {
        var report = await RunAsync(site, new Contract.Sweep.SweepDraft(null, null, null, null, 5));
        report.LeftOut.ShouldBeGreaterThan(50);
    }

    [Theory]
    [InlineData("role:dealr", null, "Did you mean “role:dealer”?")]
    [InlineData("nobody@nowhere.example", null, "no member")]
    [InlineData("guest", "ftp://x", "not an http")]
    [InlineData("guest", "http://x/path", "not an http")]
    public async Task What_cannot_be_swept_is_said(string viewpoint, string? origin, string words)
    {
        var last = await site.Client.SweepAsync(new Contract.Sweep.SweepDraft([viewpoint], null, origin, null, null), Stop).LastAsync(Stop);
        last.Stage.ShouldBe("failed");
        last.Detail!.ShouldContain(words);
    }

    [Fact]
    public async Task It_runs_by_itself_and_tells_of_leaks_by_mail()
    {
        var clock = new FakeTimeProvider(DateTimeOffset.UtcNow);
        var port = RunningSite.FreePort();
        await using var mailbox = new SmtpMailbox(port);
        await using var own = await RunningSite.StartAsync(
            settings: [$"--Wary:Smtp=smtp://127.0.0.1:{port}", "--Wary:MailFrom=lamp@fernlight.example"], time: clock);
        using var caller = new Caller(own);
        var wrong = await caller.AskAsync("PUT", "settings", new { sweep = new { everyHours = 6, alertTo = "nonsense", @as = new[] { "role:none" } } }, "*");
        wrong.Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        wrong.Body.GetProperty("errors").GetArrayLength().ShouldBe(2);
        (await caller.AskAsync("PUT", "settings", new
        { sweep = new { everyHours = 6, alertTo = "owner@fernlight.example", @as = new[] { "signed-in" } } }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        var rounds = own.Services.GetRequiredService<Jobs>();
        await rounds.OnceAsync(Stop);
        await rounds.OnceAsync(Stop);
        var letter = mailbox.Letters.ShouldHaveSingleItem();
        letter.To.ShouldBe(["owner@fernlight.example"]);
        letter.Text.ShouldContain("/products.json");
        letter.Text.ShouldContain(own.Admin + "/sweep");
        clock.Advance(TimeSpan.FromHours(7));
        await rounds.OnceAsync(Stop);
        mailbox.Letters.Count.ShouldBe(2);
    }

    internal static async Task<Contract.Sweep.SweepReport> RunAsync(RunningSite site, Contract.Sweep.SweepDraft draft)
    {
        // Another test may be sweeping the same site.
        for (var n = 0; ; n++)
        {
            var last = await site.Client.SweepAsync(draft, Stop).LastAsync(Stop);
            if (last.Report is { } report)
            {
                return report;
            }

            last.Detail.ShouldBe("A sweep is running already.");
            n.ShouldBeLessThan(200);
            await Task.Delay(100, Stop);
        }
    }

    private static async Task<WebApplication> MoodyAsync()
    {
        var app = SmallSite.At($"http://127.0.0.1:{RunningSite.FreePort()}");
        app.MapGet("/shop/books", () => Results.StatusCode(403));
        app.MapGet("/", () => Results.Text("<p>hello</p>", "text/html", Encoding.UTF8));
        await app.StartAsync();
        return app;
    }
}
