using System.Buffers;
using System.Text;
using AngleSharp.Html.Parser;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Markup;
using Xunit;

namespace WarySentinel.Core.Tests.Markup;

public sealed class MarkupFilterTests
{
    [Theory]
    [InlineData("<p>a <a href=/hidden>secret</a> b</p>", "<p>a  b</p>")]
    [InlineData("<ul><li><a href='/hidden'>secret</a></li><li><a href=/open>o</a></li></ul>", "<ul><li><a href=/open>o</a></li></ul>")]
    [InlineData("<ul><li><a href=/open>o</a><li><a href=/hidden>secret</a><li>c</ul>", "<ul><li><a href=/open>o</a><li>c</ul>")]
    [InlineData("<nav><ul><li><a href=/hidden>secret</a></li></ul></nav>", "<nav></nav>")]
    [InlineData("<ul><li><b>secret name</b><p><a href=/hidden>view</a></p></li><li>x</li></ul>", "<ul><li>x</li></ul>")]
    [InlineData("<ul><li><a href=/open>o</a><ul><li><a href=/hidden>secret</a></li></ul></li></ul>", "<ul><li><a href=/open>o</a></li></ul>")]
    [InlineData("<ul><li><a href=/hidden>secret</a><ul><li><a href=/open>o</a></li></ul></li><li>y</li></ul>",
        "<ul><li><ul><li><a href=/open>o</a></li></ul></li><li>y</li></ul>")]
    [InlineData("<table><tr><td><a href=/hidden>secret</a><td>1<tr><td>b</table>", "<table><tr><td>b</table>")]
    [InlineData("<!-- <a href=/hidden> --><p>x", "<!-- <a href=/hidden> --><p>x")]
    [InlineData("<script>'<a href=/hidden>'</script>x", "<script>'<a href=/hidden>'</script>x")]
    [InlineData("<textarea><a href=/hidden></textarea>", "<textarea><a href=/hidden></textarea>")]
    [InlineData("<a title='>' href=/hidden>secret</a>x", "x")]
    [InlineData("<A HREF = \"/hidden\" >secret</A>x", "x")]
    [InlineData("<a href='&#47;hidden'>secret</a>x", "x")]
    [InlineData("<div data-wary-item='product:secret'><div>secret</div></div>x", "x")]
    [InlineData("<div data-wary-item='product:open'>o</div>x", "<div data-wary-item='product:open'>o</div>x")]
    [InlineData("<p data-wary-for='members'>secret</p><p>x</p>", "<p>x</p>")]
    [InlineData("<img data-wary-item='product:secret' src=x>y", "y")]
    [InlineData("<a href=/marked>m</a>", "<a href=/marked>m[closed]</a>")]
    [InlineData("<p>1 < 2 <a href=/hidden>secret", "<p>1 < 2 ")]
    [InlineData("<p><a href=/open>a</a> | <a href=/hidden>secret</a> | <a href=/open>c</a></p>", "<p><a href=/open>a</a> | <a href=/open>c</a></p>")]
    [InlineData("<p><a href=/hidden>secret</a> &middot; <a href=/hidden>secret</a>&nbsp;·<a href=/open>c</a></p>", "<p><a href=/open>c</a></p>")]
    [InlineData("<p><a href=/open>a</a>, <a href=/hidden>secret</a></p>", "<p><a href=/open>a</a></p>")]
    [InlineData("<p><a href=/open>a</a><span class=s>|</span><a href=/hidden>secret</a></p>", "<p><a href=/open>a</a></p>")]
    [InlineData("<p><a href=/hidden>secret</a> <i>·</i> <a href=/open>a</a></p>", "<p> <a href=/open>a</a></p>")]
    [InlineData("<p><a href=/open>a</a><br><a href=/hidden>secret</a><br><a href=/open>b</a></p>", "<p><a href=/open>a</a><br><a href=/open>b</a></p>")]
    [InlineData("<p><a href=/hidden>secret</a><br><a href=/open>b</a></p>", "<p><a href=/open>b</a></p>")]
    [InlineData("<p>As we saw in <a href=/hidden>chapter two</a>, it is so.</p>", "<p>As we saw in chapter two, it is so.</p>")]
    [InlineData("<p><a href=/hidden>Chapter two</a> says that it is so.</p>", "<p>Chapter two says that it is so.</p>")]
    [InlineData(
        "<ul><li>As we saw long ago in <a href=/hidden>chapter two</a>, it is so.</li></ul>",
        "<ul><li>As we saw long ago in chapter two, it is so.</li></ul>")]
    [InlineData("<ul><li><a href=/hidden>secret</a> by <a href=/open>us</a></li></ul>", "<ul><li> by <a href=/open>us</a></li></ul>")]
    [InlineData("<ul><li><a href=/hidden>secret</a> A lens for dark skies, wide and light, in a box.</li><li>x</li></ul>", "<ul><li>x</li></ul>")]
    [InlineData("<dl><dt><a href=/hidden>secret</a><dd>A secret lens<dt>x<dd>y</dl>", "<dl><dt>x<dd>y</dl>")]
    [InlineData("<dl><dt>Kin<dd><a href=/hidden>secret</a><dd><a href=/open>o</a><dt>x<dd>y</dl>", "<dl><dt>Kin<dd><a href=/open>o</a><dt>x<dd>y</dl>")]
    [InlineData("<a href=/hidden><div>secret</div><p>secret</p></a><p>x", "<p>x")]
    [InlineData("<img src=/hidden><img src=/open srcset='/hidden 2x'>", "<img src=/open>")]
    [InlineData("<a href=/open ping='/hidden'>o</a>", "<a href=/open>o</a>")]
    [InlineData("<a href=/open href=/hidden>o</a>", "<a href=/open href=/hidden>o</a>")]
    [InlineData("<a href=/hidden href=/open>secret</a>x", "x")]
    [InlineData("<meta http-equiv=refresh content='0; url=/hidden'><iframe src=/hidden>secret</iframe><form action=/hidden>secret</form>x", "x")]
    [InlineData("<svg><a xlink:href='/hidden'><text>secret</text></a></svg>x", "<svg></svg>x")]
    [InlineData("<a href='&sol;hidden'>secret</a><a href=&#x2f;hidden>secret</a>x", "x")]
    [InlineData("<a title=x=\"> href=/hidden>\">not a tag</a>", "<a title=x=\"> href=/hidden>\">not a tag</a>")]
    [InlineData("<![CDATA[ > <a href=/hidden>secret</a> ]]>", "<![CDATA[ >  ]]>")]
    [InlineData("</ <a href=/hidden>x", "</ <a href=/hidden>x")]
    [InlineData("<script><!-- <script> </script> <a href=/hidden> --></script>x", "<script><!-- <script> </script> <a href=/hidden> --></script>x")]
    [InlineData("<p><div data-wary-for=members>secret</p>secret</div>x", "<p>x")]
    [InlineData("<p data-wary-for=members>secret<div>x</div>", "<div>x</div>")]
    [InlineData("<p><b data-wary-for=members>secret</p><p>secret</b>x", "<p></p><p>x")]
    [InlineData("<noscript><a title='</noscript><a href=/hidden>secret</a>'></noscript>x", "<noscript><a title='</noscript>'></noscript>x")]
    [InlineData("x<a href=/hidden", "x")]
    [InlineData("<li><a href=/hidden>secret", "")]
    [InlineData("<map><area href=/hidden></map>", "<map></map>")]
    [InlineData("<select><option>a<option><a href=/hidden>secret</a></select>", "<select><option>a</select>")]
    public void What_may_not_be_listed_goes_with_its_entry(string page, string expected) => Filter(page).ShouldBe(expected);

