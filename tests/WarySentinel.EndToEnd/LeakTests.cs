using Shouldly;
using WarySentinel.Contract.Sweep;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>A sweep of a site that leaks, served by a real nginx, its pages drawn in a real browser.</summary>
public sealed class LeakTests : IAsyncLifetime
{
    private const string Browser = "--Wary:SweepBrowser=/usr/bin/chromium";
    private readonly string folder = Directory.CreateTempSubdirectory("wary-leaks-").FullName;
    private RunningSite? site;
    private RunningNginx? nginx;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync() => await LeakySite.LayAsync(Path.Combine(folder, "site"));

    public async ValueTask DisposeAsync()
    {
        await (nginx?.DisposeAsync() ?? default);
        await (site?.DisposeAsync() ?? default);
        Directory.Delete(folder, true);
    }

    private static string Told(IEnumerable<SweepFindingView> found) => string.Join('\n', found.Select(f => $"{f.Kind} {f.Via} {f.Address} {f.What}"));

    private static IReadOnlyList<string> Missed(IEnumerable<string> leaks, IReadOnlyList<SweepFindingView> found) =>
        [.. leaks.Where(at => !found.Any(f => f.Address.TrimEnd('/') == at.TrimEnd('/')))];

    [Fact]
    public async Task Behind_nginx_as_documented_all_that_lies_about_and_all_that_is_drawn_is_found()
    {
        var port = RunningSite.FreePort();
        site = await RunningSite.StartAsync("", ["--Wary:TrustedProxies:0=127.0.0.1", $"--Wary:FetchHosts:0=127.0.0.1:{port}", Browser], empty: true);
        nginx = await RunningNginx.StartAsync(folder, await NginxTests.ConfigurationAsync(site, port, folder), $"http://127.0.0.1:{port}/account/sign-in");
        var client = await site.OwnAsync(LeakySite.Policy, Stop);
        var draft = new SweepDraft(["signed-in"], $"http://127.0.0.1:{port}", null, null, null);
        var report = (await client.SweepAsync(draft, Stop).LastAsync(Stop)).Report.ShouldNotBeNull();
        var leaks = report.Findings.Where(f => f.IsLeak).ToList();
        Missed(LeakySite.Lying.Keys, leaks).ShouldBeEmpty(Told(leaks));
        Missed(LeakySite.Drawn.Keys, [.. leaks.Where(f => f.Via == "browser")]).ShouldBeEmpty(Told(leaks));
        leaks.ShouldAllBe(f => f.Mend.Length > 10 && f.What.Length > 10);
        leaks.Where(f => !LeakySite.Lying.Keys.Concat(LeakySite.Drawn.Keys).Append("/drawer/1-2.dat").Any(at => at.TrimEnd('/') == f.Address.TrimEnd('/')))
            .ShouldBeEmpty(Told(leaks));
        report.Warnings.ShouldBeEmpty();
        report.Drawn.ShouldBeGreaterThanOrEqualTo(LeakySite.Drawn.Count);
    }

    [Fact]
    public async Task Behind_the_gateway_what_scripts_draw_is_found_too()
    {
        var port = RunningSite.FreePort();
        nginx = await RunningNginx.StartAsync(folder, $"server {{ listen 127.0.0.1:{port}; root {folder}/site; }}", $"http://127.0.0.1:{port}/");
        site = await RunningSite.StartAsync($"http://127.0.0.1:{port}", [Browser], empty: true);
        var client = await site.OwnAsync(LeakySite.Policy, Stop);
        var report = (await client.SweepAsync(new SweepDraft(null, null, null, null, null), Stop).LastAsync(Stop)).Report.ShouldNotBeNull();
        var leaks = report.Findings.Where(f => f.IsLeak).ToList();
        Missed(LeakySite.Drawn.Keys, leaks).ShouldBeEmpty(Told(leaks));
        // What the gateway filters is no leak: links of pages and feeds, lists of addresses.
        Missed(LeakySite.Lying.Keys.Except(["/map.html", "/feed.xml", "/nothing.html"]), leaks).ShouldBeEmpty(Told(leaks));
    }
}
