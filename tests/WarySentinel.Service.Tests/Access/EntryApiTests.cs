using System.Net;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Entries;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>What one entry is: found on the shop's pages, tried, kept, and in force at once; the sweep finds what is left without.</summary>
public sealed class EntryApiTests : IAsyncLifetime
{
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync() => site = await RunningSite.StartAsync();

    public ValueTask DisposeAsync() => site.DisposeAsync();

    [Fact]
    public async Task Cards_are_found_tried_and_kept_and_the_sweep_sees_what_was_left_of_them()
    {
        await site.Client.AddItemAsync("page:lookbook", "Lookbook", [], ["/lookbook"], Stop);
        await site.Client.AddItemAsync("page:product-data", "Product data", [], ["/api/products"], Stop);
        await site.Client.AddGateAsync(new Contract.Gates.GateDraft
        { Key = "trade-prices", Title = "Trade prices", Covers = ["category:mounts"], Acts = ["price"], Audience = "role:dealer" }, Stop);
        var before = await SweepApiTests.RunAsync(site, new Contract.Sweep.SweepDraft(null, null, null, null, null));
        before.Findings.Where(f => f.Kind == "husk").Select(f => f.Address).ShouldBe(["/api/products", "/lookbook"]);
        before.Findings.First(f => f.Kind == "husk" && f.Address == "/lookbook").What.ShouldContain("/product/");

        var found = (await site.Client.ProposeEntriesAsync("/lookbook", Stop)).Proposals;
        found.Select(p => (p.Draft.Entry, p.Draft.Behind, p.Draft.Price, p.Items)).ShouldBe(
            [("div.piece", null, ".price", found[0].Count), ("$[*]", "window.__SHELF__", null, found[0].Count)]);
        var tried = await site.Client.TryEntryAsync(new EntryTrial(found[0].Draft, "/lookbook"), Stop);
        (tried.Goes + tried.Stays).ShouldBe(found[0].Count);
        tried.Entries.Where(e => e.Fate == "goes").Select(e => e.Item).ShouldContain("Case of 6 Fern 40 mm");
        tried.Entries.Single(e => e.Item == "Stork equatorial mount").Fate.ShouldBe("without-price");
        tried.Page!.ShouldContain("data-wary-entry=\"goes\"");
        tried.Page!.ShouldNotContain("<script");
        (await site.Client.TryEntryAsync(new EntryTrial(found[0].Draft, "/lookbook", "role:dealer"), Stop)).Goes.ShouldBeLessThan(tried.Goes);

        await site.Client.PutEntryAsync("lookbook", found[0].Draft, Stop);
        await site.Client.PutEntryAsync("shelf", found[1].Draft, Stop);
        await site.Client.PutEntryAsync("products", (await site.Client.ProposeEntriesAsync("/api/products", Stop)).Proposals[0].Draft, Stop);
        using var guest = site.NewBrowser();
        var page = await (await guest.GetAsync("/lookbook")).Content.ReadAsStringAsync(Stop);
        page.ShouldNotContain("Case of 6");
        page.ShouldNotContain("€ 1,290");
        page.ShouldContain("Stork equatorial mount");
        var after = await SweepApiTests.RunAsync(site, new Contract.Sweep.SweepDraft(null, null, null, null, null));
        after.Findings.ShouldNotContain(f => f.Kind == "husk");
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await (await nell.GetAsync("/lookbook")).Content.ReadAsStringAsync(Stop)).ShouldContain("€ 1,290");
        (await (await nell.GetAsync("/api/products")).Content.ReadAsStringAsync(Stop)).ShouldContain("case-fern-40");
        (await (await guest.GetAsync("/api/products")).Content.ReadAsStringAsync(Stop)).ShouldNotContain("case-fern-40");
    }

    [Theory]
    [InlineData(".a + .b", null, null, "entry", "selector-too-much")]
    [InlineData("", null, null, "entry", "entry-needed")]
    [InlineData("$.a[", null, null, "entry", "entry-path")]
    [InlineData("$.a", "@", null, "price", "entry-price-inside")]
    [InlineData("$.a", null, "product:", "about", "entry-about")]
    [InlineData(".a", null, "product:{x}", "about", "entry-only-data")]
    public async Task What_is_no_rule_is_refused_beside_its_field(string entry, string? price, string? about, string field, string code)
    {
        var refused = await Should.ThrowAsync<SentinelException>(() => site.Client.PutEntryAsync(
            "bad", new EntryDraft { At = ["/x"], Entry = entry, Price = price, About = about }, Stop));
        refused.Faults.ShouldContain(f => f.Field == field, code);
        (await Should.ThrowAsync<SentinelException>(() => site.Client.PutEntryAsync("bad", new EntryDraft { At = ["x"], Entry = ".a" }, Stop)))
            .Faults.ShouldContain(f => f.Field == "at");
        (await Should.ThrowAsync<SentinelException>(() => site.Client.RemoveEntryAsync("none", Stop))).Status.ShouldBe(HttpStatusCode.NotFound);
        (await Should.ThrowAsync<SentinelException>(() => site.Client.ProposeEntriesAsync("//evil.example/", Stop)))
            .Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
        (await Should.ThrowAsync<SentinelException>(() => site.Client.ProposeEntriesAsync("/no-such", Stop)))
            .Status.ShouldBe(HttpStatusCode.UnprocessableEntity);
    }

    [Fact]
    public async Task Six_at_once_are_all_kept()
    {
        await Task.WhenAll(Enumerable.Range(0, 6).Select(n => site.Client.PutEntryAsync($"r{n}", new EntryDraft { At = ["/x"], Entry = $".c{n}" }, Stop)));
        (await site.Client.EntriesAsync(Stop)).Select(r => r.Key).ShouldBe(Enumerable.Range(0, 6).Select(n => $"r{n}"));
    }
}
