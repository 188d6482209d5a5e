using System.Collections.Concurrent;
using System.Net;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.Logging;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>An origin over TLS: whose certificate counts, which names are asked for, and what is said where it is not to be trusted.</summary>
public sealed class OriginTlsTests : IDisposable
{
    private static readonly DateTimeOffset Now = DateTimeOffset.UtcNow;
    private readonly Authority authority = new("Fernlight Own Authority");
    private readonly string folder = Directory.CreateTempSubdirectory().FullName;

    public void Dispose()
    {
        authority.Dispose();
        Directory.Delete(folder, true);
    }

    [Fact]
    public async Task An_authority_of_ones_own_is_trusted_once_it_is_named_and_only_then()
    {
        await using var origin = await Origin.StartAsync(authority.Issue("127.0.0.1", Now.AddDays(30)));
        await using var site = await RunningSite.StartAsync(origin.Address);
        await FaultAsync(site, "Fernlight Own Authority", "OriginCa");

        await site.RestartAsync([$"--Wary:OriginCa={authority.Write(folder)}"]);
        using var visitor = site.NewBrowser();
        (await visitor.PageAsync("/who")).ShouldBe("Host " + new Uri(site.Site).Authority);
        (await site.Client.StatusAsync(TestContext.Current.CancellationToken)).OriginFault.ShouldBeNull();

        using var other = new Authority("Somebody Else");
        await site.RestartAsync([$"--Wary:OriginCa={other.Write(folder)}"]);
        await FaultAsync(site, "Fernlight Own Authority", "does not stand in OriginCa");
    }

    [Fact]
    public async Task A_certificate_that_has_ended_or_is_for_another_name_is_said_with_its_day_and_names()
    {
        var file = authority.Write(folder);
        await using var old = await Origin.StartAsync(authority.Issue("127.0.0.1", Now.AddDays(-3)));
        await using var site = await RunningSite.StartAsync(old.Address, [$"--Wary:OriginCa={file}"]);
        await FaultAsync(site, "ended on " + Now.AddDays(-3).UtcDateTime.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture));

