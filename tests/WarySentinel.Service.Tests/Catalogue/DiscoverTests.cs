using System.IO.Compression;
using System.Text;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Catalogue;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Catalogue;

/// <summary>The catalogue coming in by itself, from an origin that says things in many ways.</summary>
public sealed class DiscoverTests : IAsyncLifetime
{
    private readonly string address = $"http://127.0.0.1:{RunningSite.FreePort()}";
    private readonly List<string> asked = [];
    private WebApplication origin = null!;
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        origin = SmallSite.At(address);
        origin.Use((http, next) =>
        {
            lock (asked)
            {
                asked.Add(http.Request.Path);
            }

            return next(http);
        });
        IResult Xml(string text) => Results.Text(text, "application/xml", Encoding.UTF8);
        IResult Html(string text) => Results.Text("<html><body>" + text + "</body></html>", "text/html", Encoding.UTF8);
        origin.MapGet("/sitemap.xml", () =>
            Xml("<sitemapindex xmlns='http://www.sitemaps.org/schemas/sitemap/0.9'>"
                + "<sitemap><loc>https://public.example/a.xml</loc></sitemap><sitemap><loc>" + address
                + "/b.xml.gz</loc></sitemap><sitemap><loc>/b.xml.gz</loc></sitemap></sitemapindex>"));
        origin.MapGet("/b.xml.gz", () =>
        {
            using var packed = new MemoryStream();
            using (var gzip = new GZipStream(packed, CompressionLevel.Fastest, true))
            {
                gzip.Write(Encoding.UTF8.GetBytes($"<urlset><url><loc>{address}/wares/lamp</loc></url><url><loc>{address}/about</loc></url><url><loc>"
                    + $"https://other.example/x</loc></url></urlset>"));
            }

            return Results.Bytes(packed.ToArray(), "application/octet-stream");
        });
        origin.MapGet("/foreign.xml", () => Xml("<urlset><url><loc>https://www.wares.example/shelf</loc></url>"
            + "<url><loc>https://www.wares.example/files/list.pdf</loc></url></urlset>"));
        origin.MapGet("/atom.xml", () =>
            Xml($"<feed xmlns='http://www.w3.org/2005/Atom'><entry><title>Lamp</title><id>urn:1</id><link rel='self' href='{address}/self'/><link "
                + $"href='{address}/wares/lamp'/><category term='Lights'/></entry></feed>"));
        origin.MapGet("/rss.xml", () =>
            Xml($"<rss version='2.0'><channel><item><title>Lamp</title><link>{address}/wares/lamp</link><guid isPermaLink='false'>LMP-1</guid><category>"
                + $"Home &gt; Lights</category></item></channel></rss>"));
        origin.MapGet("/evil.xml", () => Xml("<!DOCTYPE x [<!ENTITY a SYSTEM 'file:///etc/passwd'>]><urlset><url><loc>&a;</loc></url></urlset>"));
        origin.MapGet("/robots.txt", () => "User-agent: *\nDisallow: /private\nAllow: /private/open\n");
        origin.MapGet("/",
            () => Html("<a href='/lights'>Lights</a> <a href=/private/x>x</a> <a href=/private/open>o</a> <a href='https://other.example/'>e</a> <a "
                + "rel=nofollow href=/never>n</a>"));
        origin.MapGet("/lights", () =>
            Html("<h1>Lights</h1><script type='application/ld+json'>{\"@type\":\"ItemList\",\"itemListElement\":[{\"url\":\"/wares/lamp\"}]}</script><a "
                + "href=/wares/lamp>l</a><a href=/wares/torch>t</a>"));
        origin.MapGet("/wares/lamp", () =>
            Html("<script type='application/ld+json'>{broken</script><script type='application/ld+json'>"
                + "[{\"@type\":[\"Product\"],\"name\":\"Lamp\",\"sku\":\"LMP-1\"},"
                + "{\"@type\":\"BreadcrumbList\",\"itemListElement\":[{\"position\":1,\"item\":{\"@id\":\"/\",\"name\":\"Home\"}},"
                + "{\"position\":2,\"name\":\"Lights\",\"item\":\"/lights\"},{\"position\":3,\"name\":\"Lamp\"}]}]</script>"));
        origin.MapGet("/wares/torch", () =>
            Html("<div itemscope itemtype='https://schema.org/Product'><b itemprop=name>Torch</b><meta itemprop=sku content=TRC-9></div><ol itemscope "
                + "itemtype='https://schema.org/BreadcrumbList'><li itemprop=itemListElement itemscope><a itemprop=item href=/lights><span itemprop=name>"
                + "Lights</span></a></li></ol>"));
        origin.MapGet("/about", () => Html("<h1>Who we are¶</h1>"));
        origin.MapGet("/private/open", () => Html("<h1>Open</h1>"));
        await origin.StartAsync();
        site = await RunningSite.StartAsync(address);
    }

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        await origin.DisposeAsync();
    }

    [Fact]
    public async Task A_sitemap_is_read_with_its_index_and_packed_files()
    {
        var result = (await LookAsync(new DiscoverDraft("sitemap", null, ["/wares/*=product"], null, null, null, null))).Result!;
        result.Changes.Select(c => c.Key).ShouldBe(["product:lamp", "page:about"], ignoreOrder: true);
        result.Vanished.ShouldNotBeEmpty();
        asked.Count(a => a == "/b.xml.gz").ShouldBe(1);
        asked.Count(a => a == "/about").ShouldBe(1);
        var stored = await site.Client.StoreDiscoveredAsync(result.Find, Stop);
        (stored.Added, stored.Stored).ShouldBe((2, true));
        // The page says what it is called; what says nothing is called by its address.
        (await site.Client.ItemAsync("page:about", Stop)).Title.ShouldBe("Who we are");
        (await site.Client.ItemAsync("product:lamp", Stop)).Title.ShouldBe("Lamp");
        var again = (await LookAsync(new DiscoverDraft("sitemap", null, ["/wares/*=product"], null, null, null, null))).Result!;
        (again.Result.Added, again.Result.Changed, again.Result.Same).ShouldBe((0, 0, 2));
        asked.Count(a => a == "/about").ShouldBe(1, "what the catalogue knows is not asked for again");
        (await Should.ThrowAsync<SentinelException>(() => site.Client.StoreDiscoveredAsync(result.Find, Stop))).Code.ShouldBe("find-unknown");
    }

    [Fact]
    public async Task A_sitemap_of_another_host_is_asked_about_and_read_where_it_is_the_same_site()
    {
        var foreign = await LookAsync(new DiscoverDraft("sitemap", address + "/foreign.xml", null, null, null, null, null));
        (foreign.Stage, foreign.Result).ShouldBe(("failed", null));
        foreign.Detail!.ShouldContain("All 2 addresses are of another host: www.wares.example");
        var same = await LookAsync(new DiscoverDraft("sitemap", address + "/foreign.xml", null, null, null, null, null, ["https://www.wares.example/"]));
        same.Result!.Changes.Select(c => c.Key).ShouldBe(["page:shelf", "download:list"], ignoreOrder: true);
        var mixed = await LookAsync(new DiscoverDraft("sitemap", null, ["/wares/*=product"], null, null, null, null));
        mixed.Result!.Elsewhere.ShouldContain(new ElsewhereHost("other.example", 1));
    }

    [Fact]
    public async Task The_log_of_a_web_server_tells_what_people_ask_for_and_the_catalogue_lacks()
    {
        string Asked(string path) => $"198.51.100.7 - - [28/Nov/2026:10:00:00 +0000] \"GET {path} HTTP/1.1\" 200 99 \"-\" \"Mozilla/5.0\"\n";
        var log = Encoding.UTF8.GetBytes(string.Concat(Enumerable.Range(0, 5).Select(_ => Asked("/wares/lamp")))
            + Asked("/once") + Asked("/shop/dealer-stock") + Asked("/shop/dealer-stock") + Asked("/a.css") + Asked("/a.css"));
        using var packed = new MemoryStream();
        await using (var gzip = new GZipStream(packed, CompressionLevel.Fastest, true))
        {
            await gzip.WriteAsync(log, Stop);
        }

        foreach (var body in new[] { log, packed.ToArray() })
        {
            var result = (await site.Client.DiscoverAsync(new MemoryStream(body), ["/wares/*=product"], [], "log", null, Stop).LastAsync(Stop)).Result!;
            result.Changes.Select(c => c.Key).ShouldBe(["product:lamp"]);
            result.Asked.ShouldBe([new AskedAddress("/wares/lamp", 5)]);
            (result.Lines, result.Vanished.Count).ShouldBe((10, 0));
        }

        var odd = await site.Client.DiscoverAsync(new MemoryStream(Encoding.UTF8.GetBytes("no\nlog\nat all\n")), [], [], "log", null, Stop).LastAsync(Stop);
        odd.Detail!.ShouldContain("3 of 3 lines");
    }

    [Theory]
    [InlineData("/atom.xml", "product:lamp")]
    [InlineData("/rss.xml", "product:lmp-1")]
    public async Task A_feed_brings_products_in_their_categories(string feed, string id)
    {
        var result = (await LookAsync(new DiscoverDraft("feed", address + feed, null, null, null, null, null))).Result!;
        result.Changes.Select(c => c.Key).ShouldBe(["category:lights", id], ignoreOrder: true);
        await site.Client.StoreDiscoveredAsync(result.Find, Stop);
        (await site.Client.ItemAsync(id, Stop)).Parents.ShouldBe(["category:lights"]);
    }

    [Fact]
    public async Task A_walk_reads_what_pages_say_of_themselves_and_keeps_out_where_it_is_not_wanted()
    {
        var result = (await LookAsync(new DiscoverDraft("walk", null, null, null, 0, null, null))).Result!;
        result.Whole.ShouldBeTrue();
        await site.Client.StoreDiscoveredAsync(result.Find, Stop);
        foreach (var id in new[] { "product:lmp-1", "product:trc-9" })
        {
            (await site.Client.ItemAsync(id, Stop)).Parents.ShouldBe(["category:lights"]);
        }

        (await site.Client.ItemAsync("product:trc-9", Stop)).Title.ShouldBe("Torch");
        asked.ShouldNotContain("/private/x");
        asked.ShouldNotContain("/never");
        asked.ShouldContain("/private/open");
    }

    [Fact]
    public async Task A_walk_that_broke_off_goes_on_where_it_was()
    {
        var first = (await LookAsync(new DiscoverDraft("walk", null, null, 2, 0, true, null))).Result!;
        first.Whole.ShouldBeFalse();
        first.Vanished.ShouldBeEmpty();
        var visited = asked.Count(a => a == "/");
        var second = (await LookAsync(new DiscoverDraft("walk", null, null, null, 0, true, true))).Result!;
        second.Whole.ShouldBeTrue();
        asked.Count(a => a == "/").ShouldBe(visited);
        second.Found.ShouldBeGreaterThan(first.Found);
    }

    [Theory]
    [InlineData("sitemap", "/evil.xml", "not readable XML")]
    [InlineData("sitemap", "/missing.xml", "status 404")]
    [InlineData("feed", "/about-nothing", "status 404")]
    [InlineData("walk", "/missing", "status 404")]
    [InlineData("dance", "/", "sitemap, feed, walk")]
    public async Task What_cannot_be_read_is_said(string source, string path, string words)
    {
        var last = await LookAsync(new DiscoverDraft(source, address + path, null, null, 0, null, null));
        last.Stage.ShouldBe("failed");
        last.Detail!.ShouldContain(words);
    }

    [Theory]
    [InlineData("<urlset><url><loc>/from/file</loc></url></urlset>", null, "page:file")]
    [InlineData("<html>", "not readable XML", null)]
    [InlineData("<html></html>", "neither a sitemap nor a feed", null)]
    [InlineData("<sitemapindex><sitemap><loc>/x.xml</loc></sitemap></sitemapindex>", "Give its address", null)]
    public async Task A_file_is_read_too(string text, string? fault, string? id)
    {
        using var file = new MemoryStream(Encoding.UTF8.GetBytes(text));
        var last = await site.Client.DiscoverAsync(file, [], [], null, null, Stop).LastAsync(Stop);
        if (fault is not null)
        {
            last.Detail!.ShouldContain(fault);
        }
        else
        {
            last.Result!.Changes.ShouldHaveSingleItem().Key.ShouldBe(id);
        }
    }

    private async Task<DiscoverLine> LookAsync(DiscoverDraft draft) => await site.Client.DiscoverAsync(draft, Stop).LastAsync(Stop);
}
