using System.IO.Compression;
using System.Net;
using System.Text;
using Shouldly;
using WarySentinel.Contract.Entries;
using WarySentinel.Contract.Gates;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>Pages that differ from visitor to visitor: their tags, what is remembered of them, data, and the site's own address.</summary>
public sealed class GatewayMemoryTests : IAsyncLifetime
{
    private Origins origin = null!;
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        origin = await Origins.EchoAsync();
        site = await RunningSite.StartAsync(origin.Address);
    }

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        await origin.DisposeAsync();
    }

    private static async Task<(HttpStatusCode Status, string? Tag, string Cache, string Said, string Page)> AskAsync(
        Browser browser, string? tag = null, string path = "/tagged")
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, path);
        if (tag is not null)
        {
            request.Headers.TryAddWithoutValidation("If-None-Match", tag);
        }

        using var answer = await browser.SendAsync(request);
        return (answer.StatusCode, answer.Headers.ETag?.ToString(), answer.Headers.CacheControl?.ToString() ?? "",
            answer.Headers.TryGetValues("X-Said", out var said) ? said.Single() : "", await answer.Content.ReadAsStringAsync(Stop));
    }

    [Fact]
    public async Task A_page_that_differs_is_sent_once_by_the_origin_and_goes_to_everybody_as_it_is_for_them()
    {
        Origins.TaggedTag = "\"t1\"";
        using var guest = site.NewBrowser();
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        var sent = Origins.TaggedSent;
        var first = await AskAsync(guest);
        first.Page.ShouldBe("<ul><li>\"t1\"</li></ul>");
        (first.Status, first.Cache).ShouldBe((HttpStatusCode.OK, "no-cache, private"));
        var again = await AskAsync(guest);
        (again.Status, again.Tag, again.Said, again.Page).ShouldBe((HttpStatusCode.OK, first.Tag, "once", first.Page));
        (await AskAsync(guest, first.Tag)).Status.ShouldBe(HttpStatusCode.NotModified);
        using (var other = site.NewBrowser())
        {
            (await AskAsync(other)).ShouldBe(again);
        }

        Origins.TaggedSent.ShouldBe(sent + 1);
        // Whom the origin can tell apart gets what is hers, and a tag of another page tells nothing.
        var hers = await AskAsync(nell, first.Tag);
        hers.Status.ShouldBe(HttpStatusCode.OK);
        hers.Page.ShouldContain("Dealer stock");
        hers.Page.ShouldContain("nell");
        (await AskAsync(nell)).Page.ShouldBe(hers.Page);
        Origins.TaggedSent.ShouldBe(sent + 2);
        (await AskAsync(guest)).Page.ShouldBe(first.Page);
    }

    [Fact]
    public async Task What_is_remembered_ends_with_the_page_with_a_gate_and_with_a_grant()
    {
        Origins.TaggedTag = "\"t2\"";
        using var guest = site.NewBrowser();
        (await AskAsync(guest)).Page.ShouldContain("t2");
        await AskAsync(guest);
        Origins.TaggedTag = "\"t3\"";
        (await AskAsync(guest)).Page.ShouldBe("<ul><li>\"t3\"</li></ul>");
        using var pia = site.NewBrowser();
        await pia.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
        (await AskAsync(pia)).Page.ShouldNotContain("Dealer");
        (await AskAsync(pia)).Page.ShouldNotContain("Dealer");
        var given = await site.Client.GiveAsync("pia@lanternlane.example", "role:dealer", null, null, null, Stop);
        (await AskAsync(pia)).Page.ShouldContain("Dealer stock");
        await site.Client.EndGrantAsync("pia@lanternlane.example", given.Grant.Id, Stop);
        (await AskAsync(pia)).Page.ShouldNotContain("Dealer");
        var gate = await site.Client.GateAsync("dealer-stock", Stop);
        await site.Client.RemoveGateAsync("dealer-stock", gate.Tag!, Stop);
        (await AskAsync(guest)).Page.ShouldContain("Dealer stock");
    }

    [Fact]
    public async Task What_is_remembered_ends_with_a_rule_of_entries_and_what_is_public_is_shared_with_nobody_who_is_told_of()
    {
        Origins.TaggedTag = "\"t5\"";
        Origins.TaggedCache = "public, max-age=60";
        using var guest = site.NewBrowser();
        await AskAsync(guest);
        (await AskAsync(guest)).Page.ShouldBe("<ul><li>\"t5\"</li></ul>");
        await site.Client.PutEntryAsync("whole", new EntryDraft { At = ["/tagged"], Entry = "ul" }, Stop);
        (await AskAsync(guest)).Page.ShouldBe("");
        await site.Client.RemoveEntryAsync("whole", Stop);
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await AskAsync(nell)).Page.ShouldContain("nell");
        (await AskAsync(guest)).Page.ShouldNotContain("nell");
        using var other = site.NewBrowser();
        await other.SignInAsync("pia@lanternlane.example", "lantern-lane-12");
        (await AskAsync(other)).Page.ShouldContain("pia");
        Origins.TaggedCache = "";
    }

    [Fact]
    public async Task Fifty_at_once_get_each_their_own()
    {
        Origins.TaggedTag = "\"t4\"";
        using var guest = site.NewBrowser();
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        var pages = await Task.WhenAll(Enumerable.Range(0, 50).Select(async n => (n, (await AskAsync(n % 2 == 0 ? guest : nell)).Page)));
        pages.Where(p => p.n % 2 == 0).ShouldAllBe(p => !p.Page.Contains("Dealer", StringComparison.Ordinal));
        pages.Where(p => p.n % 2 == 1).ShouldAllBe(p => p.Page.Contains("Dealer", StringComparison.Ordinal));
    }

    [Fact]
    public async Task The_sites_own_address_stands_where_the_origin_wrote_its_own()
    {
        using var guest = site.NewBrowser();
        var page = await (await guest.GetAsync("/own-page")).Content.ReadAsStringAsync(Stop);
        page.ShouldBe(
            $"<a href=\"{site.Site}/shop\">a</a><a href='{site.Site}'>b</a><a href='{origin.Address}9/x'>c</a>"
            + $"<script>x='{site.Site.Replace("/", "\\/", StringComparison.Ordinal)}\\/y'</script><ul><li>d</li></ul>");
    }

    /// <summary>Before the first gate nothing is hidden, nor closed for not being read; the address that no visitor can reach goes all the same.</summary>
    [Fact]
    public async Task A_site_without_a_gate_is_the_origins_but_for_its_address()
    {
        await foreach (var gate in site.Client.AllAsync<GateView>("gates", 1000, Stop))
        {
            await site.Client.RemoveGateAsync(gate.Key, (await site.Client.GateAsync(gate.Key, Stop)).Tag!, Stop);
        }

        using var guest = site.NewBrowser();
        using var direct = new Browser(origin.Address);
        for (var n = 0; n < 2; n++)
        {
            using var page = await guest.GetAsync("/own-page");
            (await page.Content.ReadAsStringAsync(Stop)).ShouldBe(
                $"<a href=\"{site.Site}/shop\">a</a><a href='{site.Site}'>b</a><a href='{origin.Address}9/x'>c</a>"
                    + $"<script>x='{site.Site.Replace("/", "\\/", StringComparison.Ordinal)}\\/y'</script>"
                    + $"<ul><li><a href={site.Site}/shop/dealer-stock>Dealer stock</a></li><li>d</li></ul>");
            page.Headers.CacheControl.ShouldBeNull();
            foreach (var path in new[] { "/page", "/utf16", "/bom", "/blob", "/odd-coding", "/partial", "/squeezed/gzip", "/data/broken" })
            {
                using var expected = await direct.GetAsync(path);
                using var answer = await guest.GetAsync(path);
                answer.StatusCode.ShouldBe(expected.StatusCode, path);
                answer.Content.Headers.ContentEncoding.ShouldBe(expected.Content.Headers.ContentEncoding, path);
                (await BytesAsync(answer)).ShouldBe(await BytesAsync(expected), path);
            }
        }
    }

    /// <summary>The bytes behind a packing: the same can be packed in many ways.</summary>
    private static async Task<byte[]> BytesAsync(HttpResponseMessage answer)
    {
        await using var body = await answer.Content.ReadAsStreamAsync(Stop);
        await using var plain = answer.Content.Headers.ContentEncoding.Contains("gzip") ? new GZipStream(body, CompressionMode.Decompress) : body;
        using var whole = new MemoryStream();
        await plain.CopyToAsync(whole, Stop);
        return whole.ToArray();
    }

    [Theory]
    [InlineData("application_json")]
    [InlineData("application_ld+json")]
    [InlineData("application_octet-stream")]
    [InlineData("text_plain")]
    [InlineData("text_html")]
    public async Task Data_loses_what_is_hidden_whatever_the_origin_calls_it(string type)
    {
        using var guest = site.NewBrowser();
        async Task<string> ReadAsync() => await (await guest.GetAsync("/data/" + type)).Content.ReadAsStringAsync(Stop);
        await site.Client.PutEntryAsync("data", new EntryDraft { At = ["/data/*"], Entry = "$[*]" }, Stop);
        (await ReadAsync()).ShouldBe("[{\"url\":\"/shop\"}]");
        await site.Client.RemoveEntryAsync("data", Stop);
        (await ReadAsync()).ShouldContain("dealer-stock");
    }

    [Fact]
    public async Task Data_that_cannot_be_read_is_closed_and_other_encodings_are_read()
    {
        using var guest = site.NewBrowser();
        await site.Client.PutEntryAsync("data", new EntryDraft { At = ["/data/**"], Entry = "$[*]" }, Stop);
        (await guest.StatusAsync("/data/broken")).ShouldBe(HttpStatusCode.BadGateway);
        Encoding.UTF8.GetString(await (await guest.GetAsync("/data/utf16")).Content.ReadAsByteArrayAsync(Stop)).ShouldBe("[\"ü\"]");
    }
}
