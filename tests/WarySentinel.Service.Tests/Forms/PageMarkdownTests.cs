using System.Text.RegularExpressions;
using Shouldly;
using WarySentinel.Service.Pages;
using Xunit;

namespace WarySentinel.Service.Tests.Forms;

/// <summary>Markdown of the owner's on a page: nothing in it runs, whatever is typed.</summary>
public sealed partial class PageMarkdownTests
{
    private const int Trials = 20_000;

    private static readonly string[] Pieces =
    [
        "[a](", "![a](", "javascript:alert(1)", "JaVaScRiPt&#58;alert(1)", "java\tscript:x", "&#x6A;avascript:x", " \"on\" ", "<script>", "</script>",
        "<img src=x onerror=x>", "<javascript:x>", "<https://a.example>", ")", "[b]: ", "data:text/html,x", "vbscript:x", "\n", "\n\n", "# ", "> ", "| a | b |",
        "|---|---|", "`", "```", "*", "**", "_", "&", "&lt;", "\\", "\u0001", "<!--", "]]>", "<a href='x'>", "[c][b]", "https://b.example/?q=1",
            "mailto:x@y.example",
        "\"><svg onload=x>", "'", "{onclick=x}", "- ", "1. ", "\u202e",
    ];

    [Fact]
    public void Nothing_that_is_typed_becomes_a_tag_a_handler_or_a_link_that_runs()
    {
        var random = new Random(4);
        for (var i = 0; i < Trials; i++)
        {
            var text = string.Concat(Enumerable.Range(0, random.Next(1, 14)).Select(_ => Pieces[random.Next(Pieces.Length)]));
            var html = PageMarkdown.HtmlOf(text);
            foreach (Match tag in Tags().Matches(html))
            {
                tag.Groups[1].Value.ShouldBeOneOf(
                    "p", "a", "img", "em", "strong", "code", "pre", "h2", "h3", "h4", "h5", "h6", "ul", "ol", "li", "blockquote", "hr", "br", "table", "thead",
                    "tbody", "tr", "td", "th");
                tag.Value.ShouldNotMatch(@"\son\w+\s*=");
            }

            foreach (Match link in Links().Matches(html))
            {
                var url = Regex.Replace(System.Net.WebUtility.HtmlDecode(link.Groups[1].Value), @"[\s\x00-\x20]", "");
                url.ShouldNotMatch("(?i)^(javascript|vbscript|data):", text);
            }
        }
    }

    [Fact]
    public void A_text_nested_without_end_takes_no_time_and_stands_as_it_was_typed()
    {
        PageMarkdown.HtmlOf(new string('>', 50_000)).Length.ShouldBeGreaterThan(0);
        PageMarkdown.HtmlOf(string.Concat(Enumerable.Repeat("[", 20_000))).Length.ShouldBeGreaterThan(0);
        PageMarkdown.HtmlOf("# One\n\ntwo *three*").ShouldBe("<h2>One</h2>\n<p>two <em>three</em></p>\n");
    }

    [GeneratedRegex(@"</?([a-zA-Z][\w-]*)(?:""[^""]*""|[^"">])*>")]
    private static partial Regex Tags();

    [GeneratedRegex(@"(?:href|src)=""([^""]*)""")]
    private static partial Regex Links();
}
