using System.Text;
using MimeKit;
using Shouldly;
using WarySentinel.Service.Letters;
using Xunit;

namespace WarySentinel.Service.Tests.Letters;

/// <summary>Reports of letters that reached nobody (RFC 3464).</summary>
public sealed class BounceTests
{
    [Theory]
    [InlineData("failed", "5.1.1", true)]
    [InlineData("Failed", "5.7.1", true)]
    [InlineData("delayed", "4.4.7", false)]
    [InlineData("failed", "4.4.7", false)]
    [InlineData("delivered", "2.0.0", false)]
    public void Only_what_failed_for_good_counts(string action, string status, bool isGone)
    {
        var read = Bounces.Read(Report($"Final-Recipient: rfc822;Ada@Quill.example\nAction: {action}\nStatus: {status}\nDiagnostic-Code: smtp; 550 no\n"))
            .ShouldHaveSingleItem();
        (read.Address, read.Status, read.IsGone, read.Said).ShouldBe(("ada@quill.example", status, isGone, "smtp; 550 no"));
    }

    [Fact]
    public void Several_addresses_of_one_report_are_all_read()
    {
        var groups = string.Join('\n', Enumerable.Range(0, 5).Select(n => $"Final-Recipient: rfc822; a{n}@x.example\nAction: failed\nStatus: 5.1.1\n"));
        Bounces.Read(Report(groups)).Select(b => b.Address).ShouldBe(Enumerable.Range(0, 5).Select(n => $"a{n}@x.example"));
    }

    [Theory]
    [InlineData("Subject: Out of office\n\nBack on Monday.")]
    [InlineData("Content-Type: multipart/report; report-type=disposition-notification; boundary=b\n\n--b\n\nread\n--b--\n")]
    public void What_is_no_report_says_nothing(string mail) => Bounces.Read(Load(mail)).ShouldBeEmpty();

    [Fact]
    public void A_broken_report_is_read_as_far_as_it_goes_and_never_throws()
    {
        var whole = Text("Final-Recipient: rfc822; ada@quill.example\nAction: failed\nStatus: 5.1.1\n");
        var random = new Random(3);
        for (var n = 0; n < 500; n++)
        {
            var bytes = Encoding.UTF8.GetBytes(whole);
            for (var i = random.Next(1, 8); i > 0; i--)
            {
                bytes[random.Next(bytes.Length)] = (byte)random.Next(256);
            }

            try
            {
                using var stream = new MemoryStream(bytes, 0, random.Next(bytes.Length));
                using var mail = MimeMessage.Load(stream);
                Bounces.Read(mail).ShouldAllBe(b => b.Address.Contains('@'));
            }
            catch (FormatException)
            {
                // No mail at all, which the call says.
            }
        }
    }

    private static MimeMessage Report(string groups) => Load(Text(groups));

    private static MimeMessage Load(string text) => MimeMessage.Load(new MemoryStream(Encoding.UTF8.GetBytes(text)));

    private static string Text(string groups) => $"""
        From: MAILER-DAEMON@mx.example
        To: noreply@fernlight.example
        Subject: Undelivered mail
        MIME-Version: 1.0
        Content-Type: multipart/report; report-type=delivery-status; boundary="b"

        --b
        Content-Type: text/plain

        It could not be delivered.
        --b
        Content-Type: message/delivery-status

        Reporting-MTA: dns; mx.example

        {groups}
        --b--

        """.ReplaceLineEndings("\r\n");
}
