using System.Text;
using FsCheck;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Sweep;
using Xunit;

namespace WarySentinel.Core.Tests.Access;

/// <summary>What is read in an answer, whatever form it is in, and where it leads to.</summary>
public sealed class ReadTextTests
{
    private static readonly IReadOnlySet<string> Hosts = new HashSet<string> { "shop.example" };

    private static IReadOnlyList<string> From(string text, string page = "/a/b") =>
        [.. SweepLinks.From(text, page, Hosts).Distinct().Order(StringComparer.Ordinal)];

    [Property(MaxTest = 200)]
    public void Whatever_is_packed_is_read_again(NonNull<string> any, PositiveInt width)
    {
        var text = "Here it begins, and it is long enough to be looked at: " + new string([.. any.Get.Where(c => !char.IsControl(c) && !char.IsSurrogate(c))]);
        var base64 = Convert.ToBase64String(Encoding.UTF8.GetBytes(text));
        var url = base64.TrimEnd('=').Replace('+', '-').Replace('/', '_');
        var lines = string.Join("\r\n", base64.Chunk(Math.Max(60, width.Get % 100)).Select(c => new string(c)));
        var escaped = lines.Replace("\r\n", "\\n", StringComparison.Ordinal);
        foreach (var packed in (string[])[$"x = atob('{base64}')", $"data:text/html;base64,{base64}", $"?state={url}&x", $"\n{lines}\n", $"\"{escaped}\""])
        {
            PackedText.In(packed).ShouldContain(text, Case.Sensitive, packed);
        }

        PackedText.In("var x = '" + Uri.EscapeDataString("<p>a b c d " + text) + "'").ShouldContain(text);
    }

    [Theory]
    [InlineData("nothing here that is packed, only words and /a/very/long/path/that/goes/on/and/on/for/a/while/and/a/bit")]
    [InlineData("QUJD")]
    [InlineData("AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA==")]
    [InlineData("100% of 20% and 30 %")]
    public void What_is_not_packed_says_nothing_more(string text) => PackedText.In(text).ShouldBeEmpty();

    [Property(MaxTest = 100)]
    public void No_text_is_too_odd(string? any)
    {
        var text = any ?? "";
        _ = PackedText.In(text + "%20%20%3" + text + Convert.ToBase64String(Encoding.UTF8.GetBytes(text + text)) + "\\x\\u12");
        _ = ReadText.Unescaped(ReadText.Plain(text + "<" + text + "&#x" + text));
        _ = ReadText.Blocks(text + "<a " + text + "</" + text + "<p").ToList();
        using var words = WordRun.Of(text + "\uD800 \u00AD");
        _ = From(text + "<base href=\"" + text + "\"><a href=\"" + text + "\">");
    }

    [Theory]
    [InlineData("<p>One <b>bold</b> line</p><li>two</li>", "One bold line|two")]
    [InlineData("<title>No</title><h1>No</h1><a href=/x>no</a><h2>Yes</h2>text<br>more", "Yes|text|more")]
    [InlineData("<nav><p>no</p></nav><script>'<p>no'</script><td>a &amp; b<td>c", "a & b|c")]
    [InlineData("<a name=x>never closed <p>this", "never closed|this")]
    [InlineData("plain\nlines", "plain|lines")]
    public void A_page_is_read_part_for_part(string page, string parts) =>
        string.Join('|', ReadText.Blocks(page).Select(b => string.Join(' ', b.Split(' ', StringSplitOptions.RemoveEmptyEntries))).Where(b => b.Length > 0))
            .ShouldBe(parts);

    [Fact]
    public void A_page_of_elements_that_never_end_is_read_in_one_go()
    {
        // Looking for an end from each of them again would take some minutes.
        var page = "<main>" + string.Concat(Enumerable.Repeat("<a x><nav x><title x>w ", 150_000));
        Sayings.Of(page).ShouldBeEmpty();
        ReadText.Plain(page).Length.ShouldBeGreaterThan(300_000);
    }

    [Theory]
    [InlineData("ﬁne ﬂat ofﬁce", "fine flat office")]
    [InlineData("dis\u00ADtance ze\u200Bro", "distance zero")]
    [InlineData("cafe\u0301 Ｗｉｄｅ", "café wide")]
    public void Words_that_look_the_same_are_the_same(string one, string other)
    {
        using var first = WordRun.Of(one);
        using var second = WordRun.Of(other);
        first.Words(0, first.Count).ShouldBe(second.Words(0, second.Count));
        first.Join(0, first.Count).ShouldBe(second.Join(0, second.Count));
    }

    [Theory]
    [InlineData("<a href=\"list\">x</a>", "/a/list")]
    [InlineData("<a class=x href=list>x</a>", "/a/list")]
    [InlineData("<a href='deep/er'>x</a>", "/a/deep/er")]
    [InlineData("<base href=\"/z/\"><a href=\"list\">x</a>", "/z/ /z/list")]
    [InlineData("<object data=\"thing\"></object>", "/a/thing")]
    [InlineData("<form formaction=\"go\"><button formaction=\"gone\">", "/a/go /a/gone")]
    [InlineData("<a href=\"https://shop.example/x\">x</a><a href=\"https://else.example/y\">y</a>", "/x")]
    [InlineData("<a href=\"mailto:a@b.example\">x</a><a href=\"javascript:go()\">y</a><a href=\"#z\">z</a>", "")]
    [InlineData("<base href=\"https://else.example/z/\"><a href=\"list\">x</a>", "/a/list")]
    [InlineData("Sitemap: https://shop.example/maps/all.xml\nDisallow: /secret", "/maps/all.xml /secret")]
    [InlineData("location.href = go; x.src = y", "")]
    [InlineData("see \"data/all.ndjson\" and (../list.sqlite)", "/a/data/all.ndjson /list.sqlite")]
    public void Wherever_a_text_leads_is_found(string text, string to) => string.Join(' ', From(text)).ShouldBe(to);
}