    /// <summary>Each of these took the square of its size when the stack was searched; none of them is a page that a test would wait for then.</summary>
    [Theory]
    [InlineData("<div>", "</span>")]
    [InlineData("<div>", "<a href=/open>o</a>")]
    [InlineData("<div>", "<a href=/hidden>secret</a>")]
    [InlineData("<ul><li>", "<a href=/hidden>secret</a>")]
    [InlineData("<a><td>", "<a href=/open>o</a>")]
    [InlineData("<x-y>", "</x-z>")]
    [InlineData("<table><tr><td><p><b></p>", "<i>x")]
    [InlineData("<p><b><i>", "<p>x")]
    [InlineData("<dl><dt>a<dd>", "<dt><a href=/hidden>secret</a><dd>b")]
    [InlineData("<a href=/hidden>", "<br>|")]
    [InlineData("<svg><title>", "<p>x")]
    [InlineData("<url><loc>", "</x>")]
    [InlineData("<url>", "<loc>/hidden</loc>")]
    public void Depth_costs_no_more_than_size(string nested, string repeated)
    {
        var page = string.Concat(Enumerable.Repeat(nested, 40_000)) + string.Concat(Enumerable.Repeat(repeated, 40_000));
        Filter(page).ShouldNotContain("secret");
        Filter(page, xml: true, cuts: [250]).ShouldNotContain("secret</a></url>");
    }

