using System.Net.Sockets;
using System.Text;
using MailKit.Net.Smtp;
using MailKit.Security;
using Microsoft.Extensions.Logging;
using MimeKit;
using Shouldly;
using WarySentinel.StandIns.Mailbox;
using WarySentinel.StandIns.PageCache;
using Xunit;

namespace WarySentinel.StandIns.Tests;

/// <summary>The stand-in mail server and the heedless cache do what they are there for.</summary>
public sealed class MailboxTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task A_letter_is_kept_as_it_was_written()
    {
        var port = Port();
        await using var mailbox = new SmtpMailbox(port);
        using var smtp = new SmtpClient();
        await smtp.ConnectAsync("127.0.0.1", port, SecureSocketOptions.None, Stop);
        using var mail = new MimeMessage
        { Subject = "Grüße", Body = new TextPart("plain") { Text = "First\n.second begins with a dot\n..third with two\nünd ein Ende" } };
        mail.From.Add(MailboxAddress.Parse("a@x.example"));
        mail.To.Add(MailboxAddress.Parse("b@x.example"));
        mail.To.Add(MailboxAddress.Parse("c@x.example"));
        await smtp.SendAsync(mail, Stop);
        await smtp.DisconnectAsync(true, Stop);
        var letter = mailbox.Letters.ShouldHaveSingleItem();
        letter.Subject.ShouldBe("Grüße");
        letter.To.ShouldBe(["b@x.example", "c@x.example"]);
        letter.Text.ReplaceLineEndings("\n").Trim().ShouldBe("First\n.second begins with a dot\n..third with two\nünd ein Ende");
    }

    [Fact]
    public async Task What_it_does_not_know_it_says()
    {
        var port = Port();
        await using var mailbox = new SmtpMailbox(port);
        using var client = new TcpClient("127.0.0.1", port);
        using var reader = new StreamReader(client.GetStream(), Encoding.ASCII);
        await using var writer = new StreamWriter(client.GetStream(), Encoding.ASCII) { NewLine = "\r\n", AutoFlush = true };
        (await reader.ReadLineAsync(Stop))!.ShouldStartWith("220");
        await writer.WriteLineAsync("JUMP");
        (await reader.ReadLineAsync(Stop))!.ShouldStartWith("502");
        await writer.WriteLineAsync("QUIT");
        (await reader.ReadLineAsync(Stop))!.ShouldStartWith("221");
    }

    [Fact]
    public async Task Its_page_shows_letters_and_no_markup_of_theirs()
    {
        var port = Port();
        var address = $"http://127.0.0.1:{Port()}";
        await using var mailbox = new SmtpMailbox(port);
        await using var site = mailbox.BuildSite(address);
        await site.StartAsync(Stop);
        using var http = new HttpClient();
        (await http.GetStringAsync(address, Stop)).ShouldContain("Nothing has come in yet");
        using var smtp = new SmtpClient();
        await smtp.ConnectAsync("127.0.0.1", port, SecureSocketOptions.None, Stop);
        using var mail = new MimeMessage { Subject = "<b>", Body = new TextPart("plain") { Text = "<script>x</script>" } };
        mail.From.Add(MailboxAddress.Parse("a@x.example"));
        mail.To.Add(MailboxAddress.Parse("b@x.example"));
        await smtp.SendAsync(mail, Stop);
        var page = await http.GetStringAsync(address, Stop);
        page.ShouldContain("&lt;script&gt;");
        page.ShouldNotContain("<script>");
        (await http.GetStringAsync(address + "/messages.json", Stop)).ShouldContain("b@x.example");
    }

    [Fact]
    public async Task The_heedless_cache_gives_one_visitors_page_to_the_next()
    {
        var (origin, front) = ($"http://127.0.0.1:{Port()}", $"http://127.0.0.1:{Port()}");
        await using var site = WebApplicationOf(origin);
        await site.StartAsync(Stop);
        await using var cache = HeedlessCache.Build(origin, front);
        await cache.StartAsync(Stop);
        using var http = new HttpClient(new SocketsHttpHandler { UseCookies = false });
        using var mine = new HttpRequestMessage(HttpMethod.Get, front + "/x") { Headers = { { "Cookie", "who=me" } } };
        (await (await http.SendAsync(mine, Stop)).Content.ReadAsStringAsync(Stop)).ShouldBe("who=me");
        (await http.GetStringAsync(front + "/x", Stop)).ShouldBe("who=me");
        (await http.GetStringAsync(front + "/y", Stop)).ShouldBe("");
    }

    private static Microsoft.AspNetCore.Builder.WebApplication WebApplicationOf(string address)
    {
        var builder = Microsoft.AspNetCore.Builder.WebApplication.CreateSlimBuilder();
        Microsoft.AspNetCore.Hosting.HostingAbstractionsWebHostBuilderExtensions.UseUrls(builder.WebHost, address);
        builder.Logging.ClearProviders();
        var app = builder.Build();
        Microsoft.AspNetCore.Builder.RunExtensions.Run(app, http =>
        {
            http.Response.Headers.CacheControl = "private, no-store";
            return Microsoft.AspNetCore.Http.HttpResponseWritingExtensions.WriteAsync(http.Response, http.Request.Headers.Cookie.ToString());
        });
        return app;
    }

    private static int Port()
    {
        using var socket = new Socket(AddressFamily.InterNetwork, SocketType.Stream, ProtocolType.Tcp);
        socket.Bind(new System.Net.IPEndPoint(System.Net.IPAddress.Loopback, 0));
        return ((System.Net.IPEndPoint)socket.LocalEndPoint!).Port;
    }
}
