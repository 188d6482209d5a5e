using MailKit.Net.Smtp;
using MailKit.Security;

namespace WarySentinel.Service.Letters;

/// <summary>The line to the mail server.</summary>
public sealed class MailLine(ServiceOptions options)
{
    private const int SubmissionTls = 465;
    private const int Relay = 25;

    /// <summary>Where the server is.</summary>
    public (string Host, int Port) Place
    {
        get
        {
            var server = new Uri(options.Smtp);
            return (server.Host, server.Port > 0 ? server.Port : IsTlsAtOnce ? SubmissionTls : Relay);
        }
    }

    /// <summary>Whether TLS begins with the first byte (RFC 8314 §3.3).</summary>
    public bool IsTlsAtOnce => options.Smtp.StartsWith("smtps:", StringComparison.OrdinalIgnoreCase);

    /// <summary>Whether nothing is said without TLS.</summary>
    public bool IsTlsRequired => IsTlsAtOnce || options.Smtp.Contains("tls=required", StringComparison.OrdinalIgnoreCase);

    /// <summary>The name to log in with; null where nobody logs in.</summary>
    public string? UserName => new Uri(options.Smtp).UserInfo.Split(':', 2)[0] is { Length: > 0 } name ? Uri.UnescapeDataString(name) : null;

    /// <summary>Connects, with TLS as it is set, and logs in.</summary>
    public async Task ConnectAsync(SmtpClient smtp, CancellationToken stop)
    {
        await OpenAsync(smtp, stop);
        await LogInAsync(smtp, stop);
    }

    /// <summary>Connects, with TLS as it is set.</summary>
    public Task OpenAsync(SmtpClient smtp, CancellationToken stop) => smtp.ConnectAsync(
        Place.Host, Place.Port,
        IsTlsAtOnce ? SecureSocketOptions.SslOnConnect : IsTlsRequired ? SecureSocketOptions.StartTls : SecureSocketOptions.StartTlsWhenAvailable, stop);

    /// <summary>Logs in with a name and password, or with the bearer token of a file (RFC 7628).</summary>
    public async Task LogInAsync(SmtpClient smtp, CancellationToken stop)
    {
        if (UserName is not { } name)
        {
            return;
        }

        if (options.SmtpToken.Length > 0)
        {
            var token = (await File.ReadAllTextAsync(options.SmtpToken, stop)).Trim();
            await smtp.AuthenticateAsync(
                smtp.AuthenticationMechanisms.Contains("OAUTHBEARER") ? new SaslMechanismOAuthBearer(name, token) : new SaslMechanismOAuth2(name, token), stop);
            return;
        }

        var password = new Uri(options.Smtp).UserInfo.Split(':', 2) is [_, var said] ? Uri.UnescapeDataString(said) : "";
        await smtp.AuthenticateAsync(name, password, stop);
    }
}
