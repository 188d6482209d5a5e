using System.Net;
using System.Net.Security;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Microsoft.AspNetCore.Connections;
using Microsoft.Extensions.DependencyInjection;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Web;

/// <summary>TLS of our own: by name, with files that are renewed, and plain http that leads there.</summary>
public sealed class TlsTests : IDisposable
{
    private readonly string folder = Directory.CreateTempSubdirectory("wary-tls-").FullName;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public void Dispose() => Directory.Delete(folder, true);

    /// <summary>Writes a certificate for names, and its key; gives the pair as it is set.</summary>
    private string Make(string file, params string[] names)
    {
        using var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var request = new CertificateRequest("CN=" + names[0], key, HashAlgorithmName.SHA256);
        var alternative = new SubjectAlternativeNameBuilder();
        names.ToList().ForEach(alternative.AddDnsName);
        request.CertificateExtensions.Add(alternative.Build());
        using var made = request.CreateSelfSigned(DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(30));
        var (certificate, secret) = (Path.Combine(folder, file + ".crt"), Path.Combine(folder, file + ".key"));
        File.WriteAllText(certificate, made.ExportCertificatePem());
        File.WriteAllText(secret, key.ExportPkcs8PrivateKeyPem());
        return $"{certificate} {secret}";
    }

    /// <summary>Asks under a name, wherever that leads, and says who answered.</summary>
    private static async Task<(HttpResponseMessage Answer, string Subject)> AskAsync(string name, int port, Version? version = null)
    {
        var subject = "";
        var handler = new SocketsHttpHandler
        {
            AllowAutoRedirect = false,
            ConnectCallback = async (_, stop) =>
            {
                var socket = new Socket(AddressFamily.InterNetwork, SocketType.Stream, ProtocolType.Tcp);
                await socket.ConnectAsync(IPAddress.Loopback, port, stop);
                return new NetworkStream(socket, true);
            },
            SslOptions = new SslClientAuthenticationOptions
            {
                RemoteCertificateValidationCallback = (_, given, _, _) =>
                {
                    // They are of our own making: whose it is, is what is looked at.
                    subject = given?.Subject ?? "";
                    return subject.StartsWith("CN=", StringComparison.Ordinal);
                },
            },
        };
        using var http = new HttpClient(handler);
        using var request = new HttpRequestMessage(HttpMethod.Get, $"https://{name}:{port}/")
        { Version = version ?? HttpVersion.Version11, VersionPolicy = HttpVersionPolicy.RequestVersionExact };
        return (await http.SendAsync(request, Stop), subject);
    }

