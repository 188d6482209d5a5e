using System.Globalization;
using System.Text;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Hosted;
using Xunit;

namespace WarySentinel.Core.Tests.Hosted;

/// <summary>The text of a page taken apart: nothing for others is ever in what somebody gets, whatever stands around it.</summary>
public sealed class PageTextTests
{
    private static readonly Policy Shop = Scene.Policy(Scene.Shop());
    private static readonly KnownKeys Known = new(Shop, _ => false);

    private static readonly string[] Audiences =
        ["role:dealer", "role:guide", "group:schools", "guest", "signed-in", "not role:dealer", "role:dealer or role:guide", "signed-in and not group:schools"];

    private static readonly string[] Tongues = ["en", "de", "de-AT", "fr", "it", "den"];

    private static readonly string[] Noise =
    [
        "", "plain words", "```", "~~~~", "```js", "> quoted", "- a list", "1. a list", "    indented code", "<div>", "<!--", "-->", "| a | b |", "[x]: /shop",
        "***", "# Heading", "text ::: for role:dealer", "\\::: for role:dealer", "`::: for role:dealer`", "{% raw %}", "<script>", "::", "：：：",
    ];

    [Fact]
    public void Whatever_stands_around_it_a_line_is_only_in_what_they_get_whom_it_is_for()
    {
        var random = new Random(41);
        for (var trial = 0; trial < 4_000; trial++)
        {
            var (lines, truth) = (new List<string>(), new List<(string Mark, List<(string Audience, bool In)> If)>());
            Write(random, lines, truth, [], 0);
            var read = Read(string.Join(random.Next(3) switch { 0 => "\r\n", 1 => "\r", _ => "\n" }, lines));
            read.Problem.ShouldBeNull(string.Join('\n', lines));
            foreach (var visitor in Visitors)
            {
                var language = Tongues[random.Next(Tongues.Length)];
                var given = string.Concat(For(read.Value, visitor, language).OfType<MarkdownPiece>().Select(p => p.Text));
                foreach (var (mark, conditions) in truth)
                {
                    given.Contains(mark, StringComparison.Ordinal).ShouldBe(
                        conditions.TrueForAll(c => IsSo(c.Audience, visitor, language) == c.In), mark);
                }
            }
        }
    }

    [Fact]
    public void A_text_with_marks_anywhere_is_refused_or_means_what_a_plain_reading_of_its_lines_means()
    {
        var random = new Random(42);
        string[] marks = ["::: for role:dealer", "::: for role:guide", "::: otherwise", ":::", "  :::", ":::::", ":::for role:guide", "::: pages",
            "::: For role:guide"];
        var (good, bad) = (0, 0);
        for (var trial = 0; trial < 30_000; trial++)
        {
            var lines = Enumerable.Range(0, random.Next(1, 12)).Select(n => random.Next(2) == 0 ? marks[random.Next(marks.Length)] : $"mark{n}!").ToList();
            var read = Read(string.Join('\n', lines));
            if (Plainly(lines) is not { } expected)
            {
                read.Problem.ShouldNotBeNull(string.Join('\n', lines));
                bad++;
                continue;
            }

            read.Problem.ShouldBeNull(string.Join('\n', lines));
            good++;
            foreach (var (dealer, guide) in new[] { (false, false), (false, true), (true, false), (true, true) })
            {
                var answers = PageText.Answers(read.Value.Asks, a => a.ToString() == "role:dealer" ? dealer : guide);
                read.Value.For(answers, "en").OfType<MarkdownPiece>().SelectMany(p => p.Text.Split('\n', StringSplitOptions.RemoveEmptyEntries))
                    .ShouldBe(expected.Where(e => e.If.All(c => (c.Dealer ? dealer : guide) == c.In)).Select(e => e.Line), string.Join('\n', lines));
            }
        }

        (good > 500, bad > 500).ShouldBe((true, true));
    }

