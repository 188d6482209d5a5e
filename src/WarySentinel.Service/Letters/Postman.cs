using System.Net.Sockets;
using MailKit.Net.Smtp;
using MimeKit;
using WarySentinel.Core;
using WarySentinel.Core.Letters;
using WarySentinel.Service.Access;
using WarySentinel.Service.Nodes;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service.Letters;

/// <summary>
/// Sends what waits in the outbox by SMTP (RFC 5321). Letters that somebody waits for go their own way, so that ten thousand others never stand before one.
/// Each attempt is written down before anything is handed over and again when its outcome is known (docs/explanation/letters.md): a letter that was refused,
/// or never handed over, is tried again with growing pauses and given up after a set number; one whose fate nobody can know is left to the owner.
/// </summary>
public sealed class Postman(
    Store store, LetterPaper paper, ILetters letters, PeopleLane people, PolicyHolder policies, Hearsay hearsay, ServiceOptions options,
    TimeProvider time, ILogger<Postman> log)
{
    private const int AtOnce = 50;
    private const int Permanent = 500;

    private TimeSpan AttemptLasts => TimeSpan.FromSeconds(options.LetterAttemptSeconds);

    /// <summary>Sends what is due of both ways; gives how many went out.</summary>
    public async Task<int> SendDueAsync(CancellationToken stop) => await SendDueAsync(true, stop) + await SendDueAsync(false, stop);

    /// <summary>Sends what is due; gives how many went out.</summary>
    /// <param name="urgent">Those that somebody waits for, or the others.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<int> SendDueAsync(bool urgent, CancellationToken stop)
    {
        if (options.Smtp.Length == 0 || policies.Current.Settings.Letters.Hold)
        {
            return 0;
        }

        using var smtp = new WatchedSmtp { Timeout = (int)Math.Min(15_000, AttemptLasts.TotalMilliseconds) };
        var sent = 0;
        while (!policies.Current.Settings.Letters.Hold
            && await store.TakeMessagesAsync(urgent, AtOnce, time.GetUtcNow() + (3 * AttemptLasts), hearsay.Machine, stop) is { Count: > 0 } taken)
        {
            foreach (var message in taken)
            {
                sent += await SendAsync(smtp, message, stop) ? 1 : 0;
            }
        }

        if (smtp.IsConnected)
        {
            await smtp.DisconnectAsync(true, stop);
        }

        return sent;
    }

    private async Task<bool> SendAsync(WatchedSmtp smtp, WaitingMessage message, CancellationToken stop)
    {
        using var attempt = CancellationTokenSource.CreateLinkedTokenSource(stop);
        attempt.CancelAfter(AttemptLasts);
        smtp.IsHandingOver = false;
        string said;
        try
        {
            if (!smtp.IsConnected)
            {
                var server = new MailServer(options.Smtp, options.SmtpToken);
                await server.OpenAsync(smtp, attempt.Token);
                await server.LogInAsync(smtp, attempt.Token);
            }

            using var mail = paper.Write(message);
            if (!await store.HandOverAsync(message, attempt.Token))
            {
                return false;
            }

            said = await smtp.SendAsync(mail, attempt.Token);
        }
        catch (Exception) when (stop.IsCancellationRequested && !smtp.IsHandingOver)
        {
            // Stopped before anything was handed over: it goes out after the next start.
            await store.MessageFailedAsync(message, Words.Of("letter.stopped"), time.GetUtcNow(), CancellationToken.None);
            return false;
        }
        catch (Exception fault)
        {
            await NotSentAsync(smtp, message, fault);
            return false;
        }

        // It is out: whoever stops the service now, it must not go out again.
        await store.MessageSentAsync(message, said, CancellationToken.None);
        return true;
    }

    /// <summary>A refusal in words is known; a line that broke once the letter was under way is not (RFC 5321 §6.1).</summary>
    private async Task NotSentAsync(WatchedSmtp smtp, WaitingMessage message, Exception fault)
    {
        var said = fault is OperationCanceledException ? Words.Of("letter.slow", AttemptLasts.TotalSeconds)
            : fault is SmtpCommandException { StatusCode: var status } ? $"{(int)status} {fault.Message}" : fault.Message;
        if (smtp.IsHandingOver && fault is not SmtpCommandException)
        {
            await smtp.DisconnectAsync(false, CancellationToken.None);
            log.LogError("Nobody can know whether a letter to {To} went out: {Reason}", message.To, said);
            await store.MessageUnclearAsync(message, said, CancellationToken.None);
            return;
        }

        if (fault is not SmtpCommandException and not SocketException && smtp.IsConnected)
        {
            // Whatever was half said on this line is not gone on with.
            await smtp.DisconnectAsync(false, CancellationToken.None);
        }

        var isNobody = fault is SmtpCommandException { ErrorCode: SmtpErrorCode.RecipientNotAccepted } refused && (int)refused.StatusCode >= Permanent;
        if (isNobody && Bounces.StatusIn(fault.Message) is { } code && code.StartsWith("5.1.", StringComparison.Ordinal))
        {
            await store.MarkUnreachableAsync(new UnreachableAddress(message.To, time.GetUtcNow(), code, said), "mail");
        }

        await FailedAsync(message, said, isNobody || message.Tries >= options.LetterTries);
    }

    private async Task FailedAsync(WaitingMessage message, string said, bool givenUp)
    {
        var pause = TimeSpan.FromMinutes(Math.Min(360, Math.Pow(2, message.Tries)));
        log.Log(givenUp ? LogLevel.Error : LogLevel.Warning, "A letter to {To} could not be sent (try {Tries} of {Most}){GivenUp}: {Reason}",
            message.To, message.Tries, options.LetterTries, givenUp ? ", given up" : "", said);
        await store.MessageFailedAsync(message, said, givenUp ? null : time.GetUtcNow() + pause, CancellationToken.None);
        if (givenUp && message.Kind != LetterKinds.Erased && policies.Current.Settings.Letters.NoticesTo is { } to
            && !message.Kind.StartsWith("notice-", StringComparison.Ordinal))
        {
            var notice = letters.Write(
                "notice-given-up", new LetterReader(to), ("address", message.To), ("subject", message.Subject), ("reason", said),
                ("page", options.AdminUrl.TrimEnd('/') + "/letters"));
            await people.ChangeAsync(new Edit<int>(new Edit("letter.notice", message.To, [notice]), 0), "mail");
        }
    }
}