    [Fact]
    public async Task A_name_gets_its_certificate_renewed_ones_count_and_plain_http_leads_there()
    {
        var (port, plain) = (RunningSite.FreePort(), RunningSite.FreePort());
        var (shop, other) = (Make("shop", "shop.test", "*.shop.test"), Make("other", "other.test"));
        await using var site = await RunningSite.StartAsync(settings:
        [
            $"--Wary:SiteListen=https://127.0.0.1:{port}", $"--Wary:SiteUrl=https://shop.test:{port}", $"--Wary:RedirectListen=http://127.0.0.1:{plain}",
            $"--Wary:Certificates:0={shop}", $"--Wary:Certificates:1={other}", "--Wary:HstsDays=180",
        ]);
        foreach (var (name, subject) in new[] { ("shop.test", "CN=shop.test"), ("www.shop.test", "CN=shop.test"), ("other.test", "CN=other.test"),
            ("unknown.test", "CN=shop.test"), ("a.b.shop.test", "CN=shop.test") })
        {
            (await AskAsync(name, port)).Subject.ShouldBe(subject, name);
        }

        var (answer, _) = await AskAsync("shop.test", port, HttpVersion.Version20);
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        answer.Version.ShouldBe(HttpVersion.Version20);
        answer.Headers.GetValues("Strict-Transport-Security").ShouldBe(["max-age=15552000"]);

        // Half of a renewal: what was there stays. Then the other half.
        var (before, after) = (Make("before", "gone.test"), Make("after", "renewed.test"));
        File.Copy(before.Split(' ')[0], other.Split(' ')[0], true);
        File.SetLastWriteTimeUtc(other.Split(' ')[0], DateTime.UtcNow.AddSeconds(5));
        await Task.Delay(2200, Stop);
        (await AskAsync("other.test", port)).Subject.ShouldBe("CN=other.test");
        File.Copy(after.Split(' ')[0], other.Split(' ')[0], true);
        File.Copy(after.Split(' ')[1], other.Split(' ')[1], true);
        File.SetLastWriteTimeUtc(other.Split(' ')[1], DateTime.UtcNow.AddSeconds(10));
        await Task.Delay(2200, Stop);
        (await AskAsync("renewed.test", port)).Subject.ShouldBe("CN=renewed.test");

        using var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false });
        using var asked = new HttpRequestMessage(HttpMethod.Post, $"http://127.0.0.1:{plain}/shop/a%20b?x=1%26y");
        asked.Headers.Host = "evil.example";
        using var led = await http.SendAsync(asked, Stop);
        (led.StatusCode, led.Headers.Location!.OriginalString).ShouldBe((HttpStatusCode.PermanentRedirect, $"https://shop.test:{port}/shop/a%20b?x=1%26y"));
        (await http.GetAsync($"http://127.0.0.1:{plain}/api/v1/status", Stop)).StatusCode.ShouldBe(HttpStatusCode.PermanentRedirect);
    }

    [Fact]
    public async Task Http3_is_spoken_with_visitors_where_there_is_quic_and_with_nobody_else()
    {
        var (port, admin, quic, shop) = (RunningSite.FreePort(), RunningSite.FreePort(), new PretendQuic(), Make("shop", "shop.test"));
        string[] settings =
        [
            $"--Wary:SiteListen=https://127.0.0.1:{port}", $"--Wary:SiteUrl=https://shop.test:{port}", $"--Wary:AdminListen=https://127.0.0.1:{admin}",
            $"--Wary:RedirectListen=http://127.0.0.1:{RunningSite.FreePort()}", $"--Wary:Certificates:0={shop}",
        ];
        void With(IServiceCollection services) => services.AddSingleton<IMultiplexedConnectionListenerFactory>(quic);
        await using (var site = await RunningSite.StartAsync(settings: settings, services: With, empty: true))
        {
            quic.Ears.Keys.ShouldBe([port]);
            var (answer, _) = await AskAsync("shop.test", port, HttpVersion.Version20);
            answer.Headers.GetValues("Alt-Svc").ShouldHaveSingleItem().ShouldStartWith($"h3=\":{port}\"");
            var ear = quic.Ears[port];
            (await ear.GetAsync($"shop.test:{port}", "/", Stop)).ShouldBe(await answer.Content.ReadAsStringAsync(Stop));
            (await ear.GetAsync($"shop.test:{port}", "/api/v1/status", Stop)).ShouldContain("Nothing here");
            (await AskAsync("shop.test", admin, HttpVersion.Version20)).Answer.Headers.Contains("Alt-Svc").ShouldBeFalse();

            var tls = ear.Features.Get<TlsConnectionCallbackOptions>().ShouldNotBeNull();
            tls.ApplicationProtocols.ShouldBe([SslApplicationProtocol.Http3]);
        }

        quic.Ears.Clear();
        await using var without = await RunningSite.StartAsync(
            settings: [.. settings, "--Wary:Http3=false"], services: With, empty: true);
        quic.Ears.ShouldBeEmpty();
        (await AskAsync("shop.test", port, HttpVersion.Version20)).Answer.Headers.Contains("Alt-Svc").ShouldBeFalse();
    }

    [Fact]
    public void What_is_no_certificate_is_said_before_anything_starts()
    {
        var good = Make("good", "good.test");
        void Refused(string words, params string[] settings) =>
            Should.Throw<InvalidDataException>(() => Sentinel.Build([$"--Wary:Data={folder}", .. settings])).Message.ShouldContain(words);
        Refused("cannot be read as a certificate", "--Wary:Certificates:0=/nowhere.crt /nowhere.key");
        Refused("cannot be read as a certificate", $"--Wary:Certificates:0={good.Split(' ')[0]} {Make("third", "third.test").Split(' ')[1]}");
        Refused("cannot be read as a certificate", $"--Wary:Certificates:0={good.Split(' ')[1]}");
        Refused("RedirectListen", "--Wary:RedirectListen=http://127.0.0.1:1");
        Refused("HstsDays", "--Wary:HstsDays=-1");
    }
}