    [Fact]
    public void A_sitemap_loses_its_hidden_entries() =>
        Filter("<urlset><url><loc>/open</loc></url><url><loc> /hidden </loc><lastmod>1</lastmod></url><url><loc><![CDATA[/hidden]]></loc></url></urlset>",
            xml: true)
            .ShouldBe("<urlset><url><loc>/open</loc></url></urlset>");

    [Fact]
    public void A_feed_loses_its_hidden_entries() =>
        Filter("<feed><entry><title>secret</title><link href=\"/hidden\"/></entry><entry><link href=\"/open\"/></entry></feed>", xml: true)
            .ShouldBe("<feed><entry><link href=\"/open\"/></entry></feed>");

    [Fact]
    public void A_page_wrapped_in_one_entry_is_not_swallowed_by_a_link_in_its_main_part() =>
        Filter("<table><tr><td><main><p>text</p><a href=/hidden>secret</a></main></table>").ShouldBe("<table><tr><td><main><p>text</p></main></table>");

    [Property(MaxTest = 2000, Arbitrary = [typeof(Pages)])]
    public void However_a_page_is_cut_the_outcome_is_the_same(string page, byte[] cuts)
    {
        var whole = Filter(page);
        Filter(page, cuts: cuts).ShouldBe(whole);
        Filter(page, cuts: [1]).ShouldBe(whole);
    }

    [Property(MaxTest = 2000, Arbitrary = [typeof(Pages)])]
    public void No_hidden_link_is_in_the_page_that_a_real_parser_reads(string page)
    {
        var document = new HtmlParser().ParseDocument(Filter(page));
        document.QuerySelectorAll("a[href='/hidden'], area[href='/hidden'], link[href='/hidden']").Length.ShouldBe(0);
    }

    [Property(MaxTest = 1000, Arbitrary = [typeof(Pages)])]
    public void A_page_with_nothing_to_hide_comes_out_as_it_went_in(string page)
    {
        var harmless = page.Replace("hidden", "open", StringComparison.Ordinal).Replace("marked", "open", StringComparison.Ordinal)
            .Replace("secret", "open", StringComparison.Ordinal);
        Filter(harmless).ShouldBe(harmless);
    }

    [Theory]
    [InlineData("<p data-wary-item=product:open data-wary-act=price>9</p>", "<p data-wary-item=product:open data-wary-act=price>9</p>")]
    [InlineData("<p data-wary-act='price' data-wary-item=product:shut>9</p>x", "x")]
    [InlineData("<p data-wary-act='not price' data-wary-item=product:shut>ask</p>", "<p data-wary-act='not price' data-wary-item=product:shut>ask</p>")]
    [InlineData("<p data-wary-act=price>9</p>x", "x")]
    public void An_element_may_be_for_an_act(string page, string left) => Filter(page).ShouldBe(left);

