using System.Buffers;
using System.Text;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Markup;
using Xunit;

namespace WarySentinel.Core.Tests.Markup;

/// <summary>Cards that the owner taught, on drawn pages: those about something hidden go whole, the others stay as they are.</summary>
public sealed class CardTests
{
    private static readonly TaughtEntry Card = new(Of(".card"), null, Of(".price"));

    private static CssSelector Of(string text) => CssSelector.TryParse(text, out _, out _)!;

    [Theory]
    [InlineData("<div class=card><h3>Secret</h3><i class=price>9</i><a href=/hidden-1>look</a></div>x", "x")]
    [InlineData("<div class=card><a href=/open-1>o</a> by <a href=/hidden-1>us</a> of the hill.</div>",
        "<div class=card><a href=/open-1>o</a> by us of the hill.</div>")]
    [InlineData("<div class=card><a href=/hidden-1>s</a> by <a href=/open-1>us</a></div>x", "x")]
    [InlineData("<a class=card href=/hidden-1><h3>Secret</h3></a><a class=card href=/open-1>o</a>", "<a class=card href=/open-1>o</a>")]
    [InlineData("<div class=card><b class=price>9</b><a href=/dear-1>d</a><b class=price>8</b></div>", "<div class=card><a href=/dear-1>d</a></div>")]
    [InlineData("<div class=card><meta class=price content=9><a href=/dear-1>d</a><meta class=price content=8></div>",
        "<div class=card><a href=/dear-1>d</a></div>")]
    [InlineData("<ul><li><div class=card>Secret <a href=/hidden-1>s</a></div></li></ul>x", "x")]
    [InlineData("<ul><li class=card>Secret of many words <a href=/hidden-1>s</a><a href=/open-1>o</a></li><li>x</ul>", "<ul><li>x</ul>")]
    [InlineData("<ul class=card><li>Secret<li><a href=/hidden-1>s</a><li>more</ul>x", "x")]
    [InlineData("<table class=card><tr><td>Secret<tr><td><a href=/hidden-1>s</a></table>x", "x")]
    [InlineData("<ul class=card><li><a href=/open-1>o</a><li><a href=/hidden-1>s</a></ul>x", "<ul class=card><li><a href=/open-1>o</a></ul>x")]
    [InlineData("<div class=card>no link at all</div>", "<div class=card>no link at all</div>")]
    [InlineData("<div class=card><a href=#top>^</a><a href=/hidden-1>s</a></div>x", "x")]
    [InlineData("<table><tr><td><div class=card><a href=/hidden-1>s</a></div><td><div class=card><a href=/open-1>o</a></div></table>",
        "<table><tr><td><td><div class=card><a href=/open-1>o</a></div></table>")]
    [InlineData("<div class=card><p>Secret<p><a href=/hidden-1>s</a>", "")]
    [InlineData("<div class='card'><svg><title>Secret</title></svg><a href=/hidden-1>s</a></div>x", "x")]
    public void Examples(string page, string left) => Filtered(page, [Card]).ShouldBe(left);

    [Fact]
    public void The_link_that_the_owner_names_says_what_a_card_is_about()
    {
        var rule = new TaughtEntry(Of("article"), Of("[data-to]"), null);
        Filtered("<article><a href=/open-1>shelf</a><i data-to=/hidden-1>Secret</i></article>x", [rule]).ShouldBe("x");
        Filtered("<article data-to='/hidden-1'>Secret</article><article data-to='/open-1'>o</article>", [rule])
            .ShouldBe("<article data-to='/open-1'>o</article>");
    }

