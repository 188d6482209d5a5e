using DnsClient;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;
using Microsoft.AspNetCore.Http.HttpResults;
using MimeKit;
using WarySentinel.Contract.Letters;
using WarySentinel.Core;

namespace WarySentinel.Service.Letters;

/// <summary>
/// Tries the mail server step by step, without sending anything, and looks at what the sender's domain says in DNS of who may write in its name: SPF (RFC
/// 7208), DKIM (RFC 6376), DMARC (RFC 7489). For each that is not right, what to do.
/// </summary>
public sealed class MailTest(BounceBox reports, ServiceOptions options)
{
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(20);

    /// <summary>Runs the test.</summary>
    public async Task<Ok<MailTestView>> RunAsync(CancellationToken stop)
    {
        var steps = new List<MailStep>();
        var works = await ServerAsync(steps, stop);
        if (options.BounceMailbox.Length > 0)
        {
            await ReportsAsync(steps, stop);
        }

        await DomainAsync(steps, stop);
        return TypedResults.Ok(new MailTestView(works, steps));
    }

    private async Task<bool> ServerAsync(List<MailStep> steps, CancellationToken stop)
    {
        if (options.Smtp.Length == 0)
        {
            steps.Add(Bad("settings", Words.Of("mail-test.none"), Words.Of("mail-test.none-mend")));
            return false;
        }

        var line = new MailServer(options.Smtp, options.SmtpToken);
        using var smtp = new SmtpClient { Timeout = 10_000 };
        using var time = CancellationTokenSource.CreateLinkedTokenSource(stop);
        time.CancelAfter(Longest);
        var step = "connect";
        try
        {
            await line.OpenAsync(smtp, time.Token);
            steps.Add(Good("connect", Words.Of("mail-test.connected", line.Place.Host, line.Place.Port)));
            steps.Add(smtp.IsSecure ? Good("tls", Words.Of("mail-test.tls", smtp.SslProtocol.ToString()))
                : new MailStep("tls", "warn", Words.Of("mail-test.tls-none"), Words.Of("mail-test.tls-none-mend")));
            step = "login";
            await line.LogInAsync(smtp, time.Token);
            steps.Add(line.UserName is { } name ? Good("login", Words.Of("mail-test.login", name)) : new MailStep(
                "login", "unknown", Words.Of("mail-test.login-none"), null));
            step = "sender";
            await smtp.NoOpAsync(time.Token);
            steps.Add(Good("sender", Words.Of("mail-test.sender", MailboxAddress.Parse(options.MailFrom).Address)));
            await smtp.DisconnectAsync(true, time.Token);
            return true;
        }
        catch (Exception fault) when (!stop.IsCancellationRequested)
        {
            steps.Add(Bad(step, fault is OperationCanceledException ? Words.Of("letter.slow", Longest.TotalSeconds)
                : fault.Message, MendOf(line, step, fault)));
            return false;
        }
    }

    /// <summary>Whether the mailbox of reports opens.</summary>
    private async Task ReportsAsync(List<MailStep> steps, CancellationToken stop)
    {
        using var time = CancellationTokenSource.CreateLinkedTokenSource(stop);
        time.CancelAfter(Longest);
        var place = new MailServer(options.BounceMailbox, options.BounceToken);
        try
        {
            var (name, count) = await reports.LookAsync(time.Token);
            steps.Add(Good("reports", Words.Of("mail-test.reports", place.Place.Host, name, count)));
        }
        catch (Exception fault) when (!stop.IsCancellationRequested)
        {
            steps.Add(fault is FolderNotFoundException
                ? Bad("reports", fault.Message, Words.Of("mail-test.mend-folder", place.Folder))
                : Bad("reports", fault is OperationCanceledException ? Words.Of("letter.slow", Longest.TotalSeconds) : fault.Message,
                    MendOf(place, "connect", fault)));
        }
    }

    private static string MendOf(MailServer line, string step, Exception fault) => Words.Of(
        fault switch
        {
            AuthenticationException => "mail-test.mend-login",
            SslHandshakeException => line.IsTlsAtOnce ? "mail-test.mend-tls-at-once" : "mail-test.mend-tls",
            NotSupportedException => "mail-test.mend-tls",
            System.Net.Sockets.SocketException { SocketErrorCode: System.Net.Sockets.SocketError.HostNotFound } => "mail-test.mend-host",
            System.Net.Sockets.SocketException { SocketErrorCode: System.Net.Sockets.SocketError.ConnectionRefused } => "mail-test.mend-port",
            FileNotFoundException or DirectoryNotFoundException or UnauthorizedAccessException => "mail-test.mend-token",
            _ => step == "connect" ? "mail-test.mend-connect" : "mail-test.mend-said",
        },
        line.Place.Host, line.Place.Port);

    /// <summary>What the domain says of who may write in its name; unknown where DNS does not answer.</summary>
    private async Task DomainAsync(List<MailStep> steps, CancellationToken stop)
    {
        var domain = LetterPaper.Domain(options);
        var spf = await TextsAsync(domain, stop);
        steps.Add(Of("spf", domain, spf, t => t.StartsWith("v=spf1", StringComparison.OrdinalIgnoreCase)));
        var selector = options.DkimSelector.Length > 0 ? options.DkimSelector : null;
        steps.Add(
            selector is null ? new MailStep("dkim", "warn", Words.Of("mail-test.dkim-off"), Words.Of("mail-test.dkim-off-mend"))
            : Of("dkim", $"{selector}._domainkey.{domain}", await TextsAsync($"{selector}._domainkey.{domain}", stop),
                t => t.Contains("p=", StringComparison.Ordinal)));
        steps.Add(Of("dmarc", "_dmarc." + domain, await TextsAsync("_dmarc." + domain, stop),
            t => t.StartsWith("v=DMARC1", StringComparison.OrdinalIgnoreCase)));
    }

    private static MailStep Of(string step, string name, IReadOnlyList<string>? texts, Func<string, bool> isIt)
    {
        if (texts is null)
        {
            return new MailStep(step, "unknown", Words.Of("mail-test.dns-silent", name), null);
        }

        var found = texts.Where(isIt).ToList();
        return found.Count switch
        {
            0 => new MailStep(step, "warn", Words.Of("mail-test.dns-none", name), Words.Of($"mail-test.{step}-mend", name)),
            1 => Good(step, found[0].Length > 300 ? found[0][..300] + "…" : found[0]),
            // Two of them count as none (RFC 7208 §4.5, RFC 7489 §6.6.3).
            _ => Bad(step, Words.Of("mail-test.dns-two", name, found.Count), Words.Of("mail-test.dns-two-mend")),
        };
    }

    /// <summary>The TXT records of a name; null where DNS does not answer.</summary>
    private static async Task<IReadOnlyList<string>?> TextsAsync(string name, CancellationToken stop)
    {
        try
        {
            var lookup = new LookupClient(new LookupClientOptions { Timeout = TimeSpan.FromSeconds(3), Retries = 1, ThrowDnsErrors = false });
            var answer = await lookup.QueryAsync(name, QueryType.TXT, cancellationToken: stop);
            return answer.HasError && answer.Header.ResponseCode != DnsHeaderResponseCode.NotExistentDomain ? null
                : [.. answer.Answers.TxtRecords().Select(t => string.Concat(t.Text))];
        }
        catch (Exception fault) when (fault is DnsResponseException or System.Net.Sockets.SocketException or InvalidOperationException or ArgumentException)
        {
            return null;
        }
    }

    private static MailStep Good(string step, string said) => new(step, "good", said, null);

    private static MailStep Bad(string step, string said, string mend) => new(step, "bad", said, mend);
}
