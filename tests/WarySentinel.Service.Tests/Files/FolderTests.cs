using System.Net;
using System.Net.Http.Headers;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Contract.Files;
using WarySentinel.Contract.Passwords;
using WarySentinel.Service.Letters;
using WarySentinel.Service.Orders;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Files;

/// <summary>Folders to download from over real HTTP: who gets in, when addresses end, what is sent.</summary>
public sealed class FolderTests : IAsyncLifetime
{
    private static readonly byte[] Chart = [.. Enumerable.Range(0, 70_000).Select(n => (byte)(n * 7))];
    private readonly FakeTimeProvider clock = new(DateTimeOffset.UtcNow);
    private RunningSite site = null!;
    private Caller caller = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private Store Store => site.Services.GetRequiredService<Store>();

    private string Root => Path.Combine(site.Data, "files");

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync(time: clock);
        caller = new Caller(site);
        await MustAsync("POST", "items", new { id = "download:frames", title = "Calibration frames", addresses = new[] { "/files/frames.zip" } });
        await MustAsync("POST", "items", new { id = "download:sheets", title = "Log sheets" });
        await MustAsync("POST", "pass-kinds", new { key = "frames", title = "Calibration frames" });
        await MustAsync("POST", "gates", new
        {
            key = "frames", title = "Frames", covers = new[] { "download:frames" }, audience = "role:dealer or bought:download:frames or pass:frames",
            basic = "tools",
        });
        await site.Client.PutAreaAsync("frames", new AreaDraft(Item: "download:frames", Every: "P1W"), null, Stop);
        await site.Client.PutAreaAsync("sheets", new AreaDraft("Sheets", "download:sheets", Opens: "address", Every: "P1D", Overlap: "PT6H"), null, Stop);
        await PutAsync("frames", "dark/chart & ünï.bin", Chart);
        await PutAsync("sheets", "sheet.txt", "one line a meteor"u8.ToArray());
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

    private async Task PutAsync(string area, string path, byte[] content)
    {
        using var stream = new MemoryStream(content);
        await site.Client.PutAreaFileAsync(area, path, stream, Stop);
    }

    private async Task<string> AddressAsync(string area) =>
        new Uri((await site.Client.AreaAddressAsync(area, Stop)).Address).AbsolutePath;