    [Theory]
    [InlineData("a<wary-form name=\"sign-in\">else <b>x</b></wary-form>b", "a<form>in</form>b")]
    [InlineData("a<WARY-FORM name=none></WARY-FORM>b", "ab")]
    [InlineData("<div data-wary-for=members><wary-form name=sign-in></wary-form></div>b", "b")]
    [InlineData("<wary-form name=sign-in data-wary-for=members></wary-form>b", "b")]
    [InlineData("<wary-form to='/a&amp;b' name=sign-in></wary-form>b", "<form to=/a&b>b")]
    [InlineData("<b to=/x>a</b>", "<b to=/x>a</b>")]
    public void A_form_stands_where_its_element_stood(string page, string left) => Filter(page).ShouldBe(left);

    [Theory]
    [InlineData(
        """{"@type":"ItemList","itemListElement":[{"url":"/hidden"},{"url":"/open"}]}""", """{"@type":"ItemList","itemListElement":[{"url":"/open"}]}""")]
    [InlineData("""{"@graph":[{"item":{"@id":"/hidden","name":"x"}},{"a":1}]}""", """{"@graph":[{"a":1}]}""")]
    [InlineData("""{"url":"/hidden"}""", "{}")]
    [InlineData("""{"url": "/open"}""", """{"url": "/open"}""")]
    [InlineData("""{"url":"/hidden" oops""", "{}")]
    [InlineData("""{"url":"/open" oops""", """{"url":"/open" oops""")]
    public void What_a_page_tells_search_engines_names_nothing_hidden(string data, string left)
    {
        var page = $"<p>a</p><script type=\"application/ld+json\">{data}</script><p>b</p>";
        Filter(page).ShouldBe($"<p>a</p><script type=\"application/ld+json\">{left}</script><p>b</p>");
        Filter(page, cuts: [7]).ShouldBe(Filter(page));
    }

    [Fact]
    public void Other_scripts_stay_as_they_are() => Filter("<script>go('/hidden')</script>").ShouldBe("<script>go('/hidden')</script>");

    [Theory]
    [InlineData("<p>As we saw in <a href=/hidden>chapter <i>two</i></a>.</p>", "<p>As we saw in chapter <i>two</i>[closed].</p>", "<p>As we saw in ….</p>")]
    [InlineData("<p>As we saw in <a href=/hidden>chapter two", "<p>As we saw in chapter two[closed]", "<p>As we saw in …")]
    [InlineData("<p>a | <a href=/hidden>secret</a></p>", "<p>a</p>", "<p>a</p>")]
    public void The_owner_says_what_becomes_of_words_in_running_text(string page, string marked, string leftOut)
    {
        Filter(page, decider: new Decider { MarksHiddenWords = true }).ShouldBe(marked);
        Filter(page, decider: new Decider { KeepsHiddenWords = false }).ShouldBe(leftOut);
    }

    [Fact]
    public void What_is_too_large_to_be_judged_is_left_out_and_told()
    {
        var decider = new Decider();
        Filter("x<a href=/open title='" + new string('y', 9 << 20) + "'>z", decider: decider, cuts: [255]).ShouldBe("x");
        Filter("<ul><li><a href=/hidden>s</a>" + new string(' ', 2 << 20) + "secret</li><li>x</li></ul>", decider: decider).ShouldBe("<ul><li>x</li></ul>");
        decider.Large.ShouldBe(2);
        Filter("<ul><li><a href=/open>s</a>" + new string(' ', 2 << 20) + "<a href=/hidden>secret</a></li></ul>").ShouldNotContain("secret");
    }

    private static string Filter(string page, bool xml = false, byte[]? cuts = null, Decider? decider = null)
    {
        var filter = xml ? MarkupFilter.OfXml(decider ?? new Decider()) : MarkupFilter.OfHtml(decider ?? new Decider());
        var output = new ArrayBufferWriter<byte>();
        var bytes = Encoding.UTF8.GetBytes(page);
        var at = 0;
        for (var n = 0; cuts is { Length: > 0 } && at < bytes.Length; n++)
        {
            var size = Math.Min(Math.Max(1, (int)cuts[n % cuts.Length]), bytes.Length - at);
            filter.Write(bytes.AsSpan(at, size), false, output);
            at += size;
        }

        filter.Write(bytes.AsSpan(at), true, output);
        return Encoding.UTF8.GetString(output.WrittenSpan);
    }

