using System.Globalization;
using System.Net.Security;
using System.Security.Authentication;
using System.Security.Cryptography.X509Certificates;
using WarySentinel.Core;

namespace WarySentinel.Service.Web;

/// <summary>Whether the origin's certificate is one to trust (RFC 5280, RFC 9525), and in plain words why not.</summary>
internal sealed class OriginTrust(ServiceOptions options, TimeProvider time)
{
    private readonly string authority = options.Origin.Length > 0 ? new Uri(options.Origin).Authority : "";
    private readonly string name = options.OriginServerName.Length > 0 ? options.OriginServerName
        : options.Origin.Length > 0 ? new Uri(options.Origin).IdnHost : "";
    private readonly X509Certificate2Collection? authorities = ReadAuthorities(options.OriginCa);

    /// <summary>The certificates of a PEM file; null where none is named. Throws where it holds none.</summary>
    public static X509Certificate2Collection? ReadAuthorities(string path)
    {
        if (path.Length == 0)
        {
            return null;
        }

        var read = new X509Certificate2Collection();
        read.ImportFromPemFile(path);
        return read;
    }

    /// <summary>Lays TLS around a connection; gives what is wrong instead where the certificate, or the other side, is not to be trusted.</summary>
    public async Task<(Stream? Stream, Wording? Problem)> SecureAsync(Stream plain, CancellationToken stop)
    {
        Wording? problem = null;
        var secured = new SslStream(plain, false);
        try
        {
            await secured.AuthenticateAsClientAsync(
                new SslClientAuthenticationOptions
                {
                    TargetHost = name,
                    ApplicationProtocols = [SslApplicationProtocol.Http11],
                    CertificateChainPolicy = Policy(),
                    RemoteCertificateValidationCallback = (_, certificate, chain, errors) => (problem = Judge(certificate, chain, errors)) is null,
                },
                stop);
            return (secured, null);
        }
        catch (Exception fault) when (fault is AuthenticationException or IOException)
        {
            await secured.DisposeAsync();
            return (null, problem ?? Wording.Of("origin.no-tls", authority, fault.InnerException?.Message ?? fault.Message));
        }
        catch
        {
            await secured.DisposeAsync();
            throw;
        }
    }

    /// <summary>An authority of one's own is the only one that counts: whoever names it means that no other may speak for the site.</summary>
    private X509ChainPolicy Policy()
    {
        var policy = new X509ChainPolicy { RevocationMode = X509RevocationMode.NoCheck, VerificationTime = time.GetUtcNow().UtcDateTime };
        if (authorities is not null)
        {
            policy.TrustMode = X509ChainTrustMode.CustomRootTrust;
            policy.CustomTrustStore.AddRange(authorities);
        }

        return policy;
    }

    private Wording? Judge(System.Security.Cryptography.X509Certificates.X509Certificate? shown, X509Chain? chain, SslPolicyErrors errors)
    {
        if (errors == SslPolicyErrors.None)
        {
            return null;
        }

        if (shown is not X509Certificate2 certificate)
        {
            return Wording.Of("origin.no-certificate", authority);
        }

        var status = (chain?.ChainStatus ?? []).Aggregate(X509ChainStatusFlags.NoError, (all, one) => all | one.Status);
        var now = time.GetUtcNow().UtcDateTime;
        if (status.HasFlag(X509ChainStatusFlags.NotTimeValid))
        {
            return certificate.NotAfter.ToUniversalTime() < now ? Wording.Of("origin.certificate-ended", authority, Day(certificate.NotAfter))
                : certificate.NotBefore.ToUniversalTime() > now ? Wording.Of("origin.certificate-early", authority, Day(certificate.NotBefore))
                : Wording.Of("origin.certificate-chain", authority);
        }

        if ((status & (X509ChainStatusFlags.UntrustedRoot | X509ChainStatusFlags.PartialChain)) != 0)
        {
            return Wording.Of(authorities is null ? "origin.certificate-authority" : "origin.certificate-own",
                authority, IssuerOf(certificate), options.OriginCa);
        }

        return errors.HasFlag(SslPolicyErrors.RemoteCertificateNameMismatch)
            ? Wording.Of("origin.certificate-name", authority, string.Join(", ", NamesOf(certificate)), name)
            : Wording.Of("origin.certificate-other", authority, string.Join(' ', (chain?.ChainStatus ?? []).Select(s => s.StatusInformation.Trim())));
    }

    private static string Day(DateTime at) => at.ToUniversalTime().ToString("yyyy-MM-dd", CultureInfo.InvariantCulture);

    private static string IssuerOf(X509Certificate2 certificate) =>
        certificate.GetNameInfo(X509NameType.SimpleName, true) is { Length: > 0 } simple ? simple : certificate.Issuer;

    /// <summary>The names that a certificate is for, at most a few of them (RFC 5280 §4.2.1.6).</summary>
    private static List<string> NamesOf(X509Certificate2 certificate)
    {
        var named = certificate.Extensions.OfType<X509SubjectAlternativeNameExtension>()
            .SelectMany(e => e.EnumerateDnsNames().Concat(e.EnumerateIPAddresses().Select(a => a.ToString()))).Take(4).ToList();
        return named.Count > 0 ? named : [certificate.GetNameInfo(X509NameType.SimpleName, false)];
    }
}
