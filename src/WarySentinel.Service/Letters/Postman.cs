using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;
using WarySentinel.Core;
using WarySentinel.Service.Access;
using WarySentinel.Storage;

namespace WarySentinel.Service.Letters;

/// <summary>
/// Sends what waits in the outbox by SMTP (RFC 5321). A letter is taken singly, for longer than its attempt can last, tried again with growing
/// pauses, and given up after a set number of tries, where the owner sees it.
/// </summary>
public sealed class Postman(Store store, Envelopes envelopes, PolicyHolder policies, ServiceOptions options, TimeProvider time, ILogger<Postman> log)
{
    private const int AtOnce = 200;
    private static readonly TimeSpan AttemptLasts = TimeSpan.FromSeconds(60);
    private static readonly TimeSpan Held = TimeSpan.FromMinutes(3);

    /// <summary>Sends what is due; gives how many went out.</summary>
    public async Task<int> SendDueAsync(CancellationToken stop)
    {
        if (options.Smtp.Length == 0)
        {
            return 0;
        }

        using var smtp = new SmtpClient { Timeout = 15_000 };
        var sent = 0;
        for (var taken = 0; taken < AtOnce && await store.TakeMessageAsync(time.GetUtcNow() + Held, stop) is { } message; taken++)
        {
            sent += await SendAsync(smtp, message, stop) ? 1 : 0;
        }

        if (smtp.IsConnected)
        {
            await smtp.DisconnectAsync(true, stop);
        }

        return sent;
    }

    private async Task<bool> SendAsync(SmtpClient smtp, WaitingMessage message, CancellationToken stop)
    {
        using var attempt = CancellationTokenSource.CreateLinkedTokenSource(stop);
        attempt.CancelAfter(AttemptLasts);
        try
        {
            if (!smtp.IsConnected)
            {
                await ConnectAsync(smtp, attempt.Token);
            }

            using var mail = Write(message);
            await smtp.SendAsync(mail, attempt.Token);
        }
        catch (Exception fault) when (!stop.IsCancellationRequested)
        {
            await FailedAsync(message, fault is OperationCanceledException ? Words.Of("letter.slow", AttemptLasts.TotalSeconds) : fault.Message);
            return false;
        }

        // It is out: whoever stops the service now, it must not go out again.
        await store.MessageSentAsync(message.Id, CancellationToken.None);
        return true;
    }

    private async Task FailedAsync(WaitingMessage message, string fault)
    {
        var givenUp = message.Tries >= options.LetterTries;
        var pause = TimeSpan.FromMinutes(Math.Min(360, Math.Pow(2, message.Tries)));
        log.Log(givenUp ? LogLevel.Error : LogLevel.Warning, "A letter to {To} could not be sent (try {Tries} of {Most}){GivenUp}: {Reason}",
            message.To, message.Tries, options.LetterTries, givenUp ? ", given up" : "", fault);
        await store.MessageFailedAsync(message.Id, fault, givenUp ? null : time.GetUtcNow() + pause, CancellationToken.None);
    }

    private async Task ConnectAsync(SmtpClient smtp, CancellationToken stop)
    {
        var server = new Uri(options.Smtp);
        var tls = server.Scheme == "smtps" ? SecureSocketOptions.SslOnConnect : SecureSocketOptions.StartTlsWhenAvailable;
        await smtp.ConnectAsync(server.Host, server.IsDefaultPort || server.Port <= 0 ? (server.Scheme == "smtps" ? 465 : 25) : server.Port, tls, stop);
        if (server.UserInfo.Split(':', 2) is [{ Length: > 0 } name, var password])
        {
            await smtp.AuthenticateAsync(Uri.UnescapeDataString(name), Uri.UnescapeDataString(password), stop);
        }
    }

    private MimeMessage Write(WaitingMessage message)
    {
        var mail = new MimeMessage { Subject = message.Subject, Date = time.GetUtcNow(), MessageId = $"{message.Id:N}@{new Uri(options.SiteUrl).Host}" };
        mail.From.Add(new MailboxAddress(policies.Current.Settings.SiteName, options.MailFrom));
        mail.To.Add(MailboxAddress.Parse(message.To));
        mail.Headers.Add("Auto-Submitted", "auto-generated");
        mail.Body = new TextPart("plain") { Text = envelopes.Open(message.Body) };
        return mail;
    }
}
