using System.Diagnostics;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Microsoft.Playwright;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>TLS of our own, met by curl and by Chromium: what they make of it, not what we do.</summary>
public sealed class TlsTests : IAsyncLifetime
{
    private readonly string folder = Directory.CreateTempSubdirectory("wary-tls-").FullName;
    private readonly int port = RunningSite.FreePort();
    private readonly int plain = RunningSite.FreePort();
    private readonly ECDsa authorityKey = ECDsa.Create(ECCurve.NamedCurves.nistP256);
    private readonly ECDsa key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
    private X509Certificate2 authority = null!;
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        var request = new CertificateRequest("CN=Authority of the tests", authorityKey, HashAlgorithmName.SHA256);
        request.CertificateExtensions.Add(new X509BasicConstraintsExtension(true, false, 0, true));
        authority = request.CreateSelfSigned(DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(30));
        await File.WriteAllTextAsync(Path.Combine(folder, "ca.crt"), authority.ExportCertificatePem());
        site = await RunningSite.StartAsync(settings:
        [
            $"--Wary:SiteListen=https://127.0.0.1:{port}", $"--Wary:SiteUrl=https://shop.test:{port}", $"--Wary:RedirectListen=http://127.0.0.1:{plain}",
            $"--Wary:Certificates:0={Make("shop", "shop.test")}", $"--Wary:Certificates:1={Make("club", "club.test", "*.club.test")}", "--Wary:HstsDays=180",
        ]);
    }

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        authority.Dispose();
        authorityKey.Dispose();
        key.Dispose();
        Directory.Delete(folder, true);
    }

    /// <summary>Writes a certificate that the authority issued, and its key; gives the pair as it is set.</summary>
    private string Make(string file, params string[] names)
    {
        var request = new CertificateRequest("CN=" + names[0], key, HashAlgorithmName.SHA256);
        var alternative = new SubjectAlternativeNameBuilder();
        names.ToList().ForEach(alternative.AddDnsName);
        request.CertificateExtensions.Add(alternative.Build());
        using var made = request.Create(authority, DateTimeOffset.UtcNow.AddHours(-1), DateTimeOffset.UtcNow.AddDays(20), RandomNumberGenerator.GetBytes(12));
        var (certificate, secret) = (Path.Combine(folder, file + ".crt"), Path.Combine(folder, file + ".key"));
        File.WriteAllText(certificate, made.ExportCertificatePem());
        File.WriteAllText(secret, key.ExportPkcs8PrivateKeyPem());
        return $"{certificate} {secret}";
    }

    /// <summary>What curl says of an address under a name; names lead to this machine, and only the authority of the tests is believed.</summary>
    private async Task<(int Exit, string Said)> CurlAsync(string url, params string[] more)
    {
        var name = new Uri(url).Host;
        using var curl = Process.Start(new ProcessStartInfo(
            "curl", ["-s", "--noproxy", "*", "--cacert", Path.Combine(folder, "ca.crt"), "--connect-to", $"{name}::127.0.0.1:", .. more, url])
        { RedirectStandardOutput = true, RedirectStandardError = true })!;
        var said = await curl.StandardOutput.ReadToEndAsync(Stop);
        await curl.WaitForExitAsync(Stop);
        return (curl.ExitCode, said);
    }

    [Fact]
    public async Task Curl_believes_it_by_name_speaks_http_2_and_is_led_there_from_plain_http()
    {
        string[] figures = ["-o", "/dev/null", "-w", "%{http_code} %{http_version} %{ssl_verify_result}"];
        (await CurlAsync($"https://shop.test:{port}/", figures)).ShouldBe((0, "200 2 0"));
        (await CurlAsync($"https://shop.test:{port}/", [.. figures, "--http1.1"])).ShouldBe((0, "200 1.1 0"));
        (await CurlAsync($"https://club.test:{port}/", figures)).ShouldBe((0, "200 2 0"));
        (await CurlAsync($"https://www.club.test:{port}/", figures)).ShouldBe((0, "200 2 0"));
        // A star stands for one part of a name, and a name that nobody has a certificate for is believed by nobody (curl: 60).
        (await CurlAsync($"https://a.b.club.test:{port}/", figures)).Exit.ShouldBe(60);
        (await CurlAsync($"https://elsewhere.test:{port}/", figures)).Exit.ShouldBe(60);
        // What is broken since long ago is not spoken (curl: 35).
        (await CurlAsync($"https://shop.test:{port}/", [.. figures, "--tls-max", "1.1", "--ciphers", "DEFAULT@SECLEVEL=0"])).Exit.ShouldBe(35);
        (await CurlAsync($"https://shop.test:{port}/", "-I")).Said.ToLowerInvariant().ShouldContain("strict-transport-security: max-age=15552000");
        (await CurlAsync($"http://shop.test:{plain}/product/case-fern-40?a=b%20c", "-o", "/dev/null", "-w", "%{http_code} %{redirect_url}")).Said
            .ShouldBe($"308 https://shop.test:{port}/product/case-fern-40?a=b%20c");
        (await CurlAsync($"https://shop.test:{port}/product/case-fern-40", "-w", "%{http_code}")).Said.ShouldEndWith("401");
    }

    [Fact]
    public async Task Chromium_signs_in_over_it_and_goes_on_when_the_certificate_is_renewed()
    {
        // Beside the authorities of the machine, the key of the shop is believed, and no other.
        var believed = Convert.ToBase64String(SHA256.HashData(key.ExportSubjectPublicKeyInfo()));
        using var playwright = await Playwright.CreateAsync();
        await using var chromium = await playwright.Chromium.LaunchPersistentContextAsync(Path.Combine(folder, "profile"), new()
        {
            ExecutablePath = "/usr/bin/chromium",
            Args = ["--no-sandbox", "--disable-gpu", $"--ignore-certificate-errors-spki-list={believed}",
                $"--host-resolver-rules=MAP shop.test:{plain} 127.0.0.1:{plain}, MAP *.test 127.0.0.1"],
        });
        var page = await chromium.NewPageAsync();
        var answer = (await page.GotoAsync($"http://shop.test:{plain}/product/case-fern-40")).ShouldNotBeNull();
        page.Url.ShouldBe($"https://shop.test:{port}/product/case-fern-40");
        (await answer.SecurityDetailsAsync()).ShouldNotBeNull().Protocol.ShouldBe("TLS 1.3");
        await page.GetByLabel("E-mail or user name").FillAsync("nell");
        await page.GetByLabel("Password").FillAsync("orchard-quiet-91");
        await page.Keyboard.PressAsync("Enter");
        await page.GetByRole(AriaRole.Heading, new() { Name = "Case of 6 Fern 40 mm" }).WaitForAsync();
        var cookies = await chromium.CookiesAsync();
        cookies.ShouldAllBe(c => c.Secure);
        cookies.ShouldContain(c => c.HttpOnly && c.Name.StartsWith("__Host-", StringComparison.Ordinal));

        Make("shop", "shop.test", "renewed.test");
        for (var n = 0; ; n++)
        {
            var (exit, _) = await CurlAsync($"https://renewed.test:{port}/", "-o", "/dev/null");
            if (exit == 0)
            {
                break;
            }

            n.ShouldBeLessThan(100, "the renewed certificate is not taken up");
            await Task.Delay(100, Stop);
        }

        (await page.ReloadAsync()).ShouldNotBeNull().Status.ShouldBe(200);
        await page.GetByRole(AriaRole.Heading, new() { Name = "Case of 6 Fern 40 mm" }).WaitForAsync();
    }
}
