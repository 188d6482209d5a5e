using System.Text;
using AngleSharp.Html.Parser;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Markup;
using Xunit;

namespace WarySentinel.Core.Tests.Markup;

/// <summary>Something of ours put into an element of a page: where browsers find it, and with the rest as it was.</summary>
public sealed class PageSeamTests
{
    private const string Ours = "<section class=ours><p>ours</p></section>";

    [Theory]
    [InlineData("main", "<main>old <b>words</b></main>", true)]
    [InlineData("main", "<MAIN class=a>old</MAIN >", true)]
    [InlineData("#box", "<div><div id=box>a<div>b</div>c</div>d</div>", true)]
    [InlineData("#box", "<div id='bo'>x</div><div ID=\"box\">old</div>", true)]
    [InlineData(".mid", "<div class='a mid\tb'>old</div>", true)]
    [InlineData("main", "<!-- <main> --><script>'<main>'</script><textarea><main></textarea><main>old</main>", true)]
    [InlineData("#box", "<p title='<div id=box>'>x</p><div id=box>old</div>", true)]
    [InlineData("main", "<main>never ends", false)]
    [InlineData("main", "<p>none</p>", false)]
    [InlineData("#img", "<img id=img>", false)]
    [InlineData("main", "<main>a<main>b</main>c</main>", true)]
    public void It_stands_where_browsers_find_the_element(string element, string body, bool found)
    {
        var page = Encoding.UTF8.GetBytes(
            $"<!doctype html><html><head><meta charset=utf-8><title>Old</title></head><body><nav>nav</nav>{body}<footer>f</footer>");
        var seam = PageSeam.Find(page, element);
        (seam is not null).ShouldBe(found);
        if (seam is null)
        {
            return;
        }

        var made = Encoding.UTF8.GetString(seam.With(page, Ours, "New & shiny", "/frame?a=1&b", "<link rel=stylesheet href=/x.css>"));
        using var document = new HtmlParser().ParseDocument(made);
        document.QuerySelector(element)!.InnerHtml.ShouldBe("<section class=\"ours\"><p>ours</p></section>");
        document.Title.ShouldBe("New & shiny");
        document.QuerySelector("base")!.GetAttribute("href").ShouldBe("/frame?a=1&b");
        (document.QuerySelector("nav")!.TextContent, document.QuerySelector("footer")!.TextContent).ShouldBe(("nav", "f"));
        using var before = new HtmlParser().ParseDocument(Encoding.UTF8.GetString(page));
        document.QuerySelectorAll("section.ours").Length.ShouldBe(1);
        before.QuerySelector(element)!.OuterHtml.ShouldNotContain("ours");
    }

    [Fact]
    public void In_drawn_pages_the_same_element_is_filled_as_a_parser_finds()
    {
        var random = new Random(51);
        string[] pieces =
        [
            "<div>", "</div>", "<div id=box>", "<div class='x box'>", "<section>", "</section>", "<p>text", "<!-- <div id=box> -->",
                "<script>var a='<div id=box>'</script>",
            "<style>#box{}</style>", "<br>", "<img alt='<div id=box>'>", "words & <b>bold</b>", "<a href='>'>", "</a>", "<ul><li>a<li>b</ul>",
                "<div id=box data-a=\">\">",
        ];
        var filled = 0;
        for (var trial = 0; trial < 20_000; trial++)
        {
            var text = "<!doctype html><html><head><title>t</title></head><body>" + string.Concat(Enumerable.Range(0, random.Next(2, 14)).Select(_ =>
                pieces[random.Next(pieces.Length)])) + "</body></html>";
            var page = Encoding.UTF8.GetBytes(text);
            if (PageSeam.Find(page, "#box") is not { } seam)
            {
                continue;
            }

            filled++;
            using var document = new HtmlParser().ParseDocument(Encoding.UTF8.GetString(seam.With(page, "<i>ours</i>", "t", "/", "")));
            document.QuerySelector("#box")!.QuerySelector("i").ShouldNotBeNull(text);
            document.QuerySelectorAll("i").Length.ShouldBe(1, text);
        }

        filled.ShouldBeGreaterThan(1_000);
    }

    [Theory]
    [InlineData("main", true)]
    [InlineData("#content", true)]
    [InlineData(".page-body", true)]
    [InlineData("#a b", false)]
    [InlineData("div > p", false)]
    [InlineData("#", false)]
    [InlineData("", false)]
    [InlineData("1a", false)]
    public void An_element_has_a_plain_name(string element, bool good) => SitePlace.IsElement(element).ShouldBe(good);
}
