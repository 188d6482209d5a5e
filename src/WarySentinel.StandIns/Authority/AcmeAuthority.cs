using System.Collections.Concurrent;
using System.Net;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text.Json;

namespace WarySentinel.StandIns.Authority;

/// <summary>
/// What a certificate authority knows: its keys, accounts, orders and proofs (RFC 8555). It asks for the proofs at this machine, whatever the name, and is as
/// troublesome as real ones may be: it refuses some nonces, and takes its time.
/// </summary>
public sealed class AcmeAuthority : IDisposable
{
    private readonly ECDsa rootKey = ECDsa.Create(ECCurve.NamedCurves.nistP256);
    private readonly ECDsa middleKey = ECDsa.Create(ECCurve.NamedCurves.nistP256);
    private readonly X509Certificate2 middle;
    private readonly int proofPort;
    private readonly TimeSpan life;
    private readonly HttpClient asking;

    /// <summary>Makes an authority.</summary>
    /// <param name="proofPort">The port where proofs are asked for, in place of 80.</param>
    /// <param name="life">How long its certificates last.</param>
    public AcmeAuthority(int proofPort, TimeSpan life)
    {
        (this.proofPort, this.life) = (proofPort, life);
        var (from, until) = (DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(3000));
        Root = Above("CN=Lantern Lane Root", rootKey).CreateSelfSigned(from, until);
        using var under = Above("CN=Lantern Lane Issuing 1", middleKey).Create(Root, from, until.AddDays(-1), Serial());
        middle = under.CopyWithPrivateKey(middleKey);
        asking = new HttpClient(new SocketsHttpHandler
        {
            AllowAutoRedirect = false, UseProxy = false,
            ConnectCallback = async (_, stop) =>
            {
                var socket = new System.Net.Sockets.Socket(System.Net.Sockets.SocketType.Stream, System.Net.Sockets.ProtocolType.Tcp);
                await socket.ConnectAsync(IPAddress.Loopback, this.proofPort, stop);
                return new System.Net.Sockets.NetworkStream(socket, true);
            },
        })
        { Timeout = TimeSpan.FromSeconds(5) };
    }

    /// <summary>Whom to believe.</summary>
    public X509Certificate2 Root { get; }

    /// <summary>How many certificates it issued.</summary>
    public int Issued { get; private set; }

    /// <summary>Nonces that count once.</summary>
    public ConcurrentDictionary<string, bool> Nonces { get; } = new();

    /// <summary>The keys of accounts, by their number.</summary>
    public ConcurrentDictionary<string, JsonElement> Accounts { get; } = new();

    /// <summary>Orders, by their number.</summary>
    public ConcurrentDictionary<string, AcmeOrder> Orders { get; } = new();

    /// <summary>A certificate of its own, to speak TLS itself.</summary>
    public X509Certificate2 ForItself()
    {
        var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var request = new CertificateRequest("CN=localhost", key, HashAlgorithmName.SHA256);
        var alternative = new SubjectAlternativeNameBuilder();
        alternative.AddDnsName("localhost");
        alternative.AddIpAddress(IPAddress.Loopback);
        request.CertificateExtensions.Add(alternative.Build());
        using var made = request.Create(Root, DateTimeOffset.UtcNow.AddHours(-1), DateTimeOffset.UtcNow.AddDays(300), Serial());
        using var whole = made.CopyWithPrivateKey(key);
        return X509CertificateLoader.LoadPkcs12(whole.Export(X509ContentType.Pkcs12), null);
    }

    /// <summary>Asks for the proof of a name (RFC 8555 §8.3): null where it is right, else what is wrong.</summary>
    public async Task<string?> AskForProofAsync(string name, string token, string expected)
    {
        try
        {
            using var answer = await asking.GetAsync($"http://{name}/.well-known/acme-challenge/{token}");
            var said = (await answer.Content.ReadAsStringAsync()).TrimEnd();
            return !answer.IsSuccessStatusCode ? $"{name} answers {(int)answer.StatusCode} at the address of the proof."
                : said == expected ? null : $"{name} gives another proof than the one that was asked for.";
        }
        catch (Exception fault) when (fault is HttpRequestException or OperationCanceledException)
        {
            return $"{name} does not answer at port 80.";
        }
    }

    /// <summary>Issues a certificate as it is asked for, with the one above it, in PEM; null where it is not for the names of the order.</summary>
    public string? Issue(byte[] asked, IReadOnlyList<string> names)
    {
        var request = CertificateRequest.LoadSigningRequest(asked, HashAlgorithmName.SHA256, CertificateRequestLoadOptions.UnsafeLoadCertificateExtensions);
        var held = request.CertificateExtensions.OfType<X509SubjectAlternativeNameExtension>().SelectMany(e => e.EnumerateDnsNames());
        if (!held.Order(StringComparer.Ordinal).SequenceEqual(names.Order(StringComparer.Ordinal)))
        {
            return null;
        }

        using var made = request.Create(
            middle.SubjectName, X509SignatureGenerator.CreateForECDsa(middleKey), DateTimeOffset.UtcNow.AddSeconds(-1), DateTimeOffset.UtcNow + life, Serial());
        Issued++;
        return made.ExportCertificatePem() + "\n" + middle.ExportCertificatePem() + "\n";
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        asking.Dispose();
        middle.Dispose();
        Root.Dispose();
        rootKey.Dispose();
        middleKey.Dispose();
    }

    private static byte[] Serial() => [1, .. RandomNumberGenerator.GetBytes(11)];

    private static CertificateRequest Above(string name, ECDsa key)
    {
        var request = new CertificateRequest(name, key, HashAlgorithmName.SHA256);
        request.CertificateExtensions.Add(new X509BasicConstraintsExtension(true, false, 0, true));
        request.CertificateExtensions.Add(new X509KeyUsageExtension(X509KeyUsageFlags.KeyCertSign | X509KeyUsageFlags.CrlSign, true));
        return request;
    }
}

/// <summary>An order of a certificate.</summary>
public sealed class AcmeOrder
{
    /// <summary>Its number.</summary>
    public required string Id { get; init; }

    /// <summary>Whose it is.</summary>
    public required string Account { get; init; }

    /// <summary>The names.</summary>
    public required IReadOnlyList<string> Names { get; init; }

    /// <summary>The token of each name's proof.</summary>
    public required IReadOnlyList<string> Tokens { get; init; }

    /// <summary>What is wrong with the proof of each name: empty where nothing is, null where it was not asked for yet.</summary>
    public string?[] Proofs { get; set; } = [];

    /// <summary>The certificate.</summary>
    public string? Certificate { get; set; }

    /// <summary>How often it was looked at since it was to be issued.</summary>
    public int Looked { get; set; }

    /// <summary>How far it is (RFC 8555 §7.1.6).</summary>
    public string Status => Proofs.Any(p => p?.Length > 0) ? "invalid" : Proofs.Any(p => p is null) ? "pending"
        : Certificate is null ? "ready" : Looked > 1 ? "valid" : "processing";
}
