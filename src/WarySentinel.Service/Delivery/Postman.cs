using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;
using WarySentinel.Service.Access;
using WarySentinel.Storage;

namespace WarySentinel.Service.Delivery;

/// <summary>Sends what waits in the outbox by SMTP (RFC 5321), and tries again with growing pauses when it cannot.</summary>
public sealed class Postman(Store store, Envelopes envelopes, PolicyHolder policies, ServiceOptions options, TimeProvider time, ILogger<Postman> log)
{
    private const int AtOnce = 50;
    private static readonly TimeSpan Hold = TimeSpan.FromMinutes(2);

    /// <summary>Sends what is due; gives how many went out.</summary>
    public async Task<int> SendDueAsync(CancellationToken stop)
    {
        if (options.Smtp.Length == 0)
        {
            return 0;
        }

        var due = await store.TakeMessagesAsync(AtOnce, time.GetUtcNow() + Hold, stop);
        if (due.Count == 0)
        {
            return 0;
        }

        using var smtp = new SmtpClient { Timeout = 15_000 };
        var sent = 0;
        foreach (var message in due)
        {
            try
            {
                if (!smtp.IsConnected)
                {
                    await ConnectAsync(smtp, stop);
                }

                using var mail = Write(message);
                await smtp.SendAsync(mail, stop);
                await store.MessageSentAsync(message.Id, stop);
                sent++;
            }
            catch (Exception fault) when (fault is not OperationCanceledException || !stop.IsCancellationRequested)
            {
                var pause = TimeSpan.FromMinutes(Math.Min(360, Math.Pow(2, message.Tries)));
                log.LogWarning("A message to {To} could not be sent (try {Tries}): {Reason}", message.To, message.Tries, fault.Message);
                await store.MessageFailedAsync(message.Id, fault.Message, time.GetUtcNow() + pause, stop);
            }
        }

        if (smtp.IsConnected)
        {
            await smtp.DisconnectAsync(true, stop);
        }

        return sent;
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

/// <summary>Does what comes round by itself: sends messages, replaces passwords, runs the sweep. One node at a time.</summary>
public sealed class Rounds(Postman postman, SharedPasswords passwords, SweepRunner sweeps, ServiceOptions options, TimeProvider time, ILogger<Rounds> log)
    : BackgroundService
{
    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (options.RoundMilliseconds <= 0)
        {
            return;
        }

        using var timer = new PeriodicTimer(TimeSpan.FromMilliseconds(options.RoundMilliseconds), time);
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await timer.WaitForNextTickAsync(stoppingToken);
                await OnceAsync(stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.LogWarning("A round broke off: {Reason}", fault.Message);
            }
        }
    }

    /// <summary>One round.</summary>
    public async Task OnceAsync(CancellationToken stop)
    {
        await passwords.RotateDueAsync(stop);
        await sweeps.RunDueAsync(stop);
        await postman.SendDueAsync(stop);
    }
}
