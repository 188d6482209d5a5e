using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Prices;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Prices;

/// <summary>Prices over real HTTP: what pages show, what carts are charged, what does not go into a cart, who uses a coupon.</summary>
public sealed class PriceTests : IAsyncLifetime
{
    private const string Nell = "nell@orchard-optics.example";
    private const string Pia = "pia@lanternlane.example";
    private readonly FakeTimeProvider clock = new(DateTimeOffset.UtcNow);
    private RunningSite site = null!;
    private Caller caller = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync(time: clock);
        caller = new Caller(site);
        await ListAsync("usual", "anyone", new("product:fern-25", 1, "119.00"), new("product:moss-uhc", 1, "98.00"), new("product:worm-gear", 1, "210.00"));
        await ListAsync("trade", "role:dealer", new("category:eyepieces", 1, null, "20"), new("product:fern-25", 10, "88.00"));
    }

    public async ValueTask DisposeAsync()
    {
        caller.Dispose();
        await site.DisposeAsync();
    }

    private Task ListAsync(string key, string audience, params PriceLine[] lines) =>
        site.Client.PutPriceListAsync(key, new PriceListDraft(null, audience, "EUR", Lines: lines), null, Stop);

    private async Task<Browser> InAsync(string name, string password)
    {
        var browser = site.NewBrowser();
        await browser.SignInAsync(name, password);
        return browser;
    }

    private static string Moment(DateTimeOffset at) => at.ToString("O", System.Globalization.CultureInfo.InvariantCulture);

    private static string PriceIn(string page, string item)
    {
        var at = page.IndexOf($"data-wary-price=\"product:{item}\">", StringComparison.Ordinal);
        var from = page.IndexOf('>', at) + 1;
        return WebUtility.HtmlDecode(page[from..page.IndexOf('<', from)]);
    }

    [Fact]
    public async Task What_a_page_shows_is_what_the_cart_is_charged_and_nobody_is_served_anothers_price()
    {
        using var guest = site.NewBrowser();
        using var nell = await InAsync("nell", "orchard-quiet-91");
        // Again and again, in turns: what is remembered of the page is each time that of the right one.
        for (var n = 0; n < 4; n++)
        {
            PriceIn(await guest.PageAsync("/product/fern-25"), "fern-25").ShouldBe("€119.00");
            PriceIn(await nell.PageAsync("/product/fern-25"), "fern-25").ShouldBe("€95.20");
            PriceIn(await nell.PageAsync("/shop/eyepieces"), "fern-25").ShouldBe("€95.20");
            PriceIn(await guest.PageAsync("/shop/eyepieces"), "fern-25").ShouldBe("€119.00");
        }

        (await guest.GetAsync("/product/fern-25")).Headers.CacheControl!.Private.ShouldBeTrue();
        var cart = await site.Client.QuoteAsync(
            new QuoteQuestion(Nell, [new("product:fern-25"), new("product:moss-uhc", 2), new("product:first-nights")]), Stop);
        cart.Lines.Select(l => (l.Price, l.Usual, l.List, l.Total)).ShouldBe(
            [("95.20", "119.00", "trade", "95.20"), ("98.00", "98.00", "usual", "196.00"), (null, null, null, null)]);
        cart.Total.ShouldBe("291.20");
        (await site.Client.QuoteAsync(new QuoteQuestion(Nell, [new("product:fern-25", 4), new("product:fern-25", 6)]), Stop)).Total.ShouldBe("880.00");

        // A change of the list is on the page with the next request; the end of a role too.
        await ListAsync("trade", "role:dealer", new PriceLine("product:fern-25", 1, "90.00"));
        PriceIn(await nell.PageAsync("/product/fern-25"), "fern-25").ShouldBe("€90.00");
        // What counts for a time begins and ends by itself.
        var now = clock.GetUtcNow();
        await site.Client.PutPriceListAsync(
            "week", new PriceListDraft("Week", "anyone", "EUR", Moment(now.AddHours(1)), Moment(now.AddHours(2)), Lines: [new("product:fern-25", 1, "50.00")]),
            null, Stop);
        PriceIn(await guest.PageAsync("/product/fern-25"), "fern-25").ShouldBe("€119.00");
        clock.Advance(TimeSpan.FromMinutes(61));
        PriceIn(await guest.PageAsync("/product/fern-25"), "fern-25").ShouldBe("€50.00");
        clock.Advance(TimeSpan.FromMinutes(61));
        PriceIn(await guest.PageAsync("/product/fern-25"), "fern-25").ShouldBe("€119.00");
    }

    [Fact]
    public async Task Who_may_not_know_a_price_is_told_none_on_any_way()
    {
        await caller.AskAsync("POST", "gates", new
        {
            key = "fern-price", title = "Price of the Fern", covers = new[] { "product:fern-25" }, acts = new[] { "price" }, audience = "role:dealer",
        });
        using var guest = site.NewBrowser();
        PriceIn(await guest.PageAsync("/product/fern-25"), "fern-25").ShouldBe("");
        var quote = await site.Client.QuoteAsync(new QuoteQuestion("guest", [new("product:fern-25")]), Stop);
        (quote.Lines[0].MayPrice, quote.Lines[0].Price, quote.Total).ShouldBe((false, null, null));

        async Task<JsonElement> EvaluateAsync(string subject, string act, object? context = null) => (await caller.AskAsync("POST", "/access/v1/evaluation", new
        { subject = new { type = "visitor", id = subject }, action = new { name = act }, resource = new { type = "product", id = "fern-25" }, context })).Body;
        (await EvaluateAsync("guest", "buy")).ToString().ShouldNotContain("119");
        (await EvaluateAsync("guest", "price")).GetProperty("decision").GetBoolean().ShouldBeFalse();
        (await EvaluateAsync("role:dealer", "price")).GetProperty("context").GetProperty("price").ToString()
            .ShouldBe("{\"amount\":\"95.20\",\"currency\":\"EUR\",\"usual\":\"119.00\",\"list\":\"trade\"}");
        (await EvaluateAsync("role:dealer", "buy", new { quantity = 12 })).GetProperty("context").GetProperty("price").GetProperty("amount").GetString()
            .ShouldBe("88.00");
        (await EvaluateAsync("role:dealer", "open")).TryGetProperty("context", out _).ShouldBeFalse();

        var parts = await guest.SendAsync(new HttpRequestMessage(HttpMethod.Post, site.Site + "/sentinel/parts")
        {
            Content = new StringContent(
                """
                {"page":"/x","prices":[{"item":"product:fern-25"},{"item":"product:moss-uhc"},{"item":"product:first-nights"},{"item":"no"}]}
                """,
                Encoding.UTF8, "application/json"),
        });
        (await parts.Content.ReadFromJsonAsync<JsonElement>(Stop)).GetProperty("prices").EnumerateArray()
            .Select(p => p.ValueKind == JsonValueKind.Null ? null : p.GetProperty("amount").GetString()).ShouldBe(["", "98.00", null, ""]);
    }

    private static readonly (string Type, string Body, int Status)[] Posts =
    [
        ("application/x-www-form-urlencoded", "product=worm-gear", 401),
        ("application/x-www-form-urlencoded", "PRODUCT=Worm-Gear&x=1", 401),
        ("application/x-www-form-urlencoded", "product=fern-25&product=worm-gear", 401),
        ("application/x-www-form-urlencoded", "product%5B%5D=worm-gear", 401),
        ("application/x-www-form-urlencoded", "product=worm%2Dgear", 401),
        ("application/x-www-form-urlencoded", "+product=worm-gear", 401),
        ("application/x-www-form-urlencoded; charset=utf-7", "product=fern-25", 415),
        ("application/x-www-form-urlencoded; charset=utf-16", "product=fern-25", 415),
        ("application/x-www-form-urlencoded", "product=nothing", 403),
        ("application/x-www-form-urlencoded", "product=", 403),
        ("application/x-www-form-urlencoded", "product=fern-25", 302),
        ("application/x-www-form-urlencoded", "other=worm-gear", 302),
        ("application/json", "{\"lines\":[{\"product\":\"fern-25\"},{\"product\":[\"worm-gear\"]}]}", 401),
        ("application/json", "{\"product\":\"fern-25\",\"product\":\"worm-gear\"}", 401),
        ("application/vnd.shop+json", "{\"product\":\"worm-gear\"}", 401),
        ("application/json", "{\"product\":12}", 403),
        ("application/json", "{\"product\":\"fern-25\"", 400),
        ("application/json", "{\"product\":\"fern-25\"} {}", 400),
        ("text/plain", "product=worm-gear", 415),
        ("application/xml", "<product>worm-gear</product>", 415),
        ("application/x-www-form-urlencoded, text/plain", "product=worm-gear", 415),
        ("multipart/form-data; boundary=b", "--b\r\nContent-Disposition: form-data; name=\"product\"\r\n\r\nworm-gear\r\n--b--\r\n", 401),
        ("multipart/form-data; boundary=b", "--b\r\nContent-Disposition: form-data; name=\"x\"; name=\"product\"\r\n\r\nworm-gear\r\n--b--\r\n", 400),
        ("multipart/form-data; boundary=b", "--b\r\nContent-Disposition: form-data; name*=utf-8''product\r\n\r\nworm-gear\r\n--b--\r\n", 400),
        (
            "multipart/form-data; boundary=b",
            "--b\r\nContent-Disposition: form-data; name=\"product\"\r\nContent-Transfer-Encoding: base64\r\n\r\nZmVybi0yNQ==\r\n--b--\r\n", 400
        ),
        (
            "multipart/form-data; boundary=b; boundary=c",
            "--c\r\nContent-Disposition: form-data; name=\"product\"\r\n\r\nworm-gear\r\n--c--\r\n", 400
        ),
        ("multipart/form-data; boundary=b", "--b\r\nContent-Disposition: form-data; name=\"product\"\r\n\r\nfern-25\r\n--b--\r\n", 302),
    ];

    [Fact]
    public async Task What_may_not_be_bought_does_not_go_into_the_cart_however_it_is_written()
    {
        await site.Client.PutCartAsync("shop", new CartDraft(["/cart/add"], ["product"]), null, Stop);
        foreach (var (type, body, status) in Posts)
        {
            (await PostAsync("/cart/add", type, body)).ShouldBe(status, $"{type}: {body}");
            (await PostAsync("/cart/add?product=worm-gear", type, body)).ShouldBe(status is 302 or 403 ? 401 : status, $"{type}: {body}");
        }
    }

    private async Task<int> PostAsync(string path, string type, string body)
    {
        using var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false });
        using var request = new HttpRequestMessage(HttpMethod.Post, site.Site + path) { Content = new ByteArrayContent(Encoding.UTF8.GetBytes(body)) };
        request.Content.Headers.TryAddWithoutValidation("Content-Type", type);
        using var response = await http.SendAsync(request, Stop);
        return (int)response.StatusCode;
    }

    [Fact]
    public async Task A_dealer_may_put_it_in_and_a_cart_of_thousands_or_of_megabytes_is_judged_or_refused()
    {
        await site.Client.PutCartAsync("shop", new CartDraft(["/cart/add"], ["product"]), null, Stop);
        using var nell = await InAsync("nell", "orchard-quiet-91");
        (await nell.PostAsync("/cart/add", ("product", "worm-gear"))).StatusCode.ShouldBe(HttpStatusCode.Redirect);
        (await nell.PageAsync("/cart")).ShouldContain("worm gear");
        const string form = "application/x-www-form-urlencoded";
        (await PostAsync("/cart/add", form, string.Concat(Enumerable.Repeat("product=fern-25&", 1900)) + "product=worm-gear")).ShouldBe(401);
        (await PostAsync("/cart/add", form, string.Concat(Enumerable.Repeat("a=b&", 5000)) + "product=worm-gear")).ShouldBe(400);
        (await PostAsync("/cart/add", form, "x=" + new string('y', 1_100_000) + "&product=worm-gear")).ShouldBe(413);
        (await PostAsync("/cart/add", "application/json", new string('[', 100) + new string(']', 100))).ShouldBe(400);
        // The same address in another spelling is the same address.
        (await PostAsync("/cart//add", form, "product=worm-gear")).ShouldBe(401);
        (await PostAsync("/cart/%61dd", form, "product=worm-gear")).ShouldBe(401);
        (await PostAsync("/x/../cart/add", form, "product=worm-gear")).ShouldBe(401);
        await site.Client.RemoveCartAsync("shop", Stop);
        (await PostAsync("/cart/add", form, "product=worm-gear")).ShouldBe(302);
    }

    [Fact]
    public async Task A_coupon_is_used_once_by_one_person_however_many_ask_at_once_and_ends_with_what_made_it_theirs()
    {
        await site.Client.PutCouponAsync("sky", new CouponDraft(Audience: "plan:patron", Off: "10"), null, Stop);
        await site.Client.GiveAsync(Pia, "plan:patron", null, null, null, Stop);
        await site.Client.PutCouponAsync("rush", new CouponDraft(Audience: "anyone", Off: "5", Most: 5), null, Stop);
        var quote = await site.Client.QuoteAsync(new QuoteQuestion(Pia, [new("product:fern-25")], Coupon: " sky "), Stop);
        (quote.Coupon, quote.Discount, quote.Total).ShouldBe(("sky", "11.90", "107.10"));
        (await site.Client.QuoteAsync(new QuoteQuestion(Nell, [new("product:fern-25")], Coupon: "SKY"), Stop)).ShouldSatisfyAllConditions(
            q => q.Coupon.ShouldBeNull(), q => q.CouponFault!.ShouldContain("for others"), q => q.Total.ShouldBe("95.20"));

        async Task<string> UseAsync(string code, string order, string? visitor, string? person = null)
        {
            try
            {
                return (await site.Client.UseCouponAsync(new CouponUseDraft(code, order, visitor, person, "11.90", "EUR"), Stop)).Order;
            }
            catch (SentinelException refused)
            {
                return refused.Code!;
            }
        }

        var same = await Task.WhenAll(Enumerable.Range(0, 12).Select(n => UseAsync("SKY", "o-" + (n % 4), Pia)));
        same.Where(s => s.StartsWith("o-", StringComparison.Ordinal)).Distinct().ShouldHaveSingleItem();
        same.Where(s => !s.StartsWith("o-", StringComparison.Ordinal)).Distinct().ShouldBe(["coupon-used"]);
        var rush = await Task.WhenAll(Enumerable.Range(0, 16).Select(n => UseAsync("RUSH", "r-" + n, null, $"p{n}@x.example")));
        rush.Count(s => s.StartsWith("r-", StringComparison.Ordinal)).ShouldBe(5);
        (await UseAsync("RUSH", "r-77", "guest")).ShouldBe("coupon-who");
        (await UseAsync("RUSH", "r-78", null, "no address")).ShouldBe("email-form");

        // The address of a member is the member, whatever it is written like.
        var used = same.First(s => s.StartsWith("o-", StringComparison.Ordinal));
        await site.Client.ReturnCouponAsync("sky", used, Stop);
        (await UseAsync("sky", "o-9", null, "PIA@LanternLane.example")).ShouldBe("o-9");
        (await UseAsync("sky", "o-10", Pia)).ShouldBe("coupon-used");
        (await site.Client.CouponUsesAsync("sky", null, Stop)).Items.Select(u => (u.Order, u.Person)).ShouldBe([("o-9", Pia)]);

        await site.Client.ReturnCouponAsync("sky", "o-9", Stop);
        using var pia = await InAsync(Pia, "lantern-lane-12");
        (await pia.PageAsync("/account/")).ShouldContain("<code>SKY</code>");
        foreach (var grant in (await site.Client.MemberAsync(Pia, Stop)).Value.Grants)
        {
            await site.Client.EndGrantAsync(Pia, grant.Id, Stop);
        }

        (await UseAsync("sky", "o-11", Pia)).ShouldBe("coupon-not-for");
        (await pia.PageAsync("/account/")).ShouldNotContain("<code>SKY</code>");
    }

    [Fact]
    public async Task A_file_is_looked_through_first_and_what_is_wrong_in_it_is_told_by_its_line()
    {
        Task<PriceImportView> ImportAsync(string csv, bool dry) =>
            site.Client.ImportPricesAsync("trade", new MemoryStream(Encoding.UTF8.GetBytes(csv)), dry, Stop);
        var would = await ImportAsync("SKU;Preis;ab\r\nfern-25;88,50;10\r\nmoss-uhc;70,00;1\r\n", true);
        (would.Rows, would.Added, would.Changed, would.Dropped, would.Stored).ShouldBe((2, 1, 1, 1, false));
        (await site.Client.PriceListAsync("trade", Stop)).Value.Lines!.Count.ShouldBe(2);
        (await ImportAsync("SKU;Preis;ab\r\nfern-25;88,50;10\r\nmoss-uhc;70,00;1\r\n", false)).Stored.ShouldBeTrue();
        (await site.Client.PriceLinesAsync("trade", Stop)).ShouldBe("item,quantity,price,off\r\nproduct:fern-25,10,88.50,\r\nproduct:moss-uhc,1,70.00,\r\n");
        var bad = await Should.ThrowAsync<SentinelException>(() => ImportAsync("item,price,off\r\nfern-25,1.234,\r\nfern-26,1,\r\nmoss-uhc,1,2\r\n", false));
        bad.Faults.Select(f => (f.Field, f.Line)).ShouldBe([("price", 2), ("item", 3), ("price", 4)]);
        foreach (var odd in new[] { "", "name,worth\r\na,b\r\n", "item\r\nfern-25\r\n" })
        {
            (await Should.ThrowAsync<SentinelException>(() => ImportAsync(odd, false))).Code.ShouldBe("price-file-columns");
        }

        (await site.Client.PriceListAsync("trade", Stop)).Value.Lines!.Count.ShouldBe(2);
        // What went out comes in again as the same, as CSV and as the site's file.
        var before = (await site.Client.PriceListAsync("trade", Stop)).Value;
        await ImportAsync(await site.Client.PriceLinesAsync("trade", Stop), false);
        (await site.Client.PriceListAsync("trade", Stop)).Value.Version.ShouldBe(before.Version);
        await site.Client.PutCouponAsync(
            "sky", new CouponDraft("Sky-1", "Ten off", "plan:patron", null, "5.00", "EUR", ["category:eyepieces"], PerPerson: "any", Most: 9), null, Stop);
        await site.Client.PutCartAsync("shop", new CartDraft(["/cart/add", "/api/cart/**"], ["sku", "lines[*][sku]"], "/item?id={value}", "pass"), null, Stop);
        var file = await site.Client.ExportAsync(Stop);
        file.ShouldContain("perPerson: any");
        foreach (var remove in new[] { "prices/trade", "coupons/sky", "carts/shop" })
        {
            await caller.AskAsync("DELETE", remove);
        }

        (await caller.AskAsync("DELETE", "prices/trade")).Status.ShouldBe(HttpStatusCode.NotFound);
        await foreach (var line in site.Client.ApplyAsync(new MemoryStream(Encoding.UTF8.GetBytes(file)), false, false, null, Stop))
        {
            (line.Difference?.Faults ?? []).ShouldBeEmpty();
        }

        (await site.Client.ExportAsync(Stop)).ShouldBe(file);
    }
}
