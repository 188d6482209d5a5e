using System.Text;
using Shouldly;
using WarySentinel.Core.Catalogue;
using Xunit;

namespace WarySentinel.Core.Tests;

/// <summary>What looks the same is the same, whichever keyboard typed it; and lists stand in the order of the site's language.</summary>
public sealed class SpellingTests
{
    private static readonly string[] Letters =
        ["a", "Z", "é", "e\u0301", "Å", "\u212b", "ñ", "ﬁ", "Ｗ", "ł", "ß", "ệ", "한", "\u1112\u1161\u11ab", "ж", "й", "ά", "ก็", "🔑", "\u0301", " ", "\u00a0"];

    [Theory]
    [InlineData("Zoë Ångström", "zoe angstrom")]
    [InlineData("Zoe\u0308", "zoe")]
    [InlineData("ΆΛΦΑ", "αλφα")]
    [InlineData("Łódź", "łodz")]
    [InlineData("ﬁn", "fin")]
    [InlineData("Ｗａｒｙ", "wary")]
    [InlineData("Việt", "viet")]
    [InlineData("plain", "plain")]
    [InlineData("\ud800x", "\ud800x")]
    public void Texts_are_searched_without_case_and_accents(string text, string folded) => Spelling.Folded(text).ShouldBe(folded);

    [Fact]
    public void Composed_and_decomposed_are_one_to_searches_and_passwords()
    {
        var random = new Random(7);
        for (var round = 0; round < 2000; round++)
        {
            var text = string.Concat(Enumerable.Range(0, random.Next(1, 9)).Select(_ => Letters[random.Next(Letters.Length)]));
            var (composed, apart) = (text.Normalize(NormalizationForm.FormC), text.Normalize(NormalizationForm.FormD));
            Spelling.Folded(composed).ShouldBe(Spelling.Folded(apart));
            Spelling.Folded(Spelling.Folded(text)).ShouldBe(Spelling.Folded(text));
            Spelling.OfPassword(composed).ShouldBe(Spelling.OfPassword(apart));
            Spelling.OfPassword(Spelling.OfPassword(text)).ShouldBe(Spelling.OfPassword(text));
            Spelling.Composed(apart).ShouldBe(composed);
        }
    }

    [Fact]
    public void A_password_keeps_its_case_and_its_blanks_are_blanks()
    {
        Spelling.OfPassword("Lamp\u00a0Lit\u3000É").ShouldBe("Lamp Lit É");
        Spelling.OfPassword("a\ud800b").ShouldBe("a\ud800b");
        Spelling.OfPassword("Lamp").ShouldNotBe(Spelling.OfPassword("lamp"));
    }

    [Theory]
    [InlineData("sv", "apa, Zebra, ål, ärta, öga")]
    [InlineData("de", "ål, apa, ärta, öga, Zebra")]
    [InlineData("no-such-tongue-at-all", "ål, apa, ärta, öga, Zebra")]
    public void Lists_stand_in_the_order_of_the_language(string language, string sorted)
    {
        string[] words = ["öga", "Zebra", "ärta", "apa", "ål"];
        string.Join(", ", words.OrderBy(w => Convert.ToHexString(Spelling.SortKeyOf(w, language)), StringComparer.Ordinal)).ShouldBe(sorted);
        string.Join(", ", words.Order(Spelling.SortingOf(language))).ShouldBe(sorted);
    }

    [Fact]
    public void Items_rank_as_the_language_sorts_their_titles_and_equal_ones_as_they_stand()
    {
        var random = new Random(11);
        var items = Enumerable.Range(0, 400).Select(n => new Item(
            new ItemId(ItemKind.Page, "p" + n), string.Concat(Enumerable.Range(0, 3).Select(_ => Letters[random.Next(15)])), [], [])).ToList();
        var graph = CatalogueGraph.Build(items, new PathRules()).Value;
        foreach (var language in new[] { "fr", "sv", "fr" })
        {
            var ranks = graph.RanksIn(language);
            var expected = Enumerable.Range(0, graph.Items.Count).OrderBy(p => graph.Items[p].Title, Spelling.SortingOf(language)).ToList();
            expected.Select(place => ranks[place]).ShouldBe(Enumerable.Range(0, graph.Items.Count));
        }
    }

    [Fact]
    public void Items_are_found_however_their_accents_are_typed()
    {
        var graph = CatalogueGraph.Build([new Item(new ItemId(ItemKind.Page, "sky"), "Ciel d’été", [], [])], new PathRules()).Value;
        foreach (var typed in new[] { "été", "ÉTÉ", "e\u0301te\u0301", "ete", " d’ete", "page:sk" })
        {
            graph.Search(typed).Select(p => graph.Items[p].Id.ToString()).ShouldBe(["page:sky"]);
        }

        graph.Search("summer").ShouldBeEmpty();
    }

    [Theory]
    [InlineData("sv", true)]
    [InlineData("de-AT", true)]
    [InlineData("zh-Hant-TW", true)]
    [InlineData("", false)]
    [InlineData("x", false)]
    [InlineData("../../etc", false)]
    [InlineData("qq-QQ", false)]
    [InlineData("english", false)]
    public void A_language_is_known_by_its_tag(string tag, bool known) => Spelling.IsLanguage(tag).ShouldBe(known);
}
