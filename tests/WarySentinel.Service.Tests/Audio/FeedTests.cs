using System.Net;
using System.Net.Http.Headers;
using System.Text.Json;
using System.Text.RegularExpressions;
using System.Xml.Linq;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Contract.Audio;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Audio;

/// <summary>Shows and each member's own feed of them over real HTTP: who hears what, and when an address is over.</summary>
public sealed class FeedTests : IAsyncLifetime
{
    private static readonly byte[] Sound = [.. Enumerable.Range(0, 50_000).Select(n => (byte)(n * 11))];
    private readonly FakeTimeProvider clock = new(DateTimeOffset.UtcNow);
    private RunningSite site = null!;
    private Caller caller = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync(time: clock);
        caller = new Caller(site);
        await MustAsync("POST", "items", new { id = "show:hours", title = "Hours & Dark", addresses = new[] { "/hours" } });
        foreach (var (key, title) in new[] { ("one", "First <light>"), ("two", "Second"), ("three", "Third"), ("later", "Later") })
        {
            await MustAsync("POST", "items", new { id = "episode:" + key, title, parents = new[] { "show:hours" }, addresses = new[] { "/hours/" + key } });
        }

        await MustAsync(
            "POST", "gates", new { key = "hours", title = "Hours", covers = new[] { "show:hours" }, audience = "role:dealer", basic = "tools" });
        await MustAsync("POST", "gates", new { key = "free", title = "First free", covers = new[] { "episode:one" }, kind = "exemption" });
        await MustAsync(
            "POST", "gates", new { key = "more", title = "Keepers' own", covers = new[] { "episode:three" }, audience = "nobody", presence = "hidden" });
        await site.Client.PutShowAsync("hours", new ShowDraft("The dome", "A show a month.", Picture: "cover.png", Episodes:
        [
            new("episode:one", "one.mp3", "2026-01-01", "Notes & more", "1:05"), new("episode:two", "two.m4a", "2026-02-01"),
            new("episode:three", "three.mp3", "2026-03-01"), new("episode:later", "later.mp3", clock.GetUtcNow().AddDays(2).ToString("O")),
        ]), null, Stop);
        foreach (var file in new[] { "one.mp3", "two.m4a", "three.mp3", "later.mp3", "cover.png" })
        {
            await PutAsync(file);
        }

