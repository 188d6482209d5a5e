using System.Globalization;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Catalogue;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Catalogue;

/// <summary>What people ask for by the logs of web servers.</summary>
public sealed class AccessLogTests
{
    private const string Browser = "Mozilla/5.0 (X11; Linux x86_64) \\\"quoted\\\" Gecko/20100101";

    private static AskedAddresses Asked(params string[] lines)
    {
        var asked = new AskedAddresses(Policy(Shop()).Graph, ["/account", "/sentinel"]);
        lines.ToList().ForEach(asked.Add);
        return asked;
    }

    private static string Line(string request, int status = 200, string? agent = Browser) =>
        $"203.0.113.9 - mira [28/Nov/2026:10:00:00 +0000] \"{request}\" {status} 5120" + (agent is null ? "" : $" \"https://x.example/\" \"{agent}\"");

    [Theory]
    [InlineData("203.0.113.9 - - [28/Nov/2026:10:00:00 +0000] \"GET /a/b HTTP/1.1\" 200 12", "/a/b", null)]
    [InlineData("shop.example:443 2001:db8::1 - - [28/Nov/2026:10:00:00 +0000] \"GET /a HTTP/2.0\" 304 - \"-\" \"Mozilla/5.0\"", "/a", "Mozilla/5.0")]
    [InlineData("1.2.3.4 - - [x] \"GET /\\xC3\\xA4?q=\\x22 HTTP/1.1\" 200 1 \"a \\\"b\\\" c\" \"d\\\\e\"", "/%C3%A4?q=%22", "d%5Ce")]
    public void Both_formats_are_read_as_servers_write_them(string line, string target, string? agent)
    {
        var read = LoggedRequest.Read(line)!;
        (read.Method, read.Target, read.Agent).ShouldBe(("GET", target, agent));
    }

    [Theory]
    [InlineData("")]
    [InlineData("just words")]
    [InlineData("1.2.3.4 - - [x] \"GET /a HTTP/1.1")]
    [InlineData("1.2.3.4 - - [x] \"\\x16\\x03\\x01\" 400 150 \"-\" \"-\"")]
    [InlineData("1.2.3.4 - - [x] \"GET /a HTTP/1.1\" two 1")]
    [InlineData("1.2.3.4 - - [x] \"GET /a HTTP/1.1\" 999 1")]
    public void What_is_no_line_of_a_log_is_none(string line) => LoggedRequest.Read(line).ShouldBeNull();

    [Fact]
    public void What_people_ask_for_and_the_catalogue_lacks_is_told_the_most_asked_for_first()
    {
        var asked = Asked(
            Line("GET /guide/winter HTTP/1.1"), Line("GET /guide/winter?utm_source=letter HTTP/1.1"), Line("HEAD /guide//winter HTTP/1.1"),
            Line("GET /files/atlas.pdf HTTP/1.1", 206), Line("GET /files/atlas.pdf HTTP/1.1", 206, null),
            Line("GET /show?id=12&ref=x HTTP/1.1"), Line("GET /show?id=12 HTTP/1.1"), Line("GET /show?id=13 HTTP/1.1"),
            Line("GET /product/moss HTTP/1.1"), Line("GET /product/moss HTTP/1.1"),
            Line("GET /style.css HTTP/1.1"), Line("GET /style.css HTTP/1.1"), Line("POST /guide/other HTTP/1.1"), Line("POST /guide/other HTTP/1.1"),
            Line("GET /.git/config HTTP/1.1", 404), Line("GET /.git/config HTTP/1.1", 403), Line("GET /account/sign-in HTTP/1.1"),
            Line("GET /account/sign-in HTTP/1.1"), Line("GET /only/once HTTP/1.1"), Line("GET / HTTP/1.1"), Line("GET / HTTP/1.1"),
            Line("GET /crawled HTTP/1.1", agent: "Searchbot/1.0"), Line("GET /crawled HTTP/1.1", agent: "Searchbot/1.0"),
            Line("GET http://shop.example/whole HTTP/1.1"), Line("GET http://shop.example/whole HTTP/1.1"), "nonsense");
        asked.Lacking(2).ShouldBe(
            [new("/guide/winter", 3), new("/files/atlas.pdf", 2), new("/show?id=12", 2), new("/whole", 2)]);
        asked.Unreadable.ShouldBe(1);
        Asked(Line("GET /caf%C3%A9 HTTP/1.1"), Line("GET /caf\\xC3\\xA9 HTTP/1.1")).Lacking(2).ShouldHaveSingleItem().Address.ShouldBe("/café");
    }

    /// <summary>Whatever is asked for, a log names it as it came in, and nothing that a visitor sends keeps the log from being read.</summary>
    [Property(MaxTest = 500)]
    public void What_a_visitor_sends_is_counted_or_left_out_and_never_breaks_anything(string sent, byte[] raw)
    {
        var bytes = (raw ?? []).Concat(System.Text.Encoding.UTF8.GetBytes(sent ?? "")).ToArray();
        var escaped = string.Concat(bytes.Select(b => b is > 0x20 and < 0x7F and not ((byte)'"' or (byte)'\\') ? ((char)b).ToString()
            : "\\x" + b.ToString("X2", CultureInfo.InvariantCulture)));
        var asked = Asked(Line($"GET /{escaped} HTTP/1.1"), Line($"GET /{escaped} HTTP/1.1"), Line("GET /after HTTP/1.1"), Line("GET /after HTTP/1.1"));
        asked.Unreadable.ShouldBe(0);
        var told = asked.Lacking(2);
        told.ShouldContain(new AskedAddress("/after", escaped == "after" ? 4 : 2));
        told.ShouldAllBe(a => a.Address.StartsWith('/') && PlainText.IsClean(a.Address, false));
    }

    [Property(MaxTest = 300)]
    public void A_line_of_anything_is_read_or_is_none(string line) => Should.NotThrow(() => Asked(line ?? "", (line ?? "") + "] \"" + line));

    [Fact]
    public void Titles_are_as_people_see_them()
    {
        PageTitles.Clean(" Getting\n  started ¶").ShouldBe("Getting started");
        PageTitles.Clean("Getting started¶\u200B").ShouldBe("Getting started");
        PageTitles.Clean("Interop with C#").ShouldBe("Interop with C#");
        PageTitles.Clean(" ¶ ").ShouldBeNull();
        DiscoveredItem Titled(string title) => new("/" + title.Length, null, title);
        PageTitles.WithoutSiteName([Titled("Orion — Fernlight"), Titled("Lyra — Fernlight"), Titled("Draco — Fernlight"), Titled("Fernlight")])
            .Select(f => f.Title).ShouldBe(["Orion", "Lyra", "Draco", "Fernlight"]);
        PageTitles.WithoutSiteName([Titled("Fernlight | Orion"), Titled("Fernlight | Lyra"), Titled("Fernlight | The Dragon")])
            .Select(f => f.Title).ShouldBe(["Orion", "Lyra", "The Dragon"]);
        PageTitles.WithoutSiteName([Titled("Salt - coarse"), Titled("Salt - fine"), Titled("Pepper - black")])
            .Select(f => f.Title).ShouldBe(["Salt - coarse", "Salt - fine", "Pepper - black"]);
    }
}