    [Theory]
    [InlineData("<p>a <b data-wary-price=product:mine>€ 9</b> z", "<p>a <b data-wary-price=product:mine>&#x20AC; 7</b> z")]
    [InlineData("<p data-wary-price='product:mine'>€ <i>9</i><br>net<p>z", "<p data-wary-price='product:mine'>&#x20AC; 7</p><p>z")]
    [InlineData("<b data-wary-price=product:none>9</b>z", "<b data-wary-price=product:none></b>z")]
    [InlineData("<b data-wary-price=product:other>9</b>z", "<b data-wary-price=product:other>9</b>z")]
    [InlineData("<b data-wary-price=product:mine data-wary-quantity=10>9</b>", "<b data-wary-price=product:mine data-wary-quantity=10>&#x20AC; 7 x10</b>")]
    [InlineData("<data value='9.00' data-wary-price=product:mine>9</data>", "<data value=\"7.00\" data-wary-price=product:mine>&#x20AC; 7</data>")]
    [InlineData("<meta itemprop=price content=9.00 data-wary-price=product:mine>", "<meta itemprop=price content=\"7.00\" data-wary-price=product:mine>")]
    [InlineData("<input value = 9 data-wary-price=product:none>", "<input value =\"\" data-wary-price=product:none>")]
    [InlineData("<ul><li><a href=/hidden>x</a> <b data-wary-price=product:mine>9</b></ul>", "")]
    [InlineData("<b data-wary-price=product:mine>9<script>let a = '</b>'</script></b>z", "<b data-wary-price=product:mine>&#x20AC; 7</b>z")]
    [InlineData("<b data-wary-price=product:mine>9 <a href=/open>x", "<b data-wary-price=product:mine>&#x20AC; 7</b>")]
    public void A_price_stands_in_place_of_what_the_page_has_in_its_element(string page, string clean) => Filter(page).ShouldBe(clean);

    internal sealed class Decider : IMarkupDecider
    {
        public PriceSaid? PriceOf(string item, string? quantity, string? currency) => item switch
        {
            "product:mine" => new PriceSaid("€ 7" + (quantity is null ? "" : " x" + quantity), "7.00"),
            "product:other" => null,
            _ => PriceSaid.Nothing,
        };

        public bool May(string item, string act) => act == (item == "product:open" ? "price" : "not price");

        public ReadOnlySpan<byte> Form(string name, string? to) => to is not null ? System.Text.Encoding.UTF8.GetBytes($"<form to={to}>")
            : name == "sign-in" ? "<form>in</form>"u8 : default;

        public ReadOnlySpan<byte> Mark => "[closed]"u8;

        public ReadOnlySpan<byte> AfterBody => default;

        public bool KeepsHiddenWords { get; init; } = true;

        public bool MarksHiddenWords { get; init; }

        public ReadOnlySpan<byte> HiddenMark => MarksHiddenWords ? "[closed]"u8 : default;

        public int Large { get; private set; }

        public void TooLarge() => Large++;

        public Fate OfLink(string href) => href switch { "/hidden" => Fate.Drop, "/marked" => Fate.Mark, _ => Fate.Keep };

        public bool MayList(string item) => item != "product:secret";

        public bool Admits(string audience) => audience != "members";

        public void SetBase(string href)
        {
        }
    }

    public static class Pages
    {
        private static readonly string[] Pieces =
        [
            "<ul>", "</ul>", "<li>", "</li>", "<a href=/hidden>", "<a href='/open'>", "<a href=\"/marked\">", "</a>", "text ", "<p>", "</p>",
            "<div data-wary-item=product:secret>", "</div>", "<div>", "<table>", "<tr>",
            "<td>", "</table>", "<!-- x -->", "<br>", "<b", " <", "<script>a<b</script>", "<dl>", "<dt>", "<dd>", "</dl>", "<nav>", "</nav>", "é",
            "<span title='a>b'>", "</span>", "<img src=x/>",
        ];

        public static Arbitrary<string> Any() => Gen.Elements(Pieces).ListOf().Select(string.Concat).ToArbitrary();
    }
}
