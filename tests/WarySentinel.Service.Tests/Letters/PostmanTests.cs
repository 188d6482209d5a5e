using System.Net;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using MimeKit;
using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Letters;
using WarySentinel.Service.Letters;
using WarySentinel.Service.People;
using WarySentinel.StandIns.Mailbox;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Letters;

/// <summary>Letters on their way to a mail server that does what real ones do.</summary>
public sealed class PostmanTests : IAsyncLifetime
{
    private readonly FakeTimeProvider clock = new(DateTimeOffset.UtcNow);
    private SmtpMailbox mailbox = null!;
    private RunningSite site = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    private Store Store => site.Services.GetRequiredService<Store>();

    private Postman Postman => site.Services.GetRequiredService<Postman>();

    public async ValueTask InitializeAsync()
    {
        var port = RunningSite.FreePort();
        mailbox = new SmtpMailbox(port);
        site = await RunningSite.StartAsync(settings: [$"--Wary:Smtp=smtp://127.0.0.1:{port}", "--Wary:MailFrom=lamp@site.example"], time: clock);
    }

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        await mailbox.DisposeAsync();
    }

    [Fact]
    public async Task A_letter_arrives_as_text_and_html_with_one_subject_line_whatever_is_in_a_name()
    {
        await WriteAsync("ada@x.example", "Ada\r\nBcc: all@x.example\r\n\r\n<script>alert(1)</script>");
        (await Postman.SendDueAsync(Stop)).ShouldBe(1);
        var letter = mailbox.Letters.ShouldHaveSingleItem();
        letter.To.ShouldBe(["ada@x.example"]);
        letter.Headers.ShouldNotContain(h => h.StartsWith("Bcc", StringComparison.OrdinalIgnoreCase));
        letter.Headers.Count(h => h.StartsWith("Subject:", StringComparison.Ordinal)).ShouldBe(1);
        letter.Subject.ShouldStartWith("Hello Ada Bcc: all@x.example");
        letter.Html.ShouldNotBeNull().ShouldNotContain("<script");
        letter.Html.ShouldContain("role=\"presentation\"");
        letter.Text.ShouldContain("<script>alert(1)</script>", customMessage: "plain text is nothing but text");
        letter.Headers.ShouldContain(h => h.StartsWith("List-Unsubscribe-Post: List-Unsubscribe=One-Click", StringComparison.Ordinal), "it is not necessary");
    }

    [Fact]
    public async Task An_address_that_nobody_has_is_marked_told_of_and_written_to_no_more()
    {
        await SetAsync(new { letters = new { noticesTo = "owner@x.example" } });
        mailbox.Mishap = to => to == "gone@x.example" ? MailMishap.NoSuchMailbox : MailMishap.None;
        await WriteAsync("gone@x.example", "Gone");
        await WriteAsync("ada@x.example", "Ada");
        await Postman.SendDueAsync(Stop);
        await Postman.SendDueAsync(Stop);
        (await StateOfAsync("gone@x.example")).ShouldBe(LetterState.GivenUp, "it is no use to try again");
        mailbox.Letters.Single(l => l.To[0] == "owner@x.example").Text.ShouldContain("550 5.1.1");
        (await Store.UnreachableAsync("gone@x.example", Stop)).ShouldNotBeNull().Status.ShouldBe("5.1.1");
        mailbox.Mishap = _ => MailMishap.None;
        await WriteAsync("gone@x.example", "Gone");
        await Postman.SendDueAsync(Stop);
        mailbox.Letters.ShouldNotContain(l => l.To[0] == "gone@x.example");
        await site.Client.ReachableAsync("gone@x.example", Stop);
        await WriteAsync("gone@x.example", "Gone");
        await Postman.SendDueAsync(Stop);
        mailbox.Letters.ShouldContain(l => l.To[0] == "gone@x.example");
    }

    [Theory]
    [InlineData(MailMishap.BreaksAfter, 1)]
    [InlineData(MailMishap.BreaksWithin, 0)]
    public async Task Where_the_line_breaks_while_it_is_handed_over_nobody_sends_it_again_but_the_owner(MailMishap mishap, int arrived)
    {
        mailbox.Mishap = to => to == "ada@x.example" ? mishap : MailMishap.None;
        await WriteAsync("ada@x.example", "Ada");
        await WriteAsync("bo@x.example", "Bo");
        await Postman.SendDueAsync(Stop);
        (await StateOfAsync("bo@x.example")).ShouldBe(LetterState.Sent, "the next letter goes over a new line");
        (await StateOfAsync("ada@x.example")).ShouldBe(LetterState.Unclear);
        mailbox.Mishap = _ => MailMishap.None;
        clock.Advance(TimeSpan.FromDays(1));
        await Postman.SendDueAsync(Stop);
        mailbox.Letters.Count(l => l.To[0] == "ada@x.example").ShouldBe(arrived);
        var letter = (await site.Client.LettersAsync("unclear", null, null, Stop)).ShouldHaveSingleItem();
        (await site.Client.LetterAsync(letter.Id, Stop)).Attempts.ShouldHaveSingleItem().Outcome.ShouldBe("unclear");
        await (arrived == 1 ? site.Client.LetterWentOutAsync(letter.Id, Stop) : site.Client.ResendLetterAsync(letter.Id, Stop));
        await Postman.SendDueAsync(Stop);
        (await StateOfAsync("ada@x.example")).ShouldBe(LetterState.Sent);
        mailbox.Letters.Count(l => l.To[0] == "ada@x.example").ShouldBe(1);
    }

    [Fact]
    public async Task What_is_not_taken_for_now_is_tried_again_with_pauses_and_every_attempt_is_kept()
    {
        mailbox.Mishap = _ => MailMishap.TryLater;
        await WriteAsync("ada@x.example", "Ada");
        for (var n = 0; n < 3; n++)
        {
            await Postman.SendDueAsync(Stop);
            await Postman.SendDueAsync(Stop);
            clock.Advance(TimeSpan.FromHours(1));
        }

        mailbox.Mishap = _ => MailMishap.None;
        await Postman.SendDueAsync(Stop);
        var letter = (await site.Client.LettersAsync("sent", null, null, Stop)).ShouldHaveSingleItem();
        (await site.Client.LetterAsync(letter.Id, Stop)).Attempts.Select(a => a.Outcome).ShouldBe(["sent", "failed", "failed", "failed"]);
        (await site.Client.LetterAsync(letter.Id, Stop)).Attempts[1].Said!.ShouldContain("Try again later");
    }

    [Fact]
    public async Task Held_letters_wait_until_they_are_let_go()
    {
        await SetAsync(new { letters = new { hold = true } });
        await WriteAsync("ada@x.example", "Ada");
        (await Postman.SendDueAsync(Stop)).ShouldBe(0);
        (await site.Client.OutboxAsync(Stop)).Held.ShouldBeTrue();
        await SetAsync(new { letters = new { hold = false } });
        (await Postman.SendDueAsync(Stop)).ShouldBe(1);
    }

    [Fact]
    public async Task Each_letter_is_taken_by_one_of_many_and_what_is_urgent_by_its_own_way()
    {
        await Task.WhenAll(Enumerable.Range(0, 60).Select(n => WriteAsync($"a{n}@x.example", "A")));
        await WriteAsync("now@x.example", "Now", "sign-in-link");
        (await Postman.SendDueAsync(true, Stop)).ShouldBe(1);
        mailbox.Letters.ShouldHaveSingleItem().To.ShouldBe(["now@x.example"]);
        var sent = await Task.WhenAll(Enumerable.Range(0, 6).Select(_ => Postman.SendDueAsync(false, Stop)));
        sent.Sum().ShouldBe(60);
        mailbox.Letters.GroupBy(l => l.MessageId).ShouldAllBe(g => g.Count() == 1);
    }

    [Fact]
    public async Task The_test_of_the_server_says_step_by_step_what_works()
    {
        var test = await site.Client.TestMailAsync(Stop);
        test.Works.ShouldBeTrue();
        test.Steps.Select(s => s.Step).ShouldBe(["connect", "tls", "login", "sender", "spf", "dkim", "dmarc"]);
        await mailbox.DisposeAsync();
        var broken = await site.Client.TestMailAsync(Stop);
        (broken.Works, broken.Steps[0].State, broken.Steps[0].Mend is not null).ShouldBe((false, "bad", true));
    }

    [Fact]
    public async Task A_report_by_the_api_marks_its_address()
    {
        using var http = new HttpClient { DefaultRequestHeaders = { { "Authorization", "Bearer " + site.Token } } };
        using var nonsense = new StringContent("Subject: x\n\nHello", System.Text.Encoding.UTF8, "message/rfc822");
        (await http.PostAsync(site.Admin + "/api/v1/letters/bounces", nonsense, Stop)).StatusCode.ShouldBe(HttpStatusCode.UnprocessableEntity);
        await WriteAsync("bo@x.example", "Bo");
        await Postman.SendDueAsync(Stop);
        var sent = mailbox.Letters.ShouldHaveSingleItem().MessageId;
        (await BouncedAsync("no-letter-of-ours@localhost")).Strange.ShouldBe(["bo@x.example"]);
        (await site.Client.UnreachableAsync(Stop)).ShouldBeEmpty("anybody can write a report");
        (await BouncedAsync(sent)).Marked.ShouldBe(["bo@x.example"]);
        (await site.Client.UnreachableAsync(Stop)).ShouldContain(u => u.Address == "bo@x.example");
        (await StateOfAsync("bo@x.example")).ShouldBe(LetterState.Returned);
    }

    private async Task<Contract.Letters.BouncesView> BouncedAsync(string letter)
    {
        using var report = new MemoryStream(System.Text.Encoding.UTF8.GetBytes(
            "Content-Type: multipart/report; report-type=delivery-status; boundary=b\r\n\r\n--b\r\nContent-Type: message/delivery-status\r\n\r\n"
            + "Reporting-MTA: dns; x\r\n\r\nFinal-Recipient: rfc822; bo@x.example\r\nAction: failed\r\nStatus: 5.1.1\r\n\r\n"
            + $"--b\r\nContent-Type: text/rfc822-headers\r\n\r\nMessage-ID: <{letter}>\r\n\r\n--b--\r\n"));
        return await site.Client.BouncedAsync(report, Stop);
    }

    private async Task<LetterState> StateOfAsync(string to) => (await Store.MessagesAsync(1, to: to, stop: Stop))[0].State;

    private async Task WriteAsync(string to, string name, string kind = LetterKinds.Told)
    {
        var letter = site.Services.GetRequiredService<ILetters>().Write(
            kind, new LetterReader(to, name), ("subject", "Hello " + name), ("text", "Dear " + name), ("link", "https://x.example/l"), ("minutes", "15"));
        await Store.ApplyAsync(new Edit("test", to, [letter]), "test", stop: Stop);
    }

    private async Task SetAsync(object settings)
    {
        using var caller = new Caller(site, site.Token);
        (await caller.AskAsync("PUT", "settings", settings, "*")).Status.ShouldBe(HttpStatusCode.OK);
    }
}
