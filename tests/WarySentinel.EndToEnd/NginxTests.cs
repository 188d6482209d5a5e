using System.Diagnostics;
using System.Net;
using System.Net.Http.Json;
using System.Text.RegularExpressions;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Sweep;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>A real nginx with exactly the configuration of docs/how-to/nginx.md, its ports and folder apart.</summary>
public sealed class NginxTests : IAsyncLifetime
{
    private readonly string folder = Directory.CreateTempSubdirectory("wary-nginx-").FullName;
    private readonly int port = RunningSite.FreePort();
    private RunningSite site = null!;
    private RunningNginx? nginx;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync(origin: "", settings: ["--Wary:TrustedProxies:0=127.0.0.1", $"--Wary:FetchHosts:0=127.0.0.1:{port}"]);
        var conf = await ConfigurationAsync(site, port, folder);
        foreach (var page in new[] { "shop", "shop/dealer-stock", "shop/clearance-vault", "shop/observatory-grade", "members/calendar" })
        {
            Directory.CreateDirectory(Path.Combine(folder, "site", page));
            await File.WriteAllTextAsync(Path.Combine(folder, "site", page, "index.html"), $"<h1>This is {page}</h1>");
        }

        nginx = await RunningNginx.StartAsync(folder, conf, $"http://127.0.0.1:{port}/account/sign-in");
    }

    public async ValueTask DisposeAsync()
    {
        if (nginx is not null)
        {
            await nginx.DisposeAsync();
        }

        await site.DisposeAsync();
        Directory.Delete(folder, true);
    }

    /// <summary>The configuration of the documentation, with these addresses.</summary>
    internal static async Task<string> ConfigurationAsync(RunningSite site, int port, string folder)
    {
        var how = await File.ReadAllTextAsync(Path.Combine(RunningSite.Root, "docs", "how-to", "nginx.md"));
        var conf = Regex.Match(how, "```nginx\n(.*?)```", RegexOptions.Singleline).Groups[1].Value
            .Replace("127.0.0.1:7400", new Uri(site.Site).Authority, StringComparison.Ordinal)
            .Replace("listen 8080", "listen 127.0.0.1:" + port, StringComparison.Ordinal)
            .Replace("/srv/site", folder + "/site", StringComparison.Ordinal);
        conf.ShouldContain("auth_request /_wary_check;");
        return conf;
    }

    [Fact]
    public async Task Our_pages_stand_in_a_page_of_the_site_behind_nginx_too()
    {
        var (own, at) = (Directory.CreateTempSubdirectory("wary-framed-").FullName, RunningSite.FreePort());
        Directory.CreateDirectory(Path.Combine(own, "site", "visit"));
        await File.WriteAllTextAsync(
            Path.Combine(own, "site", "visit", "index.html"), "<!doctype html><meta charset=utf-8><header>On the hill</header><main>old words</main>");
        // The site is where nginx gives it out: asked there with the visitor's cookie, it passes the same check.
        await using (var framed = await RunningSite.StartAsync(origin: $"http://127.0.0.1:{at}", settings: ["--Wary:TrustedProxies:0=127.0.0.1"]))
        {
            await using var server = await RunningNginx.StartAsync(own, await ConfigurationAsync(framed, at, own), $"http://127.0.0.1:{at}/account/sign-in");
            await framed.Client.SetSettingsAsync(
                System.Text.Json.JsonSerializer.SerializeToElement(new { frame = new { page = "/visit/", element = "main" } }), "*",
                    TestContext.Current.CancellationToken);
            using var guest = new Browser($"http://127.0.0.1:{at}");
            var page = await guest.PageAsync("/account/sign-in");
            page.ShouldSatisfyAllConditions(
                p => p.ShouldContain("<header>On the hill</header>"), p => p.ShouldContain("name=\"password\""), p => p.ShouldNotContain("old words"));
            (await guest.FillAsync("/account/sign-in", "/account/sign-in", ("name", "nell"), ("password", "orchard-quiet-91"))).StatusCode
                .ShouldBe(HttpStatusCode.SeeOther);
            (await guest.PageAsync("/account/")).ShouldContain("<header>On the hill</header>");
        }

        Directory.Delete(own, true);
    }

    [Fact]
    public async Task The_whole_way_of_a_visitor()
    {
        using var guest = new Browser($"http://127.0.0.1:{port}");
        var open = await guest.GetAsync("/shop/");
        open.StatusCode.ShouldBe(HttpStatusCode.OK);
        (open.Headers.CacheControl?.NoStore ?? false).ShouldBeFalse();
        (await open.Content.ReadAsStringAsync()).ShouldContain("This is shop");

        var closed = await guest.GetAsync("/shop/dealer-stock/");
        closed.StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        closed.Headers.CacheControl!.NoStore.ShouldBeTrue();
        var signIn = closed.Headers.Location!.IsAbsoluteUri ? closed.Headers.Location.PathAndQuery : closed.Headers.Location.ToString();
        signIn.ShouldBe("/account/sign-in?return_to=%2Fshop%2Fdealer-stock%2F");
        (await guest.PageAsync(signIn)).ShouldContain("Sign in to go on");

        var back = await guest.FillAsync(signIn, "/account/sign-in", ("name", "nell"), ("password", "orchard-quiet-91"), ("return_to", "/shop/dealer-stock/"));
        back.StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        back.Headers.Location!.ToString().ShouldEndWith("/shop/dealer-stock/");
        var page = await guest.GetAsync("/shop/dealer-stock/");
        page.StatusCode.ShouldBe(HttpStatusCode.OK);
        (await page.Content.ReadAsStringAsync()).ShouldContain("This is shop/dealer-stock");
        page.Headers.CacheControl!.ToString().ShouldContain("no-store");
        page.Headers.Vary.ShouldContain("Cookie");

        using var other = new Browser($"http://127.0.0.1:{port}");
        (await other.StatusAsync("/shop/dealer-stock/")).ShouldBe(HttpStatusCode.SeeOther);
        (await guest.StatusAsync("/shop/observatory-grade/")).ShouldBe(HttpStatusCode.SeeOther);
        (await guest.PageAsync("/account/closed?return_to=/shop/observatory-grade/")).ShouldContain("Write to us.");
    }

    [Fact]
    public async Task A_download_tool_is_asked_for_name_and_password_and_a_browser_is_led_to_the_page()
    {
        var stop = TestContext.Current.CancellationToken;
        using (var admin = new HttpClient { BaseAddress = new Uri(site.Admin), DefaultRequestHeaders = { { "Authorization", "Bearer " + site.Token } } })
        {
            (await admin.PostAsync("/api/v1/pass-kinds", JsonContent.Create(new { key = "frames", title = "Frames" }), stop)).EnsureSuccessStatusCode();
        }

        var gate = Contract.Gates.GateDraft.Of((await site.Client.GateAsync("dealer-stock", stop)).Value)
            with
        { Audience = "role:dealer or pass:frames", Basic = "tools" };
        await site.Client.SetGateAsync("dealer-stock", gate, "*", stop);
        var pass = await site.Client.AddPassAsync(new Contract.Passwords.PassDraft("frames", "Lab"), stop);
        var page = $"http://127.0.0.1:{port}/shop/dealer-stock/";
        async Task<string> CurlAsync(params string[] with)
        {
            using var curl = System.Diagnostics.Process.Start(
                new System.Diagnostics.ProcessStartInfo("curl", ["-si", .. with, page]) { RedirectStandardOutput = true })!;
            return await curl.StandardOutput.ReadToEndAsync(stop);
        }

        var asked = await CurlAsync();
        asked.ShouldStartWith("HTTP/1.1 401");
        Regex.Count(asked, "WWW-Authenticate: Basic realm=", RegexOptions.IgnoreCase).ShouldBe(1, asked);
        var let = await CurlAsync("-u", $"{pass.Name}:{pass.Password!.Reveal()}");
        let.ShouldStartWith("HTTP/1.1 200");
        let.ShouldContain("This is shop/dealer-stock");
        let.ShouldContain("no-store");
        (await CurlAsync("--anyauth", "-u", $"{pass.Name}:{pass.Password.Reveal()}"))
            .ShouldContain("This is shop/dealer-stock", Case.Sensitive, "once it is asked");
        (await CurlAsync("-u", $"{pass.Name}:wrong")).ShouldStartWith("HTTP/1.1 401");
        var browser = await CurlAsync("-H", "Accept: text/html");
        browser.ShouldStartWith("HTTP/1.1 303");
        browser.ShouldNotContain("Basic");
        await site.Client.WithdrawPassAsync(pass.Name, stop);
        (await CurlAsync("-u", $"{pass.Name}:{pass.Password.Reveal()}")).ShouldStartWith("HTTP/1.1 401");
    }

    [Theory]
    [InlineData("/shop/dealer-stock/index.html")]
    [InlineData("/shop/dealer-stock/index.html?x=1")]
    [InlineData("/shop/dealer-stock/%69ndex.html")]
    [InlineData("/shop/dealer-stock//index.html")]
    [InlineData("/shop/./dealer-stock/index.html")]
    [InlineData("/SHOP/dealer-stock/index.html")]
    [InlineData("/shop/dealer-stock/index.htm")]
    public async Task No_spelling_of_a_guarded_page_gives_it_to_a_guest(string path)
    {
        using var guest = new Browser($"http://127.0.0.1:{port}");
        var answer = await guest.GetAsync(path);
        ((int)answer.StatusCode).ShouldBeGreaterThanOrEqualTo(300);
        (await answer.Content.ReadAsStringAsync()).ShouldNotContain("This is shop/dealer-stock");
        if (answer.StatusCode == HttpStatusCode.MovedPermanently)
        {
            (await guest.StatusAsync(answer.Headers.Location!.IsAbsoluteUri ? answer.Headers.Location.PathAndQuery : answer.Headers.Location.ToString()))
                .ShouldBe(HttpStatusCode.SeeOther);
        }
    }

    [Fact]
    public async Task The_sweep_tells_where_index_files_are_not_known_as_such()
    {
        var stop = TestContext.Current.CancellationToken;
        var conf = Path.Combine(folder, "nginx.conf");
        await File.WriteAllTextAsync(conf,
            Regex.Replace(await File.ReadAllTextAsync(conf, stop), "if \\(\\$request_uri.*?\\n    \\}", "", RegexOptions.Singleline), stop);
        using (var reload = Process.Start("kill", ["-HUP", nginx!.Id.ToString(System.Globalization.CultureInfo.InvariantCulture)]))
        {
            await reload.WaitForExitAsync(stop);
        }

        var (_, tag) = await site.Client.SettingsAsync(stop);
        await site.Client.SetSettingsAsync(
            System.Text.Json.JsonSerializer.SerializeToElement(new
            {
                paths = new
                {
                    ignoreCase = true, ignoreTrailingSlash = true, refuseSemicolons = true, refuseTrailingDots = true,
                    indexNames = Array.Empty<string>()
                }
            }), tag!, stop);
        var asked = new SweepDraft(null, $"http://127.0.0.1:{port}", null, null, null);
        for (var n = 0; ; n++)
        {
            var report = (await site.Client.SweepAsync(asked, stop).LastAsync(stop)).Report!;
            var spelled = report.Findings.Where(f => f.Kind == "spelled").ToList();
            if (spelled.Count > 0 || n == 20)
            {
                spelled.ShouldContain(f => f.Address == "/shop/dealer-stock/index.html" && f.IsLeak && f.Gate == "dealer-stock"
                    && f.What.Contains("/shop/dealer-stock"));
                report.Leaks.ShouldBeGreaterThan(0);
                return;
            }
        }
    }

    [Fact]
    public async Task A_page_without_the_gateway_asks_for_its_parts_and_menu_in_one_call()
    {
        await File.WriteAllTextAsync(Path.Combine(folder, "site", "shop", "index.html"), """
            <!doctype html><script src="/sentinel/parts.js" defer></script><nav><ul><li><a href="/shop/">Shop</a></li>
            <li><ul><li><a href="/shop/dealer-stock/">Dealer stock</a></li></ul></li><li><a href="/shop/clearance-vault/">Vault</a></li></ul></nav>
            <wary-form name="sign-in">no script</wary-form><p data-wary-part="/nowhere.html"></p>
            """);
        using var playwright = await Microsoft.Playwright.Playwright.CreateAsync();
        await using var chromium = await playwright.Chromium.LaunchAsync(new()
        { ExecutablePath = "/usr/bin/chromium", Args = ["--no-sandbox", "--disable-gpu"] });
        var page = await chromium.NewPageAsync();
        var calls = new List<string>();
        page.Request += (_, request) => calls.Add(new Uri(request.Url).AbsolutePath);
        await page.GotoAsync($"http://127.0.0.1:{port}/shop/");
        await page.Locator(".wary-sign-in").WaitForAsync();
        (await page.Locator("nav").InnerTextAsync()).ShouldNotContain("Dealer stock");
        (await page.Locator("nav li").CountAsync()).ShouldBe(2);
        (await page.Locator("nav .wary-mark").CountAsync()).ShouldBe(1);
        calls.Count(c => c == "/sentinel/parts").ShouldBe(1);
        await page.Locator(".wary-sign-in").GetByLabel("E-mail or user name").FillAsync("nell");
        await page.Locator(".wary-sign-in").GetByLabel("Password").FillAsync("orchard-quiet-91");
        await page.Locator(".wary-sign-in").GetByRole(Microsoft.Playwright.AriaRole.Button).ClickAsync();
        await page.Locator(".wary-sign-out").WaitForAsync();
        (await page.Locator("nav").InnerTextAsync()).ShouldContain("Dealer stock");
    }

    [Fact]
    public async Task The_sweep_finds_no_leak_behind_this_configuration_and_one_when_the_check_is_taken_out()
    {
        var stop = TestContext.Current.CancellationToken;
        var asked = new SweepDraft(["role:dealer"], $"http://127.0.0.1:{port}", null, null, null);
        var report = (await site.Client.SweepAsync(asked, stop).LastAsync(stop)).Report!;
        report.Findings.Where(f => f.IsLeak).ShouldBeEmpty();
        report.Guarded.ShouldBeGreaterThan(10);
        var conf = Path.Combine(folder, "nginx.conf");
        await File.WriteAllTextAsync(conf, (await File.ReadAllTextAsync(conf, stop)).Replace("auth_request /_wary_check;", "", StringComparison.Ordinal), stop);
        using (var reload = Process.Start("kill", ["-HUP", nginx!.Id.ToString(System.Globalization.CultureInfo.InvariantCulture)]))
        {
            await reload.WaitForExitAsync(stop);
        }

        for (var n = 0; n < 50; n++)
        {
            report = (await site.Client.SweepAsync(asked, stop).LastAsync(stop)).Report!;
            if (report.Findings.Any(f => f.Kind == "reachable" && f.Address == "/members/calendar"))
            {
                break;
            }

            await Task.Delay(100, stop);
        }

        report.Findings.ShouldContain(f => f.Kind == "reachable" && f.Address == "/members/calendar");
    }

    [Fact]
    public async Task The_vault_opens_with_its_password()
    {
        using var guest = new Browser($"http://127.0.0.1:{port}");
        (await guest.GetAsync("/shop/clearance-vault/")).Headers.Location!.ToString()
            .ShouldContain("/account/unlock?gate=clearance-vault&return_to=%2Fshop%2Fclearance-vault%2F");
        (await guest.UnlockAsync(RunningSite.VaultPassword)).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await guest.StatusAsync("/shop/clearance-vault/")).ShouldBe(HttpStatusCode.OK);
    }

    [Theory]
    [InlineData("/shop//dealer-stock/", 303)]
    [InlineData("/shop/./dealer-stock/", 303)]
    [InlineData("/x/../shop/dealer-stock/", 303)]
    [InlineData("/shop/%64ealer-stock/", 303)]
    [InlineData("/shop%2fdealer-stock/", 400)]
    [InlineData("/shop/dealer-stock;/", 400)]
    [InlineData("/account/..%2fshop/dealer-stock/", 400)]
    [InlineData("/account/../shop/dealer-stock/", 303)]
    [InlineData("/_wary_check", 404)]
    public async Task No_other_spelling_gets_through(string path, int status)
    {
        using var guest = new Browser($"http://127.0.0.1:{port}");
        var response = await guest.GetAsync(path);
        ((int)response.StatusCode).ShouldBe(status);
        (await response.Content.ReadAsStringAsync()).ShouldNotContain("This is shop");
    }

    [Fact]
    public async Task Without_the_service_everything_is_closed()
    {
        await site.DisposeAsync();
        using var guest = new Browser($"http://127.0.0.1:{port}");
        ((int)await guest.StatusAsync("/shop/")).ShouldBeInRange(500, 502);
        site = await RunningSite.StartAsync(origin: "");
    }
}
