using System.IO.Compression;
using System.Net;
using System.Net.WebSockets;
using System.Text;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>The gateway with what is no plain page: lists of many forms, headers, talks, events, pieces, pauses.</summary>
public sealed class GatewayFormatTests : IAsyncLifetime
{
    private const string Hidden = "dealer-stock";
    private Origins origin = null!;
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        origin = await Origins.EchoAsync();
        site = await RunningSite.StartAsync(origin.Address, ["--Wary:OriginTimeoutSeconds=2"]);
    }

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        await origin.DisposeAsync();
    }

    [Theory]
    [InlineData("/rdf", "<rdf:RDF><item rdf:about=\"/shop\"/></rdf:RDF>")]
    [InlineData("/svg", "<svg><a href='/shop'/></svg>")]
    [InlineData("/opml", "<opml><body><outline htmlUrl='/shop'/></body></opml>")]
    [InlineData("/two-types", "x")]
    [InlineData("/no-type", "x")]
    [InlineData("/odd-type", "x")]
    [InlineData("/bom", "ü")]
    [InlineData("/xhtml", "<html><br/><div/><a href='/shop'>x</a></html>")]
    [InlineData("/pages.txt", "http://localhost/shop\r\n\nSome words, /shop/dealer-stock\n")]
    public async Task Every_form_of_a_list_loses_what_is_hidden_and_nothing_else(string path, string left)
    {
        using var guest = site.NewBrowser();
        using var answer = await guest.GetAsync(path);
        var text = Encoding.UTF8.GetString(await answer.Content.ReadAsByteArrayAsync(Stop)).TrimStart('\uFEFF');
        text.Replace(site.Site, "http://localhost", StringComparison.Ordinal).ShouldBe(left);
    }

    [Fact]
    public async Task A_packed_sitemap_is_unpacked_filtered_and_packed_again()
    {
        using var guest = site.NewBrowser();
        await using var packed = new GZipStream(await (await guest.GetAsync("/pages.xml.gz")).Content.ReadAsStreamAsync(Stop), CompressionMode.Decompress);
        using var text = new StreamReader(packed);
        (await text.ReadToEndAsync(Stop)).ShouldBe("<urlset><url><loc>/shop</loc></url></urlset>");
    }

    [Fact]
    public async Task Headers_name_nothing_hidden_and_nobody_is_sent_to_it()
    {
        using var guest = site.NewBrowser();
        using var answer = await guest.GetAsync("/headers");
        answer.ToString().ShouldNotContain(Hidden);
        answer.Content.Headers.ToString().ShouldNotContain(Hidden);
        answer.Headers.GetValues("Link").ShouldBe(["</shop>; rel=next"]);
        using var sent = await guest.GetAsync("/sends-on");
        sent.StatusCode.ShouldBe(await guest.StatusAsync("/shop/dealer-stock"));
        (sent.Headers.Location?.ToString() ?? "").ShouldNotContain(Hidden);
        (await guest.GetAsync("/sends-open")).Headers.Location!.ToString().ShouldBe("/shop");
    }

    [Fact]
    public async Task The_address_that_the_origin_is_reached_by_is_the_sites_to_visitors()
    {
        using var guest = site.NewBrowser();
        using var answer = await guest.GetAsync("/own");
        answer.Headers.Location!.ToString().ShouldBe(site.Site + "/shop?x=1#y");
        answer.Headers.GetValues("Link").ShouldBe([$"<{site.Site}/shop>; rel=next"]);
        answer.Headers.GetValues("Set-Cookie").ShouldBe(["a=1; Path=/", "b=2; domain=other.example", "c=domain"]);
    }

    [Theory]
    [InlineData("gzip")]
    [InlineData("br")]
    [InlineData("deflate")]
    [InlineData("zstd")]
    public async Task A_filtered_page_goes_out_in_the_coding_that_it_came_in(string coding)
    {
        using var guest = site.NewBrowser();
        using var request = new HttpRequestMessage(HttpMethod.Get, "/squeezed/" + coding) { Headers = { { "Accept-Encoding", "gzip, br, deflate, zstd" } } };
        using var answer = await guest.SendAsync(request);
        answer.Content.Headers.ContentEncoding.ShouldBe([coding]);
        await using var coded = await answer.Content.ReadAsStreamAsync(Stop);
        await using Stream plain = coding switch
        {
            "br" => new BrotliStream(coded, CompressionMode.Decompress),
            "deflate" => new ZLibStream(coded, CompressionMode.Decompress),
            "zstd" => new ZstdSharp.DecompressionStream(coded),
            _ => new GZipStream(coded, CompressionMode.Decompress),
        };
        using var text = new StreamReader(plain);
        (await text.ReadToEndAsync(Stop)).ShouldBe("<ul><li>x</li></ul>");
    }

    [Theory]
    [InlineData("Accept", "*/*", "Sec-Fetch-Dest", "empty", true)]
    [InlineData("Accept", "*/*", "X-Requested-With", "XMLHttpRequest", true)]
    [InlineData("Accept", "application/json, text/plain, */*", "X-Other", "1", true)]
    [InlineData("Accept", "*/*", "Sec-Fetch-Dest", "document", false)]
    [InlineData("Accept", "text/html", "Sec-Fetch-Dest", "empty", false)]
    public async Task A_program_gets_a_problem_and_a_reader_a_page(string first, string says, string second, string more, bool isProblem)
    {
        using var guest = site.NewBrowser();
        using var request = new HttpRequestMessage(HttpMethod.Get, "/shop/dealer-stock") { Headers = { { first, says }, { second, more } } };
        using var answer = await guest.SendAsync(request);
        answer.StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe(isProblem ? "application/problem+json" : "text/html");
    }

    [Fact]
    public async Task A_page_that_is_the_same_for_everybody_is_kept_as_the_origin_says_and_no_longer_than_it_is_so()
    {
        const string open = "<p>nothing to hide <a href=/else>here</a></p>";
        using var guest = site.NewBrowser();
        async Task<(string Cache, HttpStatusCode Status, string Page)> AskAsync(Browser browser, string? tag = null)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, "/common");
            if (tag is not null)
            {
                request.Headers.TryAddWithoutValidation("If-None-Match", tag);
            }

            using var answer = await browser.SendAsync(request);
            // Whatever the status is, no header names what the page does not.
            answer.Headers.Contains("Link").ShouldBe(browser != guest);
            return (answer.Headers.CacheControl?.ToString() ?? "", answer.StatusCode, await answer.Content.ReadAsStringAsync(Stop));
        }

        Origins.CommonPage = open;
        // Looked through as a whole before it goes out, it is so from the first time on.
        (await AskAsync(guest)).ShouldBe(("public, max-age=60", HttpStatusCode.OK, open));
        (await AskAsync(guest)).ShouldBe(("public, max-age=60", HttpStatusCode.OK, open));
        (await AskAsync(guest, $"\"{open.Length}\"")).Status.ShouldBe(HttpStatusCode.NotModified);
        using var nell = site.NewBrowser();
        await nell.SignInAsync("nell", "orchard-quiet-91");
        (await AskAsync(nell)).ShouldBe(("no-cache, private", HttpStatusCode.OK, open));
        // The page changes, and names something hidden from now on.
        Origins.CommonPage = open + "<ul><li><a href=/shop/dealer-stock>Dealer stock</a></li></ul>";
        for (var n = 0; n < 3; n++)
        {
            var changed = await AskAsync(guest, $"\"{Origins.CommonPage.Length}\"");
            (changed.Page, changed.Status).ShouldBe((open, HttpStatusCode.OK));
            changed.Cache.ShouldContain("private");
        }

        // What cannot be judged is the same for nobody.
        Origins.CommonPage = open + "<a title='" + new string('y', 9 << 20) + "' href=/shop/dealer-stock>Dealer stock</a>";
        for (var n = 0; n < 2; n++)
        {
            (await AskAsync(guest)).Page.ShouldBe(open);
        }

        // It is as it was, and a gate closes what it names.
        Origins.CommonPage = open;
        await AskAsync(guest);
        (await AskAsync(guest)).Cache.ShouldBe("public, max-age=60");
        using var owner = new Caller(site, site.Token);
        (await owner.AskAsync("POST", "gates", new { key = "else", title = "Else", covers = new[] { "path:/else" }, audience = "nobody", presence = "hidden" }))
            .Status.ShouldBe(HttpStatusCode.Created);
        var closed = await AskAsync(guest, $"\"{open.Length}\"");
        closed.ShouldSatisfyAllConditions(c => c.Page.ShouldBe("<p>nothing to hide here</p>"), c => c.Cache.ShouldContain("private"));
    }

    [Fact]
    public async Task A_web_socket_passes_in_both_directions()
    {
        using var socket = new ClientWebSocket();
        await socket.ConnectAsync(new Uri(site.Site.Replace("http", "ws", StringComparison.Ordinal) + "/talk"), Stop);
        foreach (var text in new[] { "one", new string('x', 900) })
        {
            await socket.SendAsync(Encoding.UTF8.GetBytes(text), WebSocketMessageType.Text, true, Stop);
            var buffer = new byte[1024];
            var heard = await socket.ReceiveAsync(buffer, Stop);
            Encoding.UTF8.GetString(buffer, 0, heard.Count).ShouldBe(text);
        }

        await socket.CloseAsync(WebSocketCloseStatus.NormalClosure, null, Stop);
    }

    [Fact]
    public async Task Events_come_when_they_are_sent_and_a_body_may_pause_longer_than_an_answer_may_take_to_begin()
    {
        using var http = new HttpClient { BaseAddress = new Uri(site.Site) };
        await using var events = await http.GetStreamAsync("/events", Stop);
        using var lines = new StreamReader(events);
        (await lines.ReadLineAsync(Stop)).ShouldBe("data: one");
        Origins.Told.TrySetResult();
        (await lines.ReadLineAsync(Stop)).ShouldBe("");
        (await lines.ReadLineAsync(Stop)).ShouldBe("data: two");
        (await http.GetStringAsync("/pauses", Stop)).ShouldBe("<p>one two");
    }

    [Fact]
    public async Task A_body_that_breaks_off_does_not_look_whole()
    {
        using var http = new HttpClient { BaseAddress = new Uri(site.Site) };
        await Should.ThrowAsync<HttpRequestException>(http.GetStringAsync("/breaks", Stop));
    }

    [Fact]
    public async Task A_file_without_an_ending_is_resumed_and_not_sent_again_where_it_is_the_same()
    {
        using var guest = site.NewBrowser();
        using var range = new HttpRequestMessage(HttpMethod.Get, "/blob") { Headers = { { "Range", "bytes=10-19" } } };
        using var piece = await guest.SendAsync(range);
        (piece.StatusCode, piece.Content.Headers.ContentLength, piece.Content.Headers.ContentRange!.From).ShouldBe((HttpStatusCode.PartialContent, 10, 10));
        using var same = new HttpRequestMessage(HttpMethod.Get, "/blob") { Headers = { { "If-None-Match", "\"blob\"" } } };
        (await guest.SendAsync(same)).StatusCode.ShouldBe(HttpStatusCode.NotModified);
    }
}
