using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace WarySentinel.Service.Web.Acme;

/// <summary>
/// Keeps the certificate of the site: has it issued when there is none yet, and again when a third of its life is left. Until the first is there, one of our
/// own making stands in its place, so that the site can be started.
/// </summary>
public sealed class AcmeDesk(ServiceOptions options, AcmeChallenges challenges, TimeProvider time, ILogger<AcmeDesk> log)
{
    private static readonly TimeSpan LooksAgain = TimeSpan.FromMinutes(1);
    private static readonly TimeSpan AfterOddOnes = TimeSpan.FromHours(6);
    private static readonly TimeSpan FirstPause = TimeSpan.FromMinutes(1);
    private static readonly TimeSpan LongestPause = TimeSpan.FromHours(12);
    private DateTimeOffset next;
    private int failures;

    /// <summary>The file of the certificate, those above it and its key.</summary>
    public static string FileOf(ServiceOptions options) => Path.Combine(options.Data, "tls", "site.pem");

    /// <summary>Sees to it that there is a certificate, whosever it is.</summary>
    public static void Prepare(ServiceOptions options, TimeProvider time)
    {
        if (File.Exists(FileOf(options)))
        {
            return;
        }

        using var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        using var made = AcmeClient.RequestFor(options.AcmeNames, key).CreateSelfSigned(time.GetUtcNow().AddHours(-1), time.GetUtcNow().AddDays(7));
        SecretFile.Write(FileOf(options), made.ExportCertificatePem() + "\n" + key.ExportPkcs8PrivateKeyPem() + "\n");
    }

    /// <summary>Has the certificate issued when it is time. What goes wrong is said in the log, and tried again later and later.</summary>
    public async Task RunDueAsync(CancellationToken stop)
    {
        var now = time.GetUtcNow();
        if (options.AcmeDirectory.Length == 0 || now < next)
        {
            return;
        }

        var due = DueAt();
        if (now < due)
        {
            next = due < now + LooksAgain ? due : now + LooksAgain;
            return;
        }

        try
        {
            await IssueAsync(stop);
            // One that would have to be replaced at once (a clock that is wrong, a very short life) is not asked for over and over.
            (failures, next) = (0, DueAt() > now ? now : now + AfterOddOnes);
        }
        catch (Exception fault) when (fault is not OperationCanceledException || !stop.IsCancellationRequested)
        {
            var pause = FirstPause * Math.Pow(2, Math.Min(failures++, 10));
            next = now + (pause < LongestPause ? pause : LongestPause);
            log.LogError("No certificate for {Names}: {Reason} It is tried again at {Next:u}", string.Join(", ", options.AcmeNames), fault.Message, next);
        }
    }

    private async Task IssueAsync(CancellationToken stop)
    {
        var folder = Path.GetDirectoryName(FileOf(options))!;
        using var account = AcmeKey.Of(Path.Combine(folder, "account.key"));
        using var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        using var http = Client();
        var chain = await new AcmeClient(http, new Uri(options.AcmeDirectory), account, challenges, time)
            .IssueAsync(options.AcmeNames, options.AcmeContact, key, stop);
        var secret = key.ExportPkcs8PrivateKeyPem();
        // Whatever came: only what fits the key and bears the names is put in place.
        using var issued = X509Certificate2.CreateFromPem(chain, secret);
        if (options.AcmeNames.FirstOrDefault(n => !NamesOf(issued).Contains(n, StringComparer.OrdinalIgnoreCase)) is { } missing)
        {
            throw new AcmeException($"The certificate is not for {missing}.");
        }

        SecretFile.Write(FileOf(options), chain.TrimEnd() + "\n" + secret + "\n");
        log.LogInformation("A certificate for {Names} is in place until {Until:u}", string.Join(", ", options.AcmeNames), issued.NotAfter.ToUniversalTime());
    }

    /// <summary>When the certificate that is there has to be replaced: long ago where it is of our own making, or not for all names.</summary>
    private DateTimeOffset DueAt()
    {
        try
        {
            using var held = X509Certificate2.CreateFromPemFile(FileOf(options));
            var (from, until) = (held.NotBefore.ToUniversalTime(), held.NotAfter.ToUniversalTime());
            return held.Subject == held.Issuer || options.AcmeNames.Except(NamesOf(held), StringComparer.OrdinalIgnoreCase).Any() ? DateTimeOffset.MinValue
                : new DateTimeOffset(until - ((until - from) / 3));
        }
        catch (Exception fault) when (fault is CryptographicException or IOException)
        {
            return DateTimeOffset.MinValue;
        }
    }

    private static IEnumerable<string> NamesOf(X509Certificate2 certificate) =>
        certificate.Extensions.OfType<X509SubjectAlternativeNameExtension>().SelectMany(e => e.EnumerateDnsNames());

    private HttpClient Client()
    {
        var handler = new SocketsHttpHandler { AllowAutoRedirect = false, UseCookies = false, ConnectTimeout = TimeSpan.FromSeconds(10) };
        if (OriginTrust.ReadAuthorities(options.AcmeCa) is { } authorities)
        {
            var only = new X509ChainPolicy { TrustMode = X509ChainTrustMode.CustomRootTrust, RevocationMode = X509RevocationMode.NoCheck };
            only.CustomTrustStore.AddRange(authorities);
            handler.SslOptions.CertificateChainPolicy = only;
        }

        var http = new HttpClient(handler) { Timeout = TimeSpan.FromSeconds(30) };
        http.DefaultRequestHeaders.UserAgent.ParseAdd("wary-sentinel");
        return http;
    }
}