        await using var named = await Origin.StartAsync(authority.Issue("shop.internal", Now.AddDays(30)));
        await using var elsewhere = await RunningSite.StartAsync(named.Address, [$"--Wary:OriginCa={file}"]);
        await FaultAsync(elsewhere, "shop.internal", "127.0.0.1", "OriginServerName");
        await elsewhere.RestartAsync([$"--Wary:OriginCa={file}", "--Wary:OriginServerName=shop.internal", "--Wary:OriginHost=front.internal:8443"]);
        using var visitor = elsewhere.NewBrowser();
        (await visitor.PageAsync("/who")).ShouldBe("Host front.internal:8443");
        named.Asked.ShouldContain("shop.internal");
    }

    /// <summary>Were each host a pool of its own, anybody could have the service open as many connections as there are names.</summary>
    [Fact]
    public async Task Whatever_host_a_visitor_names_the_connections_to_the_origin_are_the_same()
    {
        await using var origin = await Origin.StartAsync(authority.Issue("127.0.0.1", Now.AddDays(30)));
        await using var site = await RunningSite.StartAsync(origin.Address, [$"--Wary:OriginCa={authority.Write(folder)}"]);
        for (var n = 0; n < 40; n++)
        {
            (await RawHttp.SendAsync(site.Site, $"GET /who HTTP/1.1\nHost: h{n}.example\nConnection: close\n\n")).ShouldContain($"Host h{n}.example");
        }

        origin.Asked.Count.ShouldBeLessThan(6);
    }

    [Fact]
    public async Task What_the_origin_says_of_its_own_names_is_turned_to_the_sites()
    {
        await using var origin = await Origin.StartAsync(authority.Issue("127.0.0.1", Now.AddDays(30)));
        await using var site = await RunningSite.StartAsync(
            origin.Address, [$"--Wary:OriginCa={authority.Write(folder)}", "--Wary:OriginHost=front.internal"]);
        using var visitor = site.NewBrowser();
        (await visitor.PageAsync("/names")).ShouldBe(string.Concat(Enumerable.Repeat($"<a href=\"{site.Site}/shop\">x</a>", 3))
            + $"<a href=\"//{new Uri(site.Site).Authority}/shop\">x</a><a href=\"https://front.internal.example/shop\">x</a>");
        using var sent = await visitor.GetAsync("/sends");
        sent.Headers.Location!.ToString().ShouldBe(site.Site + "/shop?a=1");
    }

    [Fact]
    public async Task An_origin_that_is_away_or_speaks_something_else_is_said_until_it_answers()
    {
        var stop = TestContext.Current.CancellationToken;
        var port = RunningSite.FreePort();
        var file = authority.Write(folder);
        await using var site = await RunningSite.StartAsync($"https://127.0.0.1:{port}", [$"--Wary:OriginCa={file}"]);
        await FaultAsync(site, "refuses connections");

        await using (await Origin.StartAsync(null, port))
        {
            await FaultAsync(site, "does not speak TLS");
        }

        await using var back = await Origin.StartAsync(authority.Issue("127.0.0.1", Now.AddDays(30)), port);
        using var visitor = site.NewBrowser();
        (await visitor.StatusAsync("/who")).ShouldBe(HttpStatusCode.OK);
        (await site.Client.StatusAsync(stop)).OriginFault.ShouldBeNull();
    }

    [Theory]
    [InlineData("--Wary:OriginCa=/no/such/file.pem", "OriginCa")]
    [InlineData("--Wary:OriginServerName=a b", "OriginServerName")]
    [InlineData("--Wary:OriginHost=https://shop", "OriginHost")]
    public void Settings_that_cannot_be_are_said_before_the_service_starts(string setting, string named) =>
        Should.Throw<InvalidDataException>(() => Sentinel.Build(["--Wary:Origin=https://127.0.0.1:1", $"--Wary:Data={folder}", setting]))
            .Message.ShouldContain(named);

    [Theory]
    [InlineData("--Wary:OriginHost=shop.internal", "")]
    [InlineData("--Wary:OriginServerName=shop.internal", "http://127.0.0.1:1")]
    public void Settings_for_an_origin_that_is_not_there_or_has_no_TLS_are_said_too(string setting, string origin) => Should.Throw<InvalidDataException>(
        () => Sentinel.Build([$"--Wary:Origin={origin}", $"--Wary:Data={folder}", setting])).Message.ShouldContain("OriginServerName");

    private static async Task FaultAsync(RunningSite site, params string[] says)
    {
        using var visitor = site.NewBrowser();
        (await visitor.StatusAsync("/who")).ShouldBe(HttpStatusCode.BadGateway);
        var fault = (await site.Client.StatusAsync(TestContext.Current.CancellationToken)).OriginFault;
        says.ShouldAllBe(s => fault!.Reason.Contains(s), fault!.Reason);
    }

    private sealed class Authority : IDisposable
    {
        private readonly X509Certificate2 root;
        private readonly string name;

        public Authority(string name)
        {
            this.name = name;
            using var key = RSA.Create(2048);
            var request = new CertificateRequest($"CN={name}", key, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
            request.CertificateExtensions.Add(new X509BasicConstraintsExtension(true, false, 0, true));
            root = request.CreateSelfSigned(Now.AddYears(-1), Now.AddYears(1));
        }

        public X509Certificate2 Issue(string host, DateTimeOffset until)
        {
            using var key = RSA.Create(2048);
            var request = new CertificateRequest($"CN={host}", key, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
            var names = new SubjectAlternativeNameBuilder();
            if (IPAddress.TryParse(host, out var address))
            {
                names.AddIpAddress(address);
            }
            else
            {
                names.AddDnsName(host);
            }

            request.CertificateExtensions.Add(names.Build());
            using var bare = request.Create(root, Now.AddDays(-60), until, RandomNumberGenerator.GetBytes(8));
            return bare.CopyWithPrivateKey(key);
        }

        public string Write(string folder)
        {
            var file = Path.Combine(folder, name + ".pem");
            File.WriteAllText(file, root.ExportCertificatePem());
            return file;
        }

        public void Dispose() => root.Dispose();
    }

    private sealed class Origin : IAsyncDisposable
    {
        private readonly WebApplication app;

        private Origin(WebApplication app, string address) => (this.app, Address) = (app, address);

        public string Address { get; }

        /// <summary>The names that were asked for while TLS was set up, one for each connection.</summary>
        public ConcurrentBag<string> Asked { get; } = [];

        public static async Task<Origin> StartAsync(X509Certificate2? certificate, int? port = null)
        {
            var builder = WebApplication.CreateSlimBuilder();
            builder.Logging.ClearProviders();
            var at = port ?? RunningSite.FreePort();
            ConcurrentBag<string>? asked = null;
            builder.WebHost.UseKestrelHttpsConfiguration().ConfigureKestrel(kestrel => kestrel.ListenLocalhost(at, listen =>
            {
                if (certificate is not null)
                {
                    listen.UseHttps(https => https.ServerCertificateSelector = (_, name) =>
                    {
                        asked?.Add(name ?? "");
                        return certificate;
                    });
                }
            }));
            var app = builder.Build();
            app.MapGet("/who", (HttpRequest request) => $"Host {request.Host}");
            app.MapGet("/names", () => Results.Text(
                $"<a href=\"https://front.internal/shop\">x</a><a href=\"http://front.internal/shop\">x</a><a href=\"https://127.0.0.1:{at}/shop\">x</a>"
                    + "<a href=\"//front.internal/shop\">x</a><a href=\"https://front.internal.example/shop\">x</a>", "text/html"));
            app.MapGet("/sends", () => Results.Redirect("https://front.internal/shop?a=1"));
            await app.StartAsync();
            var made = new Origin(app, $"https://127.0.0.1:{at}");
            asked = made.Asked;
            return made;
        }

        public ValueTask DisposeAsync() => app.DisposeAsync();
    }
}
