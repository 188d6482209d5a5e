using FsCheck;
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
    public void What_a_guarded_index_has_collected_from_open_pages_is_theirs_and_a_copy_of_it_is_found_all_the_same()
    {
        var open = Enumerable.Range(10, 12).Select(n => Prose(n, 300)).ToList();
        var said = string.Join(',', open.Select(p => $"\"{string.Join(' ', p.Split(' ').Take(100))}\""));
        var index = "{\"said\":[" + said + "],\"own\":\"" + Prose(1, 200) + "\"}";
        foreach (var isData in new[] { true, false })
        {
            var phrases = new Phrases();
            phrases.Learn("/index.json", Phrases.MarksOf(index), isData: isData);
            open.ForEach(p => phrases.Open(phrases.KnownIn(p)));
            open.ForEach(p => Found(phrases, p).Count.ShouldBe(isData ? 0 : 1));
            Found(phrases, index).ShouldHaveSingleItem("a copy of it");
            Found(phrases, Prose(1, 200)).ShouldHaveSingleItem("what it says itself");
        }

        var few = new Phrases();
        few.Learn("/index.json", Phrases.MarksOf(index), isData: true);
        open.Take(2).ToList().ForEach(p => few.Open(few.KnownIn(p)));
        open.ForEach(p => Found(few, p).ShouldHaveSingleItem("two that share words have collected nothing"));
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

    [Property(MaxTest = 60)]
    public void A_sentence_that_is_all_a_page_says_is_found_and_half_of_it_is_not(ushort any, byte sort)
    {
        var sentence = Prose(any * 3, 4 + (any % 6)) + " signs";
        var around = $"<title>Secret</title><nav><a href=/>{Prose(any + 7, 6)}</a></nav><h1>{Prose(any + 9, 5)}</h1><a href=/b>{Prose(any + 11, 5)}</a>";
        var phrases = new Phrases();
        var page = $"<html>{around}<p>{sentence}</p></html>";
        phrases.Learn("/a", Phrases.MarksOf(page), Sayings.Of(page));
        IReadOnlyList<string> Short(string text) => [.. phrases.ShortOf(phrases.In(text)).Select(c => c.Of)];
        var copy = (sort % 3) switch
        {
            0 => $"<td>{sentence.ToUpperInvariant()}</td>",
            1 => "{\"x\":\"" + sentence + "\"}",
            _ => Prose(1, 30) + " " + sentence.Replace(" ", " <i>", StringComparison.Ordinal) + " " + Prose(2, 30),
        };
        Short(copy).ShouldBe(["/a"]);
        Short(around + Prose(any + 1, 200)).ShouldBeEmpty();
        Short(string.Join(' ', sentence.Split(' ').Skip(1))).ShouldBeEmpty();
        phrases.Open(phrases.KnownIn($"<html><p>{sentence}</p>"));
        Short(copy).ShouldBeEmpty();
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

    [Property(MaxTest = 300)]
    public void Words_are_those_that_a_plain_reading_finds(NonNull<string> any, byte many)
    {
        // Letters, signs of scripts without blanks, and whatever else comes.
        var text = any.Get + " Ünder_die 星を見る42x, ıİ " + any.Get.ToUpperInvariant() + (char)('a' + many % 26);
        var plain = System.Text.RegularExpressions.Regex.Matches(text, @"[\u3040-\u9FFF\uAC00-\uD7AF]|[^\W_\u3040-\u9FFF\uAC00-\uD7AF]+")
            .Select(m => m.Value).ToList();
        using var words = WordRun.Of(text);
        var read = Enumerable.Range(0, words.Count).Select(n => words.Words(n, 1)).ToList();
        string.Join(' ', read).Length.ShouldBeGreaterThanOrEqualTo(plain.Count);
        for (var n = 0; n < words.Count; n++)
        {
            using var alone = WordRun.Of(read[n].ToUpperInvariant());
            using var small = WordRun.Of(read[n]);
            (small.Count, small[0]).ShouldBe((1, words[n]), read[n]);
        }

        var run = 1 + many % 5;
        words.Runs(run).Select(r => (r.Mark, r.At)).ShouldBe(
            Enumerable.Range(0, Math.Max(0, words.Count - run + 1)).Select(at => (words.Join(at, run), at)));
    }

    [Property(MaxTest = 100)]
    public void Of_every_set_of_scripts_a_page_is_drawn_before_the_second_of_any(byte[] kinds, byte most)
    {
        var draw = new PagesToDraw();
        for (var n = 0; n < kinds.Length; n++)
        {
            draw.Add($"/{n}", kinds[n] % 7u);
        }

        var taken = draw.Take(most);
        taken.Count.ShouldBe(Math.Min(most, kinds.Length));
        taken.ShouldBeUnique();
        var counts = taken.GroupBy(a => kinds[int.Parse(a[1..], System.Globalization.CultureInfo.InvariantCulture)] % 7)
            .ToDictionary(g => g.Key, g => g.Count());
        foreach (var (kind, count) in counts)
        {
            counts.Values.ShouldAllBe(c => count <= c + 1 || counts.Where(o => o.Value == c).All(o => c == kinds.Count(k => k % 7 == o.Key)));
        }
    }

    [Theory]
    [InlineData("<p>x</p>", "<script type=application/json>{}</script>", null)]
    [InlineData("<script>show('a', 17)</script>", "<p>y</p><script>show(\"b\", 4)</script>", true)]
    [InlineData("<script src=/a.js?v=1></script>", "<script src='/a.js?v=2'></script>", true)]
    [InlineData("<script src=/a.js></script>", "<script src=/b.js></script>", false)]
    public void Pages_drawn_by_the_same_program_are_of_a_kind(string one, string other, bool? same)
    {
        var (first, second) = (PagesToDraw.ScriptsOf(one), PagesToDraw.ScriptsOf(other));
        (first is null ? null : (bool?)(first == second)).ShouldBe(same);
    }
}