        await site.Client.AddMemberAsync("dee@dealer.example", "Dee", null, "a-dealer-by-trade", ["dealer"], [], [], Stop);
    }

    public async ValueTask DisposeAsync()
    {
        caller.Dispose();
        await site.DisposeAsync();
    }

    private async Task<JsonElement> MustAsync(string method, string path, object? body = null)
    {
        var (status, said, _) = await caller.AskAsync(method, path, body, "*");
        ((int)status).ShouldBeLessThan(300, $"{method} {path}: {said}");
        return said;
    }

    private async Task PutAsync(string file)
    {
        using var stream = new MemoryStream(Sound);
        await site.Client.PutShowFileAsync("hours", file, stream, Stop);
    }

    private async Task<HttpResponseMessage> AskAsync(string address, Action<HttpRequestMessage>? with = null)
    {
        using var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false });
        using var request = new HttpRequestMessage(HttpMethod.Get, site.Site + new Uri(address).PathAndQuery);
        with?.Invoke(request);
        return await http.SendAsync(request, Stop);
    }

    private async Task<string> FeedAsync(string member = "dee@dealer.example") => (await site.Client.FeedAsync("hours", member, Stop)).Address;

    /// <summary>The episodes of a feed: what stands for each, and where its file is.</summary>
    private async Task<Dictionary<string, string>> EpisodesAsync(string address) =>
        XDocument.Parse(await (await AskAsync(address)).Content.ReadAsStringAsync(Stop)).Root!.Element("channel")!.Elements("item").ToDictionary(
            i => i.Element("guid")!.Value.Split('-')[0], i => i.Element("enclosure")?.Attribute("url")!.Value ?? "");

    [Fact]
    public async Task A_feed_has_what_the_member_may_hear_and_nothing_else()
    {
        var address = await FeedAsync();
        (await FeedAsync()).ShouldBe(address, "asked for again it is the same");
        address.ShouldMatch("/sentinel/feeds/[A-Za-z0-9_-]{48}$");
        var answer = await AskAsync(address);
        var said = await answer.Content.ReadAsStringAsync(Stop);
        answer.Content.Headers.ContentType!.MediaType.ShouldBe("application/rss+xml");
        answer.Headers.CacheControl!.ShouldSatisfyAllConditions(c => c.Private.ShouldBeTrue(), c => c.NoCache.ShouldBeTrue());
        said.ShouldNotContain("Third", Case.Sensitive, "hidden from them");
        said.ShouldNotContain("Later", Case.Sensitive, "not out yet");
        var episodes = await EpisodesAsync(address);
        episodes.Keys.ShouldBe((IEnumerable<string>)["episode:two", "episode:one"]);
        (await (await AskAsync(episodes["episode:two"])).Content.ReadAsByteArrayAsync(Stop)).ShouldBe(Sound);
        var part = await AskAsync(episodes["episode:one"], r => r.Headers.Range = new RangeHeaderValue(100, 199));
        part.StatusCode.ShouldBe(HttpStatusCode.PartialContent);
        part.Content.Headers.ContentType!.MediaType.ShouldBe("audio/mpeg");
        part.Headers.CacheControl!.NoStore.ShouldBeTrue();
        (await part.Content.ReadAsByteArrayAsync(Stop)).ShouldBe(Sound[100..200]);
        (await AskAsync(Regex.Match(said, "href=\"([^\"]*picture.png)\"").Groups[1].Value)).Content.Headers.ContentType!.MediaType.ShouldBe("image/png");

        var same = await AskAsync(address, r => r.Headers.IfNoneMatch.Add(answer.Headers.ETag!));
        same.StatusCode.ShouldBe(HttpStatusCode.NotModified);
        clock.Advance(TimeSpan.FromDays(3));
        (await AskAsync(address, r => r.Headers.IfNoneMatch.Add(answer.Headers.ETag!))).StatusCode.ShouldBe(HttpStatusCode.OK, "an episode came out");
        foreach (var other in new[] { "three.mp3", "one.m4a", "../one.mp3", "%2e%2e%2fone.mp3", "cover.png", "one" })
        {
            ((int)(await AskAsync(episodes["episode:one"].Replace("one.mp3", other, StringComparison.Ordinal))).StatusCode)
                .ShouldBeInRange(400, 404, other);
        }
    }

    [Fact]
    public async Task What_ends_the_member_ends_the_feed_at_once_and_says_how_to_come_back()
    {
        var address = await FeedAsync();
        var two = (await EpisodesAsync(address))["episode:two"];
        await site.Client.SetStatusAsync("dee@dealer.example", "suspended", null, Stop);
        (await AskAsync(two)).StatusCode.ShouldBe(HttpStatusCode.Forbidden);
        var episodes = await EpisodesAsync(address);
        episodes.Keys.ShouldBe((IEnumerable<string>)["closed", "episode:one"], "what everybody hears is left");
        (await (await AskAsync(address)).Content.ReadAsStringAsync(Stop)).ShouldContain("/account/listen/hours");
        await site.Client.SetStatusAsync("dee@dealer.example", "active", null, Stop);
        (await AskAsync(two)).StatusCode.ShouldBe(HttpStatusCode.OK);

        var other = (await site.Client.ChangeFeedAsync("hours", "dee@dealer.example", Stop)).Address;
        other.ShouldNotBe(address);
        (await AskAsync(address)).StatusCode.ShouldBe(HttpStatusCode.Gone);
        (await AskAsync(two)).StatusCode.ShouldBe(HttpStatusCode.Gone);
        (await EpisodesAsync(other)).Count.ShouldBe(2);

        await MustAsync("DELETE", "shows/hours");
        (await AskAsync(other)).StatusCode.ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task An_address_that_was_never_given_leads_nowhere()
    {
        var address = await FeedAsync();
        var token = address[^48..];
        for (var n = 0; n < 48; n += 3)
        {
            var bent = token[..n] + (token[n] == 'A' ? 'B' : 'A') + token[(n + 1)..];
            (await AskAsync(address.Replace(token, bent, StringComparison.Ordinal))).StatusCode.ShouldBe(HttpStatusCode.NotFound, bent);
        }

        foreach (var odd in new[] { token[..47], token + "A", new string('A', 48), token[..47] + "%00", token[..47] + "=", "x" })
        {
            ((int)(await AskAsync(address.Replace(token, odd, StringComparison.Ordinal))).StatusCode).ShouldBeInRange(400, 404, odd);
        }
    }

    [Fact]
    public async Task A_member_hears_on_the_page_and_takes_an_address_of_their_own_there()
    {
        (await AskAsync(site.Site + "/account/listen/hours")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await AskAsync(site.Site + "/account/listen/hours/two.m4a")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await AskAsync(site.Site + "/account/listen/hours/one.mp3")).StatusCode.ShouldBe(HttpStatusCode.OK, "the first is free");
        (await AskAsync(site.Site + "/account/listen/nothing")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        using var dee = site.NewBrowser();
        await dee.SignInAsync("dee@dealer.example", "a-dealer-by-trade", "/account/");
        (await dee.PageAsync("/account/")).ShouldContain("href=\"/account/listen/hours\"");
        var page = await dee.PageAsync("/account/listen/hours");
        page.ShouldSatisfyAllConditions(
            p => p.ShouldContain("src=\"/account/listen/hours/two.m4a\""), p => p.ShouldContain("First &lt;light&gt;"), p => p.ShouldContain("1:05"),
            p => p.ShouldNotContain("Third"), p => p.ShouldNotContain("/sentinel/feeds/"));
        (await dee.StatusAsync("/account/listen/hours/three.mp3")).ShouldBe(HttpStatusCode.Forbidden);
        async Task<string> AddressAsync(string act)
        {
            (await dee.FillAsync("/account/listen/hours", "/account/listen/hours", ("act", act))).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
            return Regex.Match(await dee.PageAsync("/account/listen/hours"), "value=\"([^\"]*/sentinel/feeds/[^\"]*)\"").Groups[1].Value;
        }

        var first = await AddressAsync("open");
        (await EpisodesAsync(first)).Count.ShouldBe(2);
        (await AddressAsync("open")).ShouldBe(first);
        var second = await AddressAsync("change");
        (await AskAsync(first)).StatusCode.ShouldBe(HttpStatusCode.Gone);
        (await FeedAsync()).ShouldBe(second, "staff are told the same");
        var subscriber = (await site.Client.SubscribersAsync("hours", null, Stop)).Items.ShouldHaveSingleItem();
        (subscriber.Email, subscriber.ReadAt).ShouldBe(("dee@dealer.example", null));
        await AskAsync(second, r => r.Headers.TryAddWithoutValidation("User-Agent", "Pocket/1"));
        (await site.Client.SubscribersAsync("hours", null, Stop)).Items[0].ReadBy.ShouldBe("Pocket/1");
        (await MustAsync("GET", "members/dee@dealer.example/data")).GetProperty("feeds")[0].GetProperty("readBy").GetString().ShouldBe("Pocket/1");
        using var guest = site.NewBrowser();
        (await guest.PostAsync("/account/listen/hours", ("act", "change"))).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await AskAsync(second)).StatusCode.ShouldBe(HttpStatusCode.OK, "a guest changes nobody's");
    }

    [Fact]
    public async Task A_download_tool_hears_by_name_and_password_where_the_gate_takes_them()
    {
        Task<HttpResponseMessage> AsToolAsync(string password) => AskAsync(
            site.Site + "/account/listen/hours/two.m4a", r => r.Headers.Authorization = new AuthenticationHeaderValue(
                "Basic", Convert.ToBase64String(System.Text.Encoding.UTF8.GetBytes("dee@dealer.example:" + password))));
        (await (await AsToolAsync("a-dealer-by-trade")).Content.ReadAsByteArrayAsync(Stop)).ShouldBe(Sound);
        (await AsToolAsync("a-dealer-by-guess")).ShouldSatisfyAllConditions(
            a => a.StatusCode.ShouldBe(HttpStatusCode.Unauthorized), a => a.Headers.WwwAuthenticate.ToString().ShouldStartWith("Basic "));
    }

    [Fact]
    public async Task Sixteen_who_ask_at_once_get_the_same_address()
    {
        var all = await Task.WhenAll(Enumerable.Range(0, 16).Select(_ => FeedAsync()));
        all.Distinct().ShouldHaveSingleItem();
    }
}
