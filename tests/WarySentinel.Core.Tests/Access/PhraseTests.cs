using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Sweep;
using Xunit;

namespace WarySentinel.Core.Tests.Access;

/// <summary>Words of guarded pages found again: however they are written, and nothing where they are not.</summary>
public sealed class PhraseTests
{
    private static string Prose(int seed, int words)
    {
        var random = new Random(seed);
        return string.Join(' ', Enumerable.Range(0, words).Select(
            _ => new string([.. Enumerable.Range(0, random.Next(2, 9)).Select(_ => (char)('a' + random.Next(26)))])));
    }

    private static Phrases Knowing(params (string Address, string Text)[] pages)
    {
        var phrases = new Phrases();
        foreach (var (address, text) in pages)
        {
            phrases.Learn(address, Phrases.MarksOf(text));
        }

        return phrases;
    }

    private static IReadOnlyList<Copied> Found(Phrases phrases, string text) => [.. phrases.Of(phrases.In(text), 7, 0.5)];

    [Property(MaxTest = 60)]
    public void A_run_of_words_is_found_wherever_it_stands_and_however_it_is_written(ushort any, byte from, byte sort)
    {
        var seed = any * 10;
        var prose = Prose(seed, 220);
        var phrases = Knowing(("/a", "<html><nav>menu</nav><main><h1>Title</h1><p>" + prose.Replace(" ", "</p> <p>", StringComparison.Ordinal) + "</main>"),
            ("/b", Prose(seed + 1, 200)));
        var run = string.Join(' ', prose.Split(' ').Skip(from % 150).Take(60));
        var copy = (sort % 6) switch
        {
            0 => "<p>" + run + "</p>",
            1 => "{\"text\":\"" + run.Replace(" ", "\\n", StringComparison.Ordinal) + "\"}",
            2 => "<div data-text=\"" + run + "\"></div>",
            3 => "<script>var x = '" + run.Replace(" ", "<br>", StringComparison.Ordinal) + "';</script>",
            4 => run.ToUpperInvariant().Replace(" ", ",\r\n", StringComparison.Ordinal),
            _ => "<![CDATA[<p>" + run.Replace(" ", " <b>", StringComparison.Ordinal) + "]]>",
        };
        Found(phrases, Prose(seed + 2, 300) + " " + copy + " " + Prose(seed + 3, 300)).Select(c => c.Of).ShouldBe(["/a"]);
        Found(phrases, Prose(seed + 4, 900)).ShouldBeEmpty();
    }

    [Fact]
    public void A_sentence_quoted_is_no_copy_and_what_all_open_pages_say_neither()
    {
        var page = Prose(1, 400);
        var phrases = Knowing(("/a", page));
        Found(phrases, Prose(2, 100) + " " + string.Join(' ', page.Split(' ').Skip(50).Take(12)) + " " + Prose(3, 100)).ShouldBeEmpty();
        Found(phrases, page).ShouldHaveSingleItem().ShouldSatisfyAllConditions(c => c.Share.ShouldBe(1, 0.01), c => page.ShouldContain(c.Sample));
        foreach (var n in Enumerable.Range(10, 3))
        {
            phrases.Open(phrases.KnownIn(Prose(n, 50) + " " + page));
        }

        Found(phrases, page).ShouldBeEmpty();
    }

    [Fact]
    public void A_short_page_is_found_whole_and_one_without_words_nowhere()
    {
        var few = "Meet at the old quarry gate at nine, bring a red torch and a coat.";
        Found(Knowing(("/few", few), ("/none", "<img src=x>")), "note: " + few).Select(c => c.Of).ShouldBe(["/few"]);
        Found(Knowing(("/none", "")), "anything at all").ShouldBeEmpty();
        var signs = "夜空を見上げるための集まりは、毎月の第一土曜日に丘の上で開かれます。寒くないようにして来てください。";
        Found(Knowing(("/ja", signs)), "{\"t\":\"" + signs + "\"}").Select(c => c.Of).ShouldBe(["/ja"]);
    }

    [Theory]
    [InlineData("[{\"t\":\"The Quiet Mirror\"}]", "page:mirror")]
    [InlineData("titles:['the quiet  mirror','x']", "page:mirror")]
    [InlineData("<title>Night school &amp; more: THE-QUIET-MIRROR</title>", "page:mirror")]
    [InlineData("The mirror is quiet", "")]
    [InlineData("Shop", "")]
    [InlineData("Open Nights", "")]
    public void Titles_of_what_is_hidden_are_met_in_data(string text, string item)
    {
        var titles = new HiddenTitles([("page:mirror", "The Quiet Mirror"), ("page:shop", "Shop"), ("page:nights", "Open nights")], ["Open Nights", "Visit"]);
        string.Join(',', titles.Of(titles.In(text)).Select(t => t.Item)).ShouldBe(item);
        titles.Open(titles.In("On the mirror course we grind the quiet mirror."));
        titles.Of(titles.In(text)).ShouldBeEmpty();
    }

    [Fact]
    public void Copies_are_looked_for_where_they_are_left_lying()
    {
        var all = SweepLinks.Copies("/docs/guide/intro.html?x=1").ToList();
        foreach (var usual in (string[])["/docs/guide/intro.html.bak", "/docs/guide/intro.html~", "/_sources/docs/guide/intro.rst.txt",
            "/docs/guide/intro.json",
            "/docs/guide/intro.html?format=json", "/print/docs/guide/intro.html", "/docs/guide/intro.md"])
        {
            all.ShouldContain(usual);
        }

        all.ShouldNotContain("/docs/guide/intro.html");
        SweepLinks.Copies("/").ShouldBeEmpty();
    }

    [Theory]
    [InlineData("<form action=/search><input type=hidden name=a><input name=q></form>", "/search?q=two%20words")]
    [InlineData("<form method=GET><input type=search name=\"find\"></form>", "/here?find=two%20words")]
    [InlineData("<form method=post action=/x><input name=q></form>", "")]
    [InlineData("<form action=https://elsewhere.example/><input name=q></form>", "")]
    public void Searches_are_sent_as_a_visitor_would(string page, string to) =>
        string.Join(',', SweepLinks.Searches(page, "/here", ["two words"])).ShouldBe(to);
}