    [Theory]
    [InlineData("- ::: for role:dealer", 1, 3, "page-block-inside")]
    [InlineData("> ::: for role:dealer", 1, 3, "page-block-inside")]
    [InlineData("1. ::: for role:dealer", 1, 4, "page-block-inside")]
    [InlineData("    ::: for role:dealer", 1, 5, "page-block-inside")]
    [InlineData("\t::: for role:dealer", 1, 2, "page-block-inside")]
    [InlineData("\u00a0::: for role:dealer", 1, 2, "page-block-inside")]
    [InlineData("\u200b::: for role:dealer", 1, 2, "page-block-inside")]
    [InlineData("words\n::: for role:dealr\nx\n:::", 2, 14, "page-block-audience")]
    [InlineData("::: for\nx\n:::", 1, 5, "page-block-audience")]
    [InlineData("::: for password\nx\n:::", 1, 9, "page-block-password")]
    [InlineData("::: for role:dealer\nx", 1, 1, "page-block-open")]
    [InlineData("x\n:::", 2, 1, "page-block-close")]
    [InlineData("::: otherwise", 1, 1, "page-block-otherwise")]
    [InlineData("::: for guest\n::: otherwise\n::: otherwise\n:::", 3, 1, "page-block-otherwise")]
    [InlineData("::: note", 1, 5, "page-block-unknown")]
    [InlineData("::: form sign-up", 1, 10, "page-block-form")]
    [InlineData("::: downloads product:none", 1, 15, "page-block-item")]
    [InlineData("::: player category", 1, 12, "page-block-item")]
    [InlineData("::: facts name shoe-size", 1, 11, "page-block-fact")]
    [InlineData("::: pages all", 1, 11, "page-block-alone")]
    [InlineData("::: in\nx\n:::", 1, 5, "page-block-language")]
    [InlineData("::: in de  klingon!\nx\n:::", 1, 12, "page-block-language")]
    [InlineData("::: in de/fr\nx\n:::", 1, 8, "page-block-language")]
    [InlineData("a\uE000b", 1, 2, "page-text-odd")]
    public void What_is_wrong_is_said_with_its_line_and_column(string text, int line, int column, string code)
    {
        var fault = Read(text).Problem!.Faults[0];
        (fault.Line, fault.Column, fault.Message.Key).ShouldBe((line, column, "problem." + code));
    }

    [Fact]
    public void A_page_has_bounds()
    {
        Read(string.Concat(Enumerable.Repeat("::: for guest\n", 9)) + string.Concat(Enumerable.Repeat(":::\n", 9))).Problem!.Faults[0].Message.Key
            .ShouldBe("problem.page-block-deep");
        var many = new StringBuilder();
        for (var i = 0; i < 61; i++)
        {
            many.Append(CultureInfo.InvariantCulture, $"::: for network:10.{i}.0.0/16\nx\n:::\n");
        }

        Read(many.ToString()).Problem!.Faults.ShouldContain(f => f.Message.Key == "problem.page-block-many");
        Read(new string('x', PageTextReader.MostLength + 1)).Problem!.Faults[0].Message.Key.ShouldBe("problem.page-text-long");
    }

    [Theory]
    [InlineData("Éclair", "eclair")]
    [InlineData("ＦＵＬＬ width", "full")]
    [InlineData("Zürich", "zuri")]
    [InlineData("天文台の夜", "天文")]
    [InlineData("天文台の夜", "文台の")]
    [InlineData("Обсерватория", "обсерв")]
    [InlineData("المرصد", "المرصد")]
    [InlineData("M31, the galaxy", "m31")]
    public void A_word_is_found_by_its_beginning_however_it_is_spelt(string text, string asked)
    {
        var words = SearchWords.Of(text);
        SearchWords.OfSearch(asked).ShouldNotBeEmpty();
        SearchWords.OfSearch(asked).ShouldAllBe(term => words.Any(w => w.StartsWith(term, StringComparison.Ordinal)));
        words.ShouldAllBe(w => w.All(char.IsAsciiLetterOrDigit));
    }

