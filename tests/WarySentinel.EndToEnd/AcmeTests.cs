using System.Diagnostics;
using System.Security.Cryptography.X509Certificates;
using Shouldly;
using WarySentinel.StandIns.Authority;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>A certificate that the service has issued for itself, renewed in time, and what it does where none is to be had. Met by curl.</summary>
public sealed class AcmeTests : IAsyncDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("wary-acme-").FullName;
    private readonly int port = RunningSite.FreePort();
    private readonly int plain = RunningSite.FreePort();
    private readonly int directory = RunningSite.FreePort();

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private string Root => Path.Combine(folder, "root.pem");

    public ValueTask DisposeAsync()
    {
        Directory.Delete(folder, true);
        return ValueTask.CompletedTask;
    }

    private async Task<RunningSite> SiteAsync(AcmeAuthority authority, params string[] names)
    {
        await File.WriteAllTextAsync(Root, authority.Root.ExportCertificatePem(), Stop);
        return await RunningSite.StartAsync(settings:
        [
            $"--Wary:SiteListen=https://127.0.0.1:{port}", $"--Wary:SiteUrl=https://shop.test:{port}", $"--Wary:RedirectListen=http://127.0.0.1:{plain}",
            $"--Wary:AcmeDirectory=https://localhost:{directory}/directory", "--Wary:AcmeContact=owner@shop.test", $"--Wary:AcmeCa={Root}",
            "--Wary:RoundMilliseconds=300", .. names.Select((n, at) => $"--Wary:AcmeNames:{at}={n}"),
        ]);
    }

    private async Task<(int Exit, string Said)> CurlAsync(string name, params string[] more)
    {
        using var curl = Process.Start(new ProcessStartInfo(
            "curl", ["-s", "--noproxy", "*", "--cacert", Root, "--connect-to", $"{name}::127.0.0.1:", .. more, $"https://{name}:{port}/"])
        { RedirectStandardOutput = true, RedirectStandardError = true })!;
        var said = curl.StandardOutput.ReadToEndAsync(Stop);
        var wrong = curl.StandardError.ReadToEndAsync(Stop);
        await curl.WaitForExitAsync(Stop);
        return (curl.ExitCode, await said + await wrong);
    }

    private async Task UntilBelievedAsync(string name)
    {
        for (var n = 0; (await CurlAsync(name, "-o", "/dev/null")).Exit != 0; n++)
        {
            n.ShouldBeLessThan(200, "there is no certificate that curl believes");
            await Task.Delay(100, Stop);
        }
    }

    private static async Task<string> SerialAsync(string file)
    {
        using var held = X509Certificate2.CreateFromPem(await File.ReadAllTextAsync(file, Stop));
        return held.SerialNumber;
    }

    [Fact]
    public async Task A_certificate_is_issued_for_each_name_kept_over_a_start_and_renewed_in_time()
    {
        using var authority = new AcmeAuthority(plain, TimeSpan.FromSeconds(24));
        await using var ca = AcmeSite.Build(authority, directory);
        await ca.StartAsync(Stop);
        await using var site = await SiteAsync(authority, "shop.test", "www.shop.test");
        await UntilBelievedAsync("shop.test");
        (await CurlAsync("www.shop.test", "-o", "/dev/null", "-w", "%{http_code} %{http_version}")).ShouldBe((0, "200 2"));
        (await CurlAsync("elsewhere.test", "-o", "/dev/null")).Exit.ShouldBe(60);
        authority.Issued.ShouldBe(1);
        var file = Path.Combine(site.Data, "tls", "site.pem");
        File.GetUnixFileMode(file).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);

        // Two thirds of its life later, another one is there, for whoever comes next.
        using var first = X509Certificate2.CreateFromPemFile(file);
        for (var n = 0; await SerialAsync(file) == first.SerialNumber; n++)
        {
            n.ShouldBeLessThan(400, "it is not renewed");
            await Task.Delay(100, Stop);
        }

        await UntilBelievedAsync("shop.test");
        using var second = X509Certificate2.CreateFromPemFile(file);
        (second.NotBefore - first.NotBefore).ShouldBeInRange(TimeSpan.FromSeconds(15), TimeSpan.FromSeconds(40));
        authority.Accounts.Count.ShouldBe(1);
    }

    [Fact]
    public async Task Where_the_authority_refuses_or_is_away_the_site_goes_on_and_it_is_tried_again_later()
    {
        // Proofs are asked for where nobody answers.
        using var authority = new AcmeAuthority(RunningSite.FreePort(), TimeSpan.FromDays(30));
        await using var ca = AcmeSite.Build(authority, directory);
        await ca.StartAsync(Stop);
        await using var site = await SiteAsync(authority, "shop.test");
        for (var n = 0; authority.Orders.IsEmpty || authority.Orders.Values.Any(o => o.Status == "pending"); n++)
        {
            n.ShouldBeLessThan(200);
            await Task.Delay(100, Stop);
        }

        authority.Orders.Values.ShouldHaveSingleItem().Status.ShouldBe("invalid");
        authority.Issued.ShouldBe(0);
        (await CurlAsync("shop.test", "-o", "/dev/null")).Exit.ShouldBe(60);
        (await CurlAsync("shop.test", "-k", "-o", "/dev/null", "-w", "%{http_code}")).ShouldBe((0, "200"));
    }

    [Theory]
    [InlineData("http://authority.test/directory", "shop.test", "owner@shop.test", "http://0.0.0.0:80", "not an https address")]
    [InlineData("https://authority.test/directory", "*.shop.test", "owner@shop.test", "http://0.0.0.0:80", "cannot be proved")]
    [InlineData("https://authority.test/directory", "", "owner@shop.test", "http://0.0.0.0:80", "is not a name")]
    [InlineData("https://authority.test/directory", "shop.test", "nobody", "http://0.0.0.0:80", "is not an e-mail address")]
    [InlineData("https://authority.test/directory", "shop.test", "owner@shop.test", "", "port 80")]
    [InlineData("", "shop.test", "", "", "no AcmeDirectory")]
    [InlineData("https://authority.test/directory", "shop.test", "owner@shop.test", "http://0.0.0.0:80", null)]
    public void What_could_not_work_is_said_at_the_start(string directory, string name, string contact, string redirect, string? said)
    {
        var options = new Service.ServiceOptions
        {
            SiteUrl = "https://shop.test", AcmeDirectory = directory, AcmeNames = name.Length == 0 ? [] : [name], AcmeContact = contact,
            RedirectListen = redirect,
        };
        (options.Fault() ?? "").ShouldContain(said ?? "");
        (options.Fault() is null).ShouldBe(said is null);
    }
}