    private async Task<HttpResponseMessage> AskAsync(string path, Action<HttpRequestMessage>? with = null)
    {
        using var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false });
        using var request = new HttpRequestMessage(HttpMethod.Get, site.Site + path);
        with?.Invoke(request);
        return await http.SendAsync(request, Stop);
    }

    private async Task<HttpStatusCode> StatusAsync(string path) => (await AskAsync(path)).StatusCode;

    [Fact]
    public async Task Where_the_gates_count_the_address_alone_opens_nothing()
    {
        var address = await AddressAsync("frames");
        (await StatusAsync(address)).ShouldBe(HttpStatusCode.Unauthorized);
        (await StatusAsync(address + "dark/chart%20%26%20%C3%BCn%C3%AF.bin")).ShouldBe(HttpStatusCode.Unauthorized);
        await site.Client.AddMemberAsync("dee@dealer.example", "Dee", null, "a-dealer-by-trade", ["dealer"], [], [], Stop);
        using var dee = site.NewBrowser();
        (await dee.SignInAsync("dee@dealer.example", "a-dealer-by-trade", "/account/folder/frames")).Headers.Location!.ToString()
            .ShouldBe("/account/folder/frames");
        (await dee.GetAsync("/account/folder/frames")).Headers.Location!.ToString().ShouldBe(address);
        (await dee.PageAsync("/account/")).ShouldContain("/account/folder/frames");
        (await dee.PageAsync(address)).ShouldContain($"{address}dark/\"");
        var page = await dee.GetAsync(address + "dark/");
        (page.Headers.CacheControl!.NoStore, page.Headers.GetValues("Referrer-Policy").Single()).ShouldBe((true, "no-referrer"));
        var link = Regex.Match(await page.Content.ReadAsStringAsync(Stop), "href=\"([^\"]*chart[^\"]*)\"").Groups[1].Value;
        (await (await dee.GetAsync(WebUtility.HtmlDecode(link))).Content.ReadAsByteArrayAsync(Stop)).ShouldBe(Chart);

        // Taken back, it is closed in the middle of a download's parts.
        await site.Client.SetStatusAsync("dee@dealer.example", "suspended", null, Stop);
        (await dee.StatusAsync(WebUtility.HtmlDecode(link))).ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task An_address_ends_when_its_time_is_over_or_somebody_changes_it()
    {
        var first = await AddressAsync("sheets");
        first.ShouldMatch("^/account/files/[0-9a-f]{32}/$");
        (await AskAsync(first + "sheet.txt")).ShouldSatisfyAllConditions(
            r => r.StatusCode.ShouldBe(HttpStatusCode.OK), r => r.Content.Headers.ContentDisposition!.DispositionType.ShouldBe("attachment"),
            r => r.Headers.GetValues("X-Content-Type-Options").ShouldBe(["nosniff"]));
        (await StatusAsync("/account/folder/sheets")).ShouldBe(HttpStatusCode.NotFound, "no gate says who may, so nobody is led there");
        clock.Advance(TimeSpan.FromHours(25));
        var second = await AddressAsync("sheets");
        second.ShouldNotBe(first);
        (await StatusAsync(first)).ShouldBe(HttpStatusCode.OK, "for six hours yet");
        (await StatusAsync(second)).ShouldBe(HttpStatusCode.OK);
        clock.Advance(TimeSpan.FromHours(6));
        var over = await AskAsync(first + "sheet.txt");
        over.StatusCode.ShouldBe(HttpStatusCode.Gone);
        (await over.Content.ReadAsStringAsync(Stop)).ShouldNotContain(second);
        await site.Client.ChangeAreaAddressAsync("sheets", Stop);
        (await StatusAsync(second)).ShouldBe(HttpStatusCode.NotFound);
        (await StatusAsync(await AddressAsync("sheets"))).ShouldBe(HttpStatusCode.OK);
        var known = await AddressAsync("frames");
        await site.RestartAsync();
        (await StatusAsync(known)).ShouldBe(HttpStatusCode.Unauthorized, "it is the same after a start");
    }

    [Fact]
    public async Task A_file_is_sent_in_parts_and_goes_on_only_where_it_is_still_the_same()
    {
        await PutAsync("sheets", "big.bin", Chart);
        var address = await AddressAsync("sheets") + "big.bin";
        var tag = (await AskAsync(address)).Headers.ETag!;
        Task<HttpResponseMessage> PartAsync(long? from, long? to, EntityTagHeaderValue? unlessChanged = null) => AskAsync(address, r =>
        {
            r.Headers.Range = new RangeHeaderValue(from, to);
            r.Headers.IfRange = unlessChanged is null ? null : new RangeConditionHeaderValue(unlessChanged);
        });
        var random = new Random(11);
        for (var n = 0; n < 30; n++)
        {
            var (from, length) = (random.Next(Chart.Length), random.Next(1, 9000));
            var part = await PartAsync(from, from + length - 1, tag);
            part.StatusCode.ShouldBe(HttpStatusCode.PartialContent);
            (await part.Content.ReadAsByteArrayAsync(Stop)).ShouldBe(Chart.Skip(from).Take(length));
        }

        (await (await PartAsync(null, 5)).Content.ReadAsByteArrayAsync(Stop)).ShouldBe(Chart[^5..]);
        (await PartAsync(Chart.Length, null)).StatusCode.ShouldBe(HttpStatusCode.RequestedRangeNotSatisfiable);
        await PutAsync("sheets", "big.bin", [.. Chart.Reverse()]);
        (await PartAsync(10, 20, tag)).StatusCode.ShouldBe(HttpStatusCode.OK, "another file is not glued to the half of this one");
    }

    [Fact]
    public async Task Nothing_is_had_that_is_hidden_lies_elsewhere_or_is_led_to_by_a_link()
    {
        var (address, folder) = (await AddressAsync("sheets"), Path.Combine(Root, "sheets"));
        await File.WriteAllTextAsync(Path.Combine(folder, ".secret"), "no", Stop);
        await File.WriteAllTextAsync(Path.Combine(Root, "beside.txt"), "no", Stop);
        File.CreateSymbolicLink(Path.Combine(folder, "link.txt"), Path.Combine(Root, "beside.txt"));
        Directory.CreateSymbolicLink(Path.Combine(folder, "etc"), "/etc");
        (await (await AskAsync(address)).Content.ReadAsStringAsync(Stop)).ShouldSatisfyAllConditions(
            p => p.ShouldContain("sheet.txt"), p => p.ShouldNotContain("secret"), p => p.ShouldNotContain("link.txt"), p => p.ShouldNotContain("etc/"));
        string[] pieces =
        [
            "..", ".", "%2e%2e", "%2f", "%5c", "/", "beside.txt", "link.txt", "etc", "hostname", ".secret", "%00", "frames", "sheet.txt", "%252e", "//",
        ];
        var random = new Random(5);
        for (var n = 0; n < 400; n++)
        {
            var way = string.Concat(Enumerable.Range(0, random.Next(1, 7)).Select(_ => pieces[random.Next(pieces.Length)]));
            var answer = await RawHttp.SendAsync(site.Site, $"GET {address}{way} HTTP/1.1\nHost: {new Uri(site.Site).Authority}\nConnection: close\n\n");
            if (RawHttp.StatusOf(answer) == 200)
            {
                answer.ShouldSatisfyAllConditions(b => b.ShouldNotEndWith("\r\nno"), b => (b.Contains("one line a meteor", StringComparison.Ordinal)
                    || b.Contains("sheet.txt", StringComparison.Ordinal) || b.Contains("<title>", StringComparison.Ordinal)).ShouldBeTrue(way));
            }
        }
    }

    [Fact]
    public async Task A_file_is_there_whole_or_not_at_all()
    {
        using var http = new HttpClient { DefaultRequestHeaders = { Authorization = new AuthenticationHeaderValue("Bearer", site.Token) } };
        using var body = new Breaking(Chart);
        await Should.ThrowAsync<HttpRequestException>(http.PutAsync($"{site.Admin}/api/v1/areas/sheets/files/half.bin", body, Stop));
        (await site.Client.AreaFilesAsync("sheets", null, Stop)).Select(f => f.Name).ShouldBe(["sheet.txt"]);
        for (var n = 0; Directory.GetFiles(Path.Combine(Root, "sheets")).Length > 1; n++)
        {
            n.ShouldBeLessThan(100, "what was begun is left");
            await Task.Delay(50, Stop);
        }

        await Task.WhenAll(Enumerable.Range(0, 6).Select(n => PutAsync("sheets", "same.bin", [.. Enumerable.Repeat((byte)n, 50_000)])));
        var stored = await File.ReadAllBytesAsync(Path.Combine(Root, "sheets", "same.bin"), Stop);
        (stored.Length, stored.Distinct().Count()).ShouldBe((50_000, 1));
        await PutAsync("sheets", "in/side.txt", [1]);
        (await caller.AskAsync("DELETE", "areas/sheets/files/" + Uri.EscapeDataString("in/side.txt"))).Status.ShouldBe(HttpStatusCode.NoContent);
        foreach (var odd in new[] { "../up.txt", ".hidden", "sheet.txt/inside", "a//b" })
        {
            (await caller.AskAsync("PUT", "areas/sheets/files/" + Uri.EscapeDataString(odd))).Status.ShouldBeOneOf(
                HttpStatusCode.UnprocessableEntity, HttpStatusCode.BadRequest);
        }
    }

    [Fact]
    public async Task A_pass_opens_a_folder_to_a_download_tool()
    {
        var pass = await site.Client.AddPassAsync(new PassDraft("frames", "Hill Lab"), Stop);
        var basic = new AuthenticationHeaderValue(
            "Basic", Convert.ToBase64String(System.Text.Encoding.UTF8.GetBytes($"{pass.Name}:{pass.Password!.Reveal()}")));
        var led = await AskAsync("/account/folder/frames", r => r.Headers.Authorization = basic);
        led.StatusCode.ShouldBe(HttpStatusCode.Redirect);
        var file = led.Headers.Location + "dark/chart%20%26%20%C3%BCn%C3%AF.bin";
        (await (await AskAsync(file, r => r.Headers.Authorization = basic)).Content.ReadAsByteArrayAsync(Stop)).ShouldBe(Chart);
        var refused = await AskAsync(file, r => r.Headers.UserAgent.ParseAdd("fetch/1.0"));
        refused.Headers.WwwAuthenticate.ToString().ShouldStartWith("Basic realm=");
        await site.Client.WithdrawPassAsync(pass.Name, Stop);
        (await AskAsync(file, r => r.Headers.Authorization = basic)).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
    }

    [Fact]
    public async Task Who_buys_it_is_sent_where_it_is_found()
    {
        await MustAsync("PUT", "fulfilment/frames", new { code = "FRAMES", gives = new[] { "bought:download:frames" } });
        await MustAsync("PUT", "fulfilment/sheets", new { code = "SHEETS", gives = new[] { "bought:download:sheets" }, way = "link" });
        await MustAsync("POST", "orders", new { order = "F-1", email = "fay@new.example", lines = new[] { new { code = "FRAMES" } } });
        await MustAsync("POST", "orders", new { order = "S-1", email = "sol@new.example", lines = new[] { new { code = "SHEETS" } } });
        (await LetterAsync("fay@new.example")).ShouldContain("/account/folder/frames");
        var letter = await LetterAsync("sol@new.example");
        letter.ShouldContain(await AddressAsync("sheets"));
        (await Store.MemberByNameAsync("sol@new.example", Stop)).ShouldBeNull("what comes by link takes no account");

        // Without the folder there is nothing to be sent to: such an order waits, and is caught up with.
        await site.Client.RemoveAreaAsync("sheets", Stop);
        await MustAsync("POST", "orders", new { order = "S-2", email = "sal@new.example", lines = new[] { new { code = "SHEETS" } } });
        (await Store.OrderAsync("api", "S-2", Stop))!.WaitsFor.ShouldBe("code");
        await site.Client.PutAreaAsync("sheets", new AreaDraft(Item: "download:sheets", Opens: "address"), null, Stop);
        await site.Services.GetRequiredService<OrderRound>().RunDueAsync(Stop);
        (await LetterAsync("sal@new.example")).ShouldContain(await AddressAsync("sheets"));
        (await caller.AskAsync("PUT", "fulfilment/x", new { code = "X", gives = new[] { "role:dealer" }, way = "link" })).Body.ToString()
            .ShouldContain("By link only items");
    }

    private async Task<string> LetterAsync(string to)
    {
        var wanted = (await Store.MessagesAsync(9, null, to, stop: Stop)).First(m => m.Kind == "order");
        var taken = await Store.TakeMessagesAsync(true, 100, clock.GetUtcNow(), "test", Stop);
        return site.Services.GetRequiredService<Envelopes>().Open(taken.First(t => t.Id == wanted.Id).Body).Text;
    }

    /// <summary>A body that breaks off in the middle.</summary>
    private sealed class Breaking(byte[] whole) : HttpContent
    {
        protected override async Task SerializeToStreamAsync(Stream stream, TransportContext? context)
        {
            await stream.WriteAsync(whole.AsMemory(0, whole.Length / 2), Stop);
            await stream.FlushAsync(Stop);
            throw new HttpRequestException("gone");
        }

        protected override bool TryComputeLength(out long length)
        {
            length = whole.Length;
            return true;
        }
    }
}