/// <summary>Tells when a letter is under way: from when the server knows to whom, to when it has said what it makes of it.</summary>
public sealed class WatchedSmtp : SmtpClient
{
    /// <summary>Whether the content may have reached the server.</summary>
    public bool IsHandingOver { get; set; }

    /// <inheritdoc/>
    protected override void OnRecipientAccepted(MimeMessage message, MailboxAddress mailbox, SmtpResponse response)
    {
        IsHandingOver = true;
        base.OnRecipientAccepted(message, mailbox, response);
    }
}

/// <summary>Sends at once what somebody waits for, whichever machine it was written on.</summary>
public sealed class PostBell(Postman postman, Hearsay hearsay, ServiceOptions options, ILogger<PostBell> log) : BackgroundService, INewsReader
{
    private readonly Nudge waiting = new();

    /// <inheritdoc/>
    public void Hear(Storage.Nodes.News news)
    {
        if (news.Kind == Storage.Nodes.Told.Letter)
        {
            waiting.Give();
        }
    }

    /// <inheritdoc/>
    public void Lost() => waiting.Give();

    /// <inheritdoc/>
    public override void Dispose()
    {
        waiting.Dispose();
        base.Dispose();
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (options.RoundMilliseconds <= 0)
        {
            return;
        }

        hearsay.Add(this);
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await waiting.WaitAsync(Timeout.InfiniteTimeSpan, stoppingToken);
                await postman.SendDueAsync(true, stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                // The next round finds what was left.
                log.LogWarning("A letter that somebody waits for was not sent at once: {Reason}", fault.Message);
            }
        }
    }
}