    [Fact]
    public void A_search_holds_nothing_that_a_database_could_take_for_more_than_a_word()
    {
        var random = new Random(43);
        for (var trial = 0; trial < Trials.Of(4_000, 200_000); trial++)
        {
            var asked = string.Concat(Enumerable.Range(0, random.Next(30)).Select(_ => (char)random.Next(random.Next(2) == 0 ? 0x80 : 0xFFFF)));
            var terms = SearchWords.OfSearch(asked);
            terms.Count.ShouldBeLessThanOrEqualTo(SearchWords.MostTerms);
            terms.ShouldAllBe(t => t.Length > 0 && t.All(char.IsAsciiLetterOrDigit));
        }
    }

    private static readonly Visitor[] Visitors =
    [
        Visitor.Guest, Visitor.With(), Scene.Role("dealer"), Scene.Role("guide"), Visitor.With(new Grant(FactKind.Group, "schools")),
        Visitor.With(new Grant(FactKind.Group, "schools"), new Grant(FactKind.Role, "dealer")),
    ];

    private static Outcome<PageText> Read(string text) => PageTextReader.Read(text, Known, id => Shop.Graph.PlaceOf(id) >= 0);

    private static IEnumerable<PagePiece> For(PageText text, Visitor visitor, string language) =>
        text.For(PageText.Answers(text.Asks, a => a.Admits(visitor, "", Scene.Now)), language);

    private static bool IsSo(string asked, Visitor visitor, string language) => asked.StartsWith("in ", StringComparison.Ordinal)
        ? asked.Split(' ').Contains(language.Split('-')[0]) : AudienceParser.Parse(asked).Value.Admits(visitor, "", Scene.Now);

    /// <summary>Writes lines that are as wild as Markdown may be, with marks that are well nested, and notes for whom each is.</summary>
    private static void Write(
        Random random, List<string> lines, List<(string Mark, List<(string Audience, bool In)> If)> truth, List<(string Audience, bool In)> on, int depth)
    {
        for (var n = random.Next(1, 5); n > 0; n--)
        {
            if (depth < 4 && random.Next(3) == 0)
            {
                var audience = random.Next(4) == 0 ? "in " + (random.Next(2) == 0 ? "de" : "fr it") : Audiences[random.Next(Audiences.Length)];
                lines.Add($"{new string(' ', random.Next(4))}{new string(':', random.Next(3, 6))}{(random.Next(2) == 0 ? " " : "")}"
                    + $"{(audience.StartsWith("in ", StringComparison.Ordinal) ? "" : "for  ")}{audience} ");
                Write(random, lines, truth, [.. on, (audience, true)], depth + 1);
                if (random.Next(2) == 0)
                {
                    lines.Add("::: otherwise");
                    Write(random, lines, truth, [.. on, (audience, false)], depth + 1);
                }

                lines.Add(":::");
            }
            else
            {
                var mark = $"mark{truth.Count}!";
                lines.Add(Noise[random.Next(Noise.Length)]);
                lines.Add(random.Next(3) == 0 ? "    " + mark : mark);
                truth.Add((mark, on));
            }
        }
    }

    /// <summary>A second reading of the rule: the lines with what has to hold for each; null where the marks do not fit.</summary>
    private static List<(string Line, List<(bool Dealer, bool In)> If)>? Plainly(List<string> lines)
    {
        var (found, on, turned) = (new List<(string, List<(bool, bool)>)>(), new List<(bool Dealer, bool In)>(), new List<bool>());
        foreach (var line in lines)
        {
            switch (line.Trim())
            {
                case "::: for role:dealer" or "::: for role:guide" or ":::for role:guide":
                    on.Add((line.EndsWith("dealer", StringComparison.Ordinal), true));
                    turned.Add(false);
                    break;
                case "::: otherwise" when turned.Count > 0 && !turned[^1]:
                    on[^1] = on[^1] with { In = false };
                    turned[^1] = true;
                    break;
                case ":::" or ":::::" when on.Count > 0:
                    on.RemoveAt(on.Count - 1);
                    turned.RemoveAt(turned.Count - 1);
                    break;
                case "::: pages":
                    break;
                case ['m', ..]:
                    found.Add((line, [.. on]));
                    break;
                default:
                    return null;
            }
        }

        return on.Count == 0 ? found : null;
    }
}
