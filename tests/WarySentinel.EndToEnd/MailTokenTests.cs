using System.Net;
using System.Text;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Letters;
using WarySentinel.Contract.People;
using WarySentinel.StandIns.Mailbox;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>
/// Letters handed in, and a mailbox read, by a bearer token of a file in place of a password (RFC 7628): a real Dovecot takes it, and asks an identity
/// provider whether it is good.
/// </summary>
public sealed class MailTokenTests : IAsyncLifetime
{
    private readonly HttpListener provider = new();
    private readonly string file = Path.GetTempFileName();
    private readonly int port = RunningSite.FreePort();
    private readonly List<string> shown = [];
    private SmtpMailbox relay = null!;
    private Dovecot dovecot = null!;
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        var vouching = new Uri($"http://127.0.0.1:{RunningSite.FreePort()}/introspect/");
        provider.Prefixes.Add(vouching.ToString());
        provider.Start();
        _ = VouchAsync();
        relay = new SmtpMailbox(port);
        dovecot = await Dovecot.StartAsync(port, vouching, Stop);
        await File.WriteAllTextAsync(file, "of-the-lamp\n", Stop);
        site = await RunningSite.StartAsync(settings:
        [
            $"--Wary:Smtp=smtp://lamp@127.0.0.1:{dovecot.Submission}", $"--Wary:SmtpToken={file}", "--Wary:MailFrom=lamp@site.example",
            $"--Wary:BounceMailbox=imap://lamp@127.0.0.1:{dovecot.Imap}/INBOX", $"--Wary:BounceToken={file}", "--Wary:RoundMilliseconds=30",
        ]);
    }

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        await dovecot.DisposeAsync();
        await relay.DisposeAsync();
        provider.Close();
        File.Delete(file);
    }

    [Fact]
    public async Task Letters_go_out_and_reports_are_read_by_the_token_that_the_file_holds_now()
    {
        var good = await TriedAsync(all => all.Any(s => s is { Step: "login", State: "good" }) && all.Any(s => s is { Step: "reports", State: "good" }));
        good.ShouldNotContain(s => s.State == "bad");
        shown.ShouldContain("of-the-lamp");
        await site.Client.InviteAsync(new InvitationsDraft(["Ada Quill <ada@quill.example>"]), Stop);
        await ArrivedAsync("ada@quill.example");

        // The provider takes it back: no letter goes out, and the reason is told; with another in the file it does.
        await File.WriteAllTextAsync(file, "of-yesterday", Stop);
        var refused = await TriedAsync(all => all.Any(s => s is { Step: "login", State: "bad" }));
        refused.ShouldNotContain(s => s.Step == "sender", "nobody goes on without being let in");
        await site.Client.InviteAsync(new InvitationsDraft(["Bo Fell <bo@fell.example>"]), Stop);
        await Task.Delay(300, Stop);
        relay.Letters.ShouldNotContain(l => l.To.Contains("bo@fell.example"));
        await File.WriteAllTextAsync(file, "of-the-lamp", Stop);
        await TriedAsync(all => all.Any(s => s is { Step: "login", State: "good" }));
        var waiting = (await site.Client.LettersAsync(null, "bo@fell.example", null, Stop)).ShouldHaveSingleItem();
        try
        {
            await site.Client.ResendLetterAsync(waiting.Id, Stop);
        }
        catch (SentinelException)
        {
            // On a slow day it goes by itself by then; that it arrives is asked below.
        }

        await ArrivedAsync("bo@fell.example");
    }

    /// <summary>What the test of mail says, once it says so; the server may still be starting.</summary>
    private async Task<IReadOnlyList<MailStep>> TriedAsync(Func<IReadOnlyList<MailStep>, bool> so)
    {
        for (var n = 0; ; n++)
        {
            var steps = (await site.Client.TestMailAsync(Stop)).Steps;
            if (so(steps))
            {
                return steps;
            }

            n.ShouldBeLessThan(60, string.Join('\n', steps.Select(s => $"{s.Step} {s.State}: {s.Said}")));
            await Task.Delay(100, Stop);
        }
    }

    private async Task ArrivedAsync(string to)
    {
        for (var n = 0; !relay.Letters.Any(l => l.To.Contains(to)); n++)
        {
            n.ShouldBeLessThan(200, "the letter to " + to);
            await Task.Delay(100, Stop);
        }
    }

    /// <summary>The identity provider: knows one token.</summary>
    private async Task VouchAsync()
    {
        while (provider.IsListening)
        {
            HttpListenerContext asked;
            try
            {
                asked = await provider.GetContextAsync();
            }
            catch (Exception closed) when (closed is HttpListenerException or ObjectDisposedException)
            {
                return;
            }

            var bearer = asked.Request.Headers["Authorization"]?.Replace("Bearer ", "", StringComparison.Ordinal) ?? "";
            shown.Add(bearer);
            var active = bearer == "of-the-lamp";
            asked.Response.StatusCode = active ? 200 : 401;
            asked.Response.ContentType = "application/json";
            asked.Response.Close(Encoding.UTF8.GetBytes(active ? """{"active":true,"email":"lamp"}""" : """{"active":false}"""), true);
        }
    }
}
