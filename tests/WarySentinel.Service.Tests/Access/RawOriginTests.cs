using System.Net;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Access;

/// <summary>An origin that speaks HTTP as few do: hints before the answer, words after it.</summary>
public sealed class RawOriginTests
{
    private const string Hidden = "/shop/dealer-stock";

    [Fact]
    public async Task Hints_before_an_answer_leave_the_answer_as_it_is()
    {
        await using var origin = new RawOrigin();
        await using var site = await RunningSite.StartAsync(origin.Address);
        var answer = await RawHttp.SendAsync(site.Site, "GET /hints HTTP/1.1\nHost: a.example\nConnection: close\n\n");
        RawHttp.StatusOf(answer).ShouldBe(200);
        answer.ShouldEndWith("<p>page</p>");
        answer.ShouldNotContain(Hidden);
    }

    /// <summary>HTTP/1.1 has no room for them in this server; over HTTP/2, which is how browsers come, they pass (RFC 9110 §6.5).</summary>
    [Fact]
    public async Task Words_after_an_answer_pass_over_HTTP2_where_the_answer_passes_as_it_is()
    {
        await using var origin = new RawOrigin();
        var folder = Directory.CreateTempSubdirectory().FullName;
        var (certificate, key) = Certificate(folder);
        var address = $"https://127.0.0.1:{RunningSite.FreePort()}";
        await using var site = await RunningSite.StartAsync(origin.Address, [
            $"--Wary:SiteListen={address}", $"--Kestrel:Certificates:Default:Path={certificate}", $"--Kestrel:Certificates:Default:KeyPath={key}"]);
        using var http = new HttpClient(new SocketsHttpHandler { SslOptions = { CertificateChainPolicy = Trusting(certificate) } })
        { DefaultRequestVersion = HttpVersion.Version20, DefaultVersionPolicy = HttpVersionPolicy.RequestVersionExact };
        using var file = await http.GetAsync(address + "/file.bin", TestContext.Current.CancellationToken);
        (await file.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)).ShouldBe("bytes");
        file.TrailingHeaders.GetValues("Server-Timing").ShouldBe(["db;dur=5"]);
        using var page = await http.GetAsync(address + "/page", TestContext.Current.CancellationToken);
        (await page.Content.ReadAsStringAsync(TestContext.Current.CancellationToken)).ShouldBe("<ul><li>x</li></ul>");
        // Of the page as it was, not as it is: what was said of its bytes would be wrong.
        page.TrailingHeaders.ShouldBeEmpty();
        Directory.Delete(folder, true);
    }

    private static X509ChainPolicy Trusting(string certificate) => new()
    {
        TrustMode = X509ChainTrustMode.CustomRootTrust, RevocationMode = X509RevocationMode.NoCheck,
        CustomTrustStore = { X509CertificateLoader.LoadCertificateFromFile(certificate) },
    };

    private static (string Certificate, string Key) Certificate(string folder)
    {
        using var key = RSA.Create(2048);
        var request = new CertificateRequest("CN=127.0.0.1", key, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        var names = new SubjectAlternativeNameBuilder();
        names.AddIpAddress(IPAddress.Loopback);
        request.CertificateExtensions.Add(names.Build());
        using var made = request.CreateSelfSigned(DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(1));
        File.WriteAllText(Path.Combine(folder, "site.pem"), made.ExportCertificatePem());
        File.WriteAllText(Path.Combine(folder, "site.key"), key.ExportPkcs8PrivateKeyPem());
        return (Path.Combine(folder, "site.pem"), Path.Combine(folder, "site.key"));
    }

    private sealed class RawOrigin : IAsyncDisposable
    {
        private readonly TcpListener listener = new(IPAddress.Loopback, RunningSite.FreePort());
        private readonly Task accepting;

        public RawOrigin()
        {
            listener.Start();
            accepting = AcceptAsync();
        }

        public string Address => "http://" + listener.LocalEndpoint;

        public async ValueTask DisposeAsync()
        {
            listener.Stop();
            await accepting;
        }

        private async Task AcceptAsync()
        {
            try
            {
                while (true)
                {
                    _ = AnswerAsync(await listener.AcceptTcpClientAsync());
                }
            }
            catch (Exception fault) when (fault is SocketException or ObjectDisposedException or InvalidOperationException)
            {
                // It was stopped.
            }
        }

        private static async Task AnswerAsync(TcpClient client)
        {
            using var held = client;
            var stream = client.GetStream();
            using var reader = new StreamReader(stream, Encoding.Latin1);
            var first = await reader.ReadLineAsync() ?? "";
            while (await reader.ReadLineAsync() is { Length: > 0 })
            {
            }

            var answer = first.Contains("/hints", StringComparison.Ordinal)
                ? $"HTTP/1.1 103 Early Hints\nLink: <{Hidden}>; rel=preload\n\n"
                    + "HTTP/1.1 200 OK\nContent-Type: text/html\nContent-Length: 11\nConnection: close\n\n<p>page</p>"
                : Chunked(first.Contains("/page", StringComparison.Ordinal) ? ("text/html", $"<ul><li><a href={Hidden}>Dealer stock</a></li><li>x</li></ul>")
                    : ("application/octet-stream", "bytes"));
            await stream.WriteAsync(Encoding.Latin1.GetBytes(answer.ReplaceLineEndings("\r\n")));
        }

        private static string Chunked((string Type, string Body) said) =>
            $"HTTP/1.1 200 OK\nContent-Type: {said.Type}\nTransfer-Encoding: chunked\nTrailer: Server-Timing\nConnection: close\n\n"
                + $"{said.Body.Length:x}\n{said.Body}\n0\nServer-Timing: db;dur=5\n\n";
    }
}
