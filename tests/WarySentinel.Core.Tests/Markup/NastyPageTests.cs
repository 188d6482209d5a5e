using System.Buffers;
using System.Text;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using Shouldly;
using WarySentinel.Core.Markup;
using Xunit;

namespace WarySentinel.Core.Tests.Markup;

/// <summary>Markup that no generator writes, drawn at random: the filter sees what a real parser sees of it.</summary>
public sealed class NastyPageTests
{
    private static readonly int Many = Trials.Of(6_000, 200_000, "WARY_MARKUP_TRIALS");

    private static readonly string[] Pieces =
    [
        "<p>", "</p>", "<div>", "</div>", "<b>", "</b>", "<i>", "</i>", "<span>", "</span>", "<ul>", "</ul>", "<li>", "</li>", "<h2>", "</h2>", "<h3>", "</h3>",
        "<dl>", "</dl>", "<dt>", "<dd>", "</dd>", "<section>", "</section>", "<a href=/open>", "</a>", "<br>", "<hr>", "<img src=x>", "<button>", "</button>",
        "<svg>", "</svg>", "<g>", "<g/>", "<title>", "</title>", "<blockquote>", "</blockquote>", "<em>", "</em>", "<object>", "</object>", "<x-y>", "</x-y>",
        "<!-- > -->", "<!-->", "<!x>", "</>", "</ x>", "<?x>", "<![CDATA[x]]>", "<b<", "<b/x>", "<p title=\">\">", "<p title=a\">", "<script>a<b</script>",
        "<style>x</style>", "<textarea></p></textarea>", "<template>", "</template>", "<main>", "</main>", "<form>", "</form>", "<pre>", "</pre>",
    ];

    private static readonly string[] Marked =
    [
        "<p data-wary-for=members>", "<div data-wary-for=members>", "<b data-wary-for=members>", "<span data-wary-for=members>", "<li data-wary-for=members>",
        "<section data-wary-item='product:secret'>", "<g data-wary-for=members>", "<g data-wary-for=members />", "<dd data-wary-for=members>",
        "<a data-wary-for=members href=/open>", "<h2 data-wary-for=members>", "<i data-wary-for=\"members\">", "<button data-wary-for=members>",
    ];

    [Fact]
    public void No_word_stays_that_a_parser_puts_inside_what_is_for_others()
    {
        var wrong = new List<string>();
        for (var seed = 0; seed < Many && wrong.Count < 5; seed++)
        {
            var page = Page(new Random(seed), Marked);
            var parsed = new HtmlParser().ParseDocument(page);
            var filtered = Filter(page);
            var shown = TextsOf(new HtmlParser().ParseDocument(filtered).DocumentElement).ToHashSet();
            var hidden = TextsOf(parsed.DocumentElement, inside: true).ToList();
            if (hidden.Where(shown.Contains).ToList() is [var leak, ..])
            {
                wrong.Add($"seed {seed}: {leak} stayed\n  {page}\n  {filtered}");
            }
        }

        wrong.ShouldBeEmpty(string.Join('\n', wrong));
    }

    [Fact]
    public void No_hidden_address_stays_anywhere_a_parser_finds_it()
    {
        string[] links =
        [
            "<a href=/hidden>", "<A HREF='/hidden'>", "<a title='>' href=/hidden>", "<a href=&#47hidden>", "<area href=/hidden>", "<img src=/hidden>",
            "<svg><a xlink:href=/hidden>", "<svg><a href=/hidden />", "<a/href=/hidden>", "<a href = /hidden x>", "<a href=\"/hidden\"class=x>",
            "<form action=/hidden>", "<iframe src=/hidden></iframe>", "<link href=/hidden>",
        ];
        var wrong = new List<string>();
        for (var seed = 0; seed < Many && wrong.Count < 5; seed++)
        {
            var page = Page(new Random(seed), links);
            var filtered = Filter(page);
            var left = new HtmlParser().ParseDocument(filtered).QuerySelectorAll("a, area, img, form, iframe, link")
                .FirstOrDefault(e => new[] { "href", "src", "action", "xlink:href" }.Any(a => e.GetAttribute(a) == "/hidden"));
            if (left is not null)
            {
                wrong.Add($"seed {seed}: {left.OuterHtml} stayed\n  {page}\n  {filtered}");
            }
        }

        wrong.ShouldBeEmpty(string.Join('\n', wrong));
    }

    /// <summary>A page of pieces, with a word of its own behind each.</summary>
    private static string Page(Random random, string[] special)
    {
        var page = new StringBuilder(random.Next(2) == 0 ? "<!doctype html>" : "");
        var most = random.Next(3, 14);
        for (var n = 0; n < most; n++)
        {
            page.Append(random.Next(3) == 0 ? special[random.Next(special.Length)] : Pieces[random.Next(Pieces.Length)])
                .Append(System.Globalization.CultureInfo.InvariantCulture, $"w{n}w ");
        }

        return page.ToString();
    }

    /// <summary>The words that a reader sees; only those inside of what is for others, where that is asked for.</summary>
    private static IEnumerable<string> TextsOf(IElement root, bool inside = false) => root.Descendants<IText>()
        .Where(t => !inside || t.Ancestors<IElement>().Any(IsForOthers))
        .SelectMany(t => t.Data.Split([' ', '<', '>', ']', '/'], StringSplitOptions.RemoveEmptyEntries))
        .Where(w => w.Length > 2 && w[0] == 'w' && w[^1] == 'w');

    private static bool IsForOthers(IElement element) =>
        element.GetAttribute("data-wary-for") == "members" || element.GetAttribute("data-wary-item") == "product:secret";

    private static string Filter(string page)
    {
        var output = new ArrayBufferWriter<byte>();
        MarkupFilter.OfHtml(new MarkupFilterTests.Decider()).Write(Encoding.UTF8.GetBytes(page), true, output);
        return Encoding.UTF8.GetString(output.WrittenSpan);
    }
}