    [Property(MaxTest = 1500)]
    public void On_any_page_the_cards_that_stay_are_those_about_something_open_and_are_whole(int seed)
    {
        var random = new System.Random(seed);
        var page = new StringBuilder("<!doctype html><body><div class=grid>");
        for (var n = random.Next(1, 12); n > 0; n--)
        {
            page.Append(NewCard(random, n)).Append(random.Next(3) == 0 ? "\n<hr>\n" : "\n");
        }

        var text = page.Append("</div><p>End.</p>").ToString();
        var pieces = random.Next(3) switch { 0 => 1, 1 => 7, _ => text.Length };
        var left = Filtered(text, [Card], pieces);
        left.ShouldBe(Filtered(text, [Card]));
        var document = new HtmlParser().ParseDocument(text);
        foreach (var card in document.QuerySelectorAll(".card").ToList())
        {
            var about = card.QuerySelector("a[href]")!.GetAttribute("href")!;
            if (about.StartsWith("/hidden", StringComparison.Ordinal))
            {
                card.Remove();
                continue;
            }

            if (about.StartsWith("/dear", StringComparison.Ordinal))
            {
                card.QuerySelectorAll(".price").ToList().ForEach(p => p.Remove());
            }

            foreach (var link in card.QuerySelectorAll("a[href^='/hidden']").ToList())
            {
                link.Replace([.. link.ChildNodes]);
            }
        }

        Plain(new HtmlParser().ParseDocument(left)).ShouldBe(Plain(document));
    }

    private static string Plain(IDocument page) => string.Join(' ', page.All
        .Where(e => e.ClassList.Contains("card") || e.ClassList.Contains("price") || e.LocalName == "a")
        .Select(e => $"{e.LocalName}.{e.ClassName} {e.GetAttribute("href")}")) + "\n"
            + string.Join(' ', page.Body!.TextContent.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));

    private static string NewCard(System.Random random, int number)
    {
        var kind = new[] { "open", "hidden", "dear" }[random.Next(3)];
        var price = random.Next(2) == 0 ? $"<span class=price>€ {number}</span>" : $"<div class='price big'><b>€</b> {number}<br></div>";
        List<string> parts = [$"<h3>Piece{number}</h3>", price, $"<p>About it{number}.</p>", random.Next(2) == 0 ? "<img src=/x.png>" : price];
        parts.Insert(random.Next(parts.Count + 1), $"<a href=/{kind}-{number}>Look{number}</a>");
        // A second link stands behind the first, in running text.
        parts.Add(random.Next(2) == 0 ? $"<p>Made by <a href=/{(random.Next(2) == 0 ? "open" : "hidden")}-m>makers{number}</a> of the hill.</p>" : "");
        return $"<div class=\"{(random.Next(2) == 0 ? "card" : "tile card")}\">{string.Concat(parts)}</div>";
    }

    internal static string Filtered(string page, IReadOnlyList<TaughtEntry> cards, int pieces = 1, IReadOnlyList<JsonEntries>? data = null)
    {
        var output = new ArrayBufferWriter<byte>();
        var filter = MarkupFilter.OfHtml(new CardDecider(), null, new Taught(cards, data ?? []));
        var bytes = Encoding.UTF8.GetBytes(page);
        var size = Math.Max(1, (bytes.Length + pieces - 1) / pieces);
        for (var at = 0; at < bytes.Length; at += size)
        {
            filter.Write(bytes.AsSpan(at, Math.Min(size, bytes.Length - at)), false, output);
        }

        filter.Write([], true, output);
        return Encoding.UTF8.GetString(output.WrittenSpan);
    }

    /// <summary>Whatever begins with /hidden is, and the price of what begins with /dear.</summary>
    internal sealed class CardDecider(Func<string, bool>? hides = null) : IMarkupDecider
    {
        public int Unread { get; private set; }

        public ReadOnlySpan<byte> Mark => default;

        public ReadOnlySpan<byte> AfterBody => default;

        public bool KeepsHiddenWords => true;

        public ReadOnlySpan<byte> HiddenMark => default;

        public Fate OfLink(string href) => (hides?.Invoke(href) ?? href.StartsWith("/hidden", StringComparison.Ordinal)) ? Fate.Drop : Fate.Keep;

        public Fate OfNamed(string about) => about.StartsWith("product:h", StringComparison.Ordinal) ? Fate.Drop : OfLink(about);

        public bool ShowsPrice(string about) => !about.StartsWith("/dear", StringComparison.Ordinal)
            && !about.StartsWith("product:d", StringComparison.Ordinal);

        public bool MayList(string item) => true;

        public bool May(string item, string act) => true;

        public ReadOnlySpan<byte> Form(string name, string? to) => default;

        public bool Admits(string audience) => true;

        public void SetBase(string href)
        {
        }

        public void TooLarge()
        {
        }

        public void Unreadable() => Unread++;
    }
}
