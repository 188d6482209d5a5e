using AngleSharp.Html.Parser;
using Shouldly;
using WarySentinel.Core.Access;
using Xunit;

namespace WarySentinel.Core.Tests.Pages;

/// <summary>The owner's style reaches the panel and nothing else, fetches nothing and covers nothing.</summary>
public sealed class OwnStyleTests
{
    [Theory]
    [InlineData("h1{color:red}", ".panel h1{color: rgba(255, 0, 0, 1)}")]
    [InlineData(".panel{border-radius:0}", ".panel{border-radius: 0}")]
    [InlineData(".panels b, .panel b{margin:0}", ".panel .panels b,.panel b{margin: 0}")]
    [InlineData("body, html, :root{margin:1px}", ".panel body,.panel html,.panel :root{margin: 1px}")]
    [InlineData("@media (max-width: 400px){p{margin:0}}", "@media (max-width: 400px){.panel p{margin: 0}}")]
    [InlineData("p::before{content:\"{\"}", ".panel p::before{content: \"\\7b\"}")]
    [InlineData("/* { */ p{margin:0}", ".panel p{margin: 0}")]
    [InlineData("a:is(b,c), [title=\"x,y\"]{margin:0}", ".panel a:is(b, c),.panel [title=\"x,y\"]{margin: 0}")]
    [InlineData(".panel:hover ~ footer{margin:0}", ".panel .panel:hover~footer{margin: 0}")]
    [InlineData("", "")]
    public void It_is_written_anew_for_the_panel(string css, string written)
    {
        OwnStyle.FaultOf(css, StyleScope.Panel).ShouldBeNull();
        OwnStyle.Of(css, StyleScope.Panel).ShouldBe(written);
    }

    [Theory]
    [InlineData("h1{margin:0}", ".hosted h1{margin: 0}", ".wary-frame.wary-frame.hosted h1{margin: 0}")]
    [InlineData(".hosted{margin:0}", ".hosted{margin: 0}", ".wary-frame.wary-frame.hosted{margin: 0}")]
    [InlineData(".hosted > .book a, .panel{margin:0}", ".hosted>.book a,.hosted .panel{margin: 0}",
        ".wary-frame.wary-frame.hosted>.book a,.wary-frame.wary-frame.hosted .panel{margin: 0}")]
    public void Pages_that_the_owner_wrote_have_one_of_their_own_also_within_a_page_of_the_site(string css, string alone, string within)
    {
        OwnStyle.FaultOf(css, StyleScope.Hosted).ShouldBeNull();
        OwnStyle.Of(css, StyleScope.Hosted).ShouldBe(alone);
        OwnStyle.Of(css, StyleScope.HostedWithin).ShouldBe(within);
        OwnStyle.Of(".panel b{margin:0}", StyleScope.PanelWithin).ShouldBe(".wary-frame.wary-frame .panel b{margin: 0}");
    }

    [Theory]
    [InlineData("p{background:url(https://elsewhere.example/x)}", "style-reaches")]
    [InlineData("p{background:URL('//elsewhere.example')}", "style-reaches")]
    [InlineData("p{background:u\\72l(//x)}", "style-reaches")]
    [InlineData("p{--x:url(//x)}", "style-reaches")]
    [InlineData("p{background:image-set('//x' 1x)}", "style-reaches")]
    [InlineData("p{cursor:url(//x),auto}", "style-reaches")]
    [InlineData("p{position:fixed}", "style-covers")]
    [InlineData("p{position:absolute!important}", "style-covers")]
    [InlineData("p{POSITION:Sticky}", "style-covers")]
    [InlineData("p{position:var(--x)}", "style-covers")]
    [InlineData("@import 'https://elsewhere.example';", "style-rule")]
    [InlineData("@font-face{font-family:x;src:local(y)}", "style-rule")]
    [InlineData("@supports (display:grid){p{margin:0}}", "style-rule")]
    [InlineData("@keyframes x{from{top:0}}", "style-rule")]
    [InlineData("a & b{margin:0}", "style-rule")]
    [InlineData("p{margin:0; b{margin:0}}", "style-unread")]
    [InlineData("p{content:'</style><script>'}", "style-markup")]
    [InlineData("</style><script>alert(1)</script>", "style-markup")]
    [InlineData("nothing that is a rule", "style-unread")]
    [InlineData("p{@x: \\\"; color:red}", "style-rule")]
    public void What_reaches_out_covers_the_page_or_cannot_be_read_is_refused(string css, string code)
    {
        OwnStyle.FaultOf(css, StyleScope.Panel)!.Key.ShouldBe("problem." + code);
        OwnStyle.Of(css, StyleScope.Panel).ShouldBe("");
    }

    [Fact]
    public void Whatever_is_put_together_at_random_touches_only_what_stands_in_the_panel()
    {
        var random = new Random(8);
        string[] bits =
        [
            "*", "a", ".site", ".panel", "body", "#x", ":root", ":not(.panel)", ":is(html,a)", "[href]", ">", "+", "~", " ", ",", "::before", ":hover",
            "{color:red}",
            "{position:fixed}", "{background:url(x)}", "@media all", "{", "}", "/*", "*/", "'", "\"", "\\", "<", "&", ";", "--x:1", "@scope", "margin:0",
        ];
        StyleScope[] scopes = [StyleScope.Panel, StyleScope.Hosted, StyleScope.PanelWithin, StyleScope.HostedWithin];
        var page = new HtmlParser().ParseDocument(
            "<body><header class=site><a href=/ id=x>Home</a></header><main class=panel><p><a href=/in>In</a></p></main><div class='wary-frame hosted'>"
            + "<section class=panel><p><a href=/in id=y>In</a></p></section></div><article class=hosted><h1>In</h1></article>"
            + "<footer><a>Out</a></footer></body>");
        var taken = 0;
        for (var trial = 0; trial < 20_000; trial++)
        {
            var css = string.Concat(Enumerable.Range(0, random.Next(1, 9)).Select(_ => bits[random.Next(bits.Length)])) + (trial % 2 == 0 ? "{color:red}" : "");
            var scope = scopes[trial % scopes.Length];
            if (OwnStyle.FaultOf(css, scope) is not null || OwnStyle.Of(css, scope) is not { Length: > 0 } written)
            {
                continue;
            }

            taken++;
            written.ShouldNotContain("<");
            written.ToLowerInvariant().ShouldNotContain("url(");
            written.ToLowerInvariant().ShouldNotContain("fixed");
            foreach (var selector in written.Split('}').Where(r => r.Contains('{', StringComparison.Ordinal)).Select(r => r.Split('{')[^2]))
            {
                if (selector.StartsWith('@') || selector.Contains("::", StringComparison.Ordinal) || selector.Contains(":hover", StringComparison.Ordinal))
                {
                    continue;
                }

                Should.NotThrow(() => page.QuerySelectorAll(selector), $"{css} became {written}");
                page.QuerySelectorAll(selector).ShouldAllBe(e => e.Closest(scope.Written) != null, $"{css} became {written}");
            }
        }

        taken.ShouldBeGreaterThan(1_000);
    }
}
