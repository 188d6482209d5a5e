using System.Net.Security;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Microsoft.AspNetCore.Server.Kestrel.Https;

namespace WarySentinel.Service.Web;

/// <summary>
/// The certificates under which the service speaks TLS itself: files in PEM, each with its key, chosen by the name that is asked for (RFC 6066 §3). Files
/// that are renewed count from the next connection on; where they cannot be read, those before stay.
/// </summary>
public sealed class Certificates(IReadOnlyList<string> pairs, TimeProvider time)
{
    private static readonly TimeSpan LooksAgain = TimeSpan.FromSeconds(2);
    private readonly Lock gate = new();
    private Loaded[] loaded = [];
    private DateTimeOffset looked;

    private sealed record Loaded(SslStreamCertificateContext Context, IReadOnlyList<string> Names, DateTime Stamp, DateTimeOffset Until);

    /// <summary>What to do where files have changed and cannot be read; told once for each change.</summary>
    public Action<string>? OnFault { get; set; }

    /// <summary>Reads all of them. Throws <see cref="InvalidDataException"/> where one cannot be read.</summary>
    public static Certificates Read(IReadOnlyList<string> pairs, TimeProvider time)
    {
        var made = new Certificates(pairs, time) { looked = time.GetUtcNow() };
        made.loaded = [.. pairs.Select(Load)];
        return made;
    }

    /// <summary>How the service speaks TLS on a connection.</summary>
    public TlsHandshakeCallbackOptions ToKestrel() => new()
    {
        // What may be spoken inside says the server by what it listens for: something else by TCP than by QUIC.
        OnConnection = hello => ValueTask.FromResult(For(hello.ClientHelloInfo.ServerName)),
    };

    /// <summary>When the first of them ends.</summary>
    public DateTimeOffset Until => Now().Min(l => l.Until);

    private SslServerAuthenticationOptions For(string name) => new()
    {
        ServerCertificateContext = (Array.Find(Now(), l => l.Names.Any(n => IsFor(n, name))) ?? Now()[0]).Context,
    };

    /// <summary>Whether a name of a certificate is for a name that is asked for; a star stands for one part (RFC 9525 §6.3).</summary>
    private static bool IsFor(string held, string asked) => string.Equals(held, asked, StringComparison.OrdinalIgnoreCase)
        || (held.StartsWith("*.", StringComparison.Ordinal) && asked.IndexOf('.', StringComparison.Ordinal) is > 0 and var dot
            && string.Equals(held[1..], asked[dot..], StringComparison.OrdinalIgnoreCase));

    private Loaded[] Now()
    {
        lock (gate)
        {
            if (time.GetUtcNow() - looked < LooksAgain)
            {
                return loaded;
            }

            looked = time.GetUtcNow();
            loaded = [.. pairs.Select((pair, n) => StampOf(pair) == loaded[n].Stamp ? loaded[n] : Again(pair, loaded[n]))];
            return loaded;
        }
    }

    private Loaded Again(string pair, Loaded before)
    {
        try
        {
            return Load(pair);
        }
        catch (InvalidDataException fault)
        {
            // Half of the two may be there: they are looked at again.
            OnFault?.Invoke(fault.Message);
            return before with { Stamp = StampOf(pair) };
        }
    }

    private static DateTime StampOf(string pair) => Split(pair) is var (certificate, key)
        ? new DateTime(Math.Max(File.GetLastWriteTimeUtc(certificate).Ticks, File.GetLastWriteTimeUtc(key).Ticks), DateTimeKind.Utc) : default;

    private static (string Certificate, string Key) Split(string pair) =>
        pair.Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries) is [var certificate, .. var rest]
            ? (certificate, rest is [var key] ? key : certificate) : ("", "");

    private static Loaded Load(string pair)
    {
        var (certificate, key) = Split(pair);
        try
        {
            var stamp = StampOf(pair);
            using var pem = X509Certificate2.CreateFromPemFile(certificate, key);
            var chain = new X509Certificate2Collection();
            chain.ImportFromPemFile(certificate);
            // The key has to be one that TLS can use on every platform.
            var own = X509CertificateLoader.LoadPkcs12(pem.Export(X509ContentType.Pkcs12), null);
            var above = new X509Certificate2Collection();
            foreach (var one in chain.Where(c => c.Thumbprint != own.Thumbprint))
            {
                above.Add(one);
            }

            var names = own.Extensions.OfType<X509SubjectAlternativeNameExtension>().SelectMany(e => e.EnumerateDnsNames()).ToList();
            return new Loaded(SslStreamCertificateContext.Create(own, above, true), names, stamp, own.NotAfter.ToUniversalTime());
        }
        catch (Exception fault) when (fault is CryptographicException or IOException or UnauthorizedAccessException or ArgumentException)
        {
            throw new InvalidDataException($"Certificates: “{pair}” cannot be read as a certificate and its key in PEM. {fault.Message}", fault);
        }
    }
}

/// <summary>Marks connections of the listener that only leads to where TLS is spoken.</summary>
public sealed class RedirectListener
{
    /// <summary>The mark.</summary>
    public static readonly RedirectListener Mark = new();

    /// <summary>Leads a request to the same address under TLS (RFC 9110 §15.4.9).</summary>
    /// <param name="http">The request.</param>
    /// <param name="siteUrl">The address that visitors type.</param>
    public static Task LeadAsync(HttpContext http, string siteUrl)
    {
        http.Response.StatusCode = StatusCodes.Status308PermanentRedirect;
        // The site's own name, never that of the request: nobody is led elsewhere.
        http.Response.Headers.Location = siteUrl.TrimEnd('/') + http.Request.Path.ToUriComponent() + http.Request.QueryString.ToUriComponent();
        return Task.CompletedTask;
    }
}
