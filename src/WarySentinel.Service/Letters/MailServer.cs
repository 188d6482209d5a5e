using MailKit;
using MailKit.Security;

namespace WarySentinel.Service.Letters;

/// <summary>
/// A mail server as an address names it: <c>smtp://</c> and <c>imap://</c> (TLS where it is offered; <c>?tls=required</c>: STARTTLS or nothing),
/// <c>smtps://</c> and <c>imaps://</c> (TLS from the first byte, RFC 8314 §3).
/// </summary>
/// <param name="Address">The address, with the name and password to log in by.</param>
/// <param name="TokenFile">A file with a bearer token to log in by in place of a password (RFC 7628); empty where there is none.</param>
public sealed record MailServer(string Address, string TokenFile)
{
    private static readonly Dictionary<string, int> Ports = new(StringComparer.OrdinalIgnoreCase)
    {
        ["smtp"] = 25, ["smtps"] = 465, ["imap"] = 143, ["imaps"] = 993,
    };

    private readonly Uri server = new(Address);

    /// <summary>Where it is.</summary>
    public (string Host, int Port) Place => (server.Host, server.Port > 0 ? server.Port : Ports[server.Scheme]);

    /// <summary>Whether TLS begins with the first byte (RFC 8314 §3.3).</summary>
    public bool IsTlsAtOnce => server.Scheme.EndsWith('s');

    /// <summary>Whether nothing is said without TLS.</summary>
    public bool IsTlsRequired => IsTlsAtOnce || server.Query.Contains("tls=required", StringComparison.OrdinalIgnoreCase);

    /// <summary>The name to log in with; null where nobody logs in.</summary>
    public string? UserName => server.UserInfo.Split(':', 2)[0] is { Length: > 0 } name ? Uri.UnescapeDataString(name) : null;

    /// <summary>What the path of the address names, such as a folder of a mailbox; empty where it names nothing.</summary>
    public string Folder => Uri.UnescapeDataString(server.AbsolutePath.Trim('/'));

    /// <summary>Whether an address names a server of one of the schemes.</summary>
    public static bool IsOne(string address, params string[] schemes) =>
        Uri.TryCreate(address, UriKind.Absolute, out var url) && schemes.Contains(url.Scheme, StringComparer.OrdinalIgnoreCase) && url.Host.Length > 0;

    /// <summary>Connects, with TLS as it is set.</summary>
    public Task OpenAsync(IMailService line, CancellationToken stop) => line.ConnectAsync(
        Place.Host, Place.Port,
        IsTlsAtOnce ? SecureSocketOptions.SslOnConnect : IsTlsRequired ? SecureSocketOptions.StartTls : SecureSocketOptions.StartTlsWhenAvailable, stop);

    /// <summary>Logs in with a name and password, or with the bearer token of a file (RFC 7628).</summary>
    public async Task LogInAsync(IMailService line, CancellationToken stop)
    {
        if (UserName is not { } name)
        {
            return;
        }

        if (TokenFile.Length > 0)
        {
            var token = (await File.ReadAllTextAsync(TokenFile, stop)).Trim();
            await line.AuthenticateAsync(
                line.AuthenticationMechanisms.Contains("OAUTHBEARER") ? new SaslMechanismOAuthBearer(name, token) : new SaslMechanismOAuth2(name, token), stop);
            return;
        }

        var password = server.UserInfo.Split(':', 2) is [_, var said] ? Uri.UnescapeDataString(said) : "";
        await line.AuthenticateAsync(name, password, stop);
    }
}
