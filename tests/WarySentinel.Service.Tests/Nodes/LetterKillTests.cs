using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.People;
using WarySentinel.StandIns.Mailbox;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Nodes;

/// <summary>Machines die anywhere while they send letters, against a mail server that counts.</summary>
public sealed partial class LetterKillTests
{
    private const int People = 40;

    /// <summary>In tenths of a second: the two minutes of the first pause, and some.</summary>
    private const int LongestPause = 1500;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>WARY_LETTER_KILLS says how often, where it is to be more than a few times.</summary>
    [Theory]
    [InlineData("sqlite", 1)]
    [InlineData("postgres", 2)]
    public async Task No_letter_is_lost_and_none_goes_out_twice_and_what_nobody_can_know_says_so(string provider, int machines)
    {
        var kills = Trials.Of(1, 500, "WARY_LETTER_KILLS");
        await using var mortal = await MortalService.OnAsync(provider);
        var random = new Random(kills);
        var port = RunningSite.FreePort();
        await using var mailbox = new SmtpMailbox(port) { Thinks = () => TimeSpan.FromMilliseconds(Random.Shared.Next(12)) };
        string[] settings =
        [
            $"--Wary:Smtp=smtp://127.0.0.1:{port}", "--Wary:MailFrom=lamp@site.example", "--Wary:RoundMilliseconds=30",
            "--Wary:LetterAttemptSeconds=5",
        ];
        using var store = Store.Open(provider, mortal.Connection, TimeProvider.System);
        var running = new ServiceProcess[machines];
        var token = "";
        for (var n = 0; n < machines; n++)
        {
            running[n] = await mortal.StartAsync(settings);
            token = n == 0 ? await SetUpAsync(running[0]) : token;
        }

        for (var kill = 0; kill < kills; kill++)
        {
            var dying = kill % machines;
            var (there, writing) = (await store.MessageCountAsync(null, Stop), TellAsync(running[dying], token, kill));
            // Not before letters are being sent: then anywhere in it.
            while (!writing.IsCompleted && await store.MessageCountAsync(null, Stop) == there)
            {
                await Task.Delay(5, Stop);
            }

            await Task.Delay(random.Next(600), Stop);
            await running[dying].KillAsync();
            await writing;
            running[dying] = await mortal.StartAsync(settings);
        }

        var letters = await SettledAsync(store);
        await Task.WhenAll(running.Select(r => r.DisposeAsync().AsTask()));
        var came = mailbox.Letters.GroupBy(l => l.MessageId.Split('@')[0]).ToDictionary(g => g.Key, g => g.Count());
        came.Count.ShouldBeGreaterThan(kills * People / 8, "there was something to be lost");
        came.Values.ShouldAllBe(times => times == 1, "nobody gets one twice");
        letters.Count(l => l.State == LetterState.Sent && !came.ContainsKey(l.Id.ToString("N"))).ShouldBe(0, "what is sent has arrived");
        letters.Where(l => l.State is not (LetterState.Sent or LetterState.Unclear)).Select(l => $"{l.State} after {l.Tries} tries: {l.Fault}").ShouldBeEmpty();
        letters.Count(l => l.State == LetterState.Unclear).ShouldBeLessThanOrEqualTo(kills, "one at most for each death");
        came.Keys.ShouldAllBe(id => letters.Any(l => l.Id.ToString("N") == id), "nothing goes out that is not written down");
    }

    /// <summary>All letters, once none waits any more, or none has gone for longer than an attempt that came to nothing pauses the first time.</summary>
    private static async Task<IReadOnlyList<MessageState>> SettledAsync(Store store)
    {
        var (least, left) = (int.MaxValue, LongestPause);
        while (left-- > 0 && await store.MessageCountAsync(LetterState.Waiting, Stop) is > 0 and var waiting)
        {
            (least, left) = waiting < least ? (waiting, LongestPause) : (least, left);
            await Task.Delay(100, Stop);
        }

        return await store.MessagesAsync(1_000_000, stop: Stop);
    }

    private static async Task<string> SetUpAsync(ServiceProcess service)
    {
        var token = await MortalService.OwnedAsync(service);
        using var client = new SentinelClient(new Uri(service.Admin), token);
        var file = "email,name\n" + string.Concat(Enumerable.Range(0, People).Select(n => $"a{n}@x.example,Some One\n"));
        await foreach (var _ in client.ImportMembersAsync(
            new MemoryStream(System.Text.Encoding.UTF8.GetBytes(file)), false, [], null, null, null, Stop))
        {
        }

        return token;
    }

    private static async Task TellAsync(ServiceProcess service, string token, int round)
    {
        using var client = new SentinelClient(new Uri(service.Admin), token);
        try
        {
            var draft = new BulkDraft("tell", Filter: new MemberFilter(Search: "x.example"), Subject: $"Round {round}", Text: "Hello {name}");
            await foreach (var _ in client.BulkAsync(draft, Stop))
            {
            }
        }
        catch (Exception gone) when (gone is HttpRequestException or IOException or SentinelException or TaskCanceledException)
        {
            // Killed.
        }
    }
}
