using System.Globalization;
using System.Text.RegularExpressions;
using Shouldly;
using Xunit;

namespace WarySentinel.Core.Tests;

/// <summary>A refusal carries what it says as data, and is worded where it is read, in the reader's language.</summary>
public sealed partial class WordbookTests
{
    private static readonly Wordbook German = Wordbook.For(CultureInfo.GetCultureInfo("de"));

    public static TheoryData<string> Others => [.. Wordbook.Languages.Skip(1)];

    [Theory]
    [MemberData(nameof(Others))]
    public void Every_refusal_has_a_sentence_in_every_language_with_the_same_values(string language)
    {
        var book = Wordbook.For(CultureInfo.GetCultureInfo(language));
        var asked = Wordbook.English.Keys.Where(k => Refusal().IsMatch(k) && !k.EndsWith(".summary", StringComparison.Ordinal)).ToList();
        asked.Count.ShouldBeGreaterThan(150);
        asked.Except(book.Keys).ShouldBeEmpty();
        book.Keys.Except(Wordbook.English.Keys).ShouldBeEmpty();
        book.Keys.Where(k => ValuesOf(book[k]) != ValuesOf(Wordbook.English[k])).ShouldBeEmpty();
    }

    [Fact]
    public void A_refusal_keeps_its_code_and_values_and_is_worded_in_any_language()
    {
        var problem = Problem.In("covers", "item-unknown-near", "product:mos", "product:moss");
        problem.Detail.Key.ShouldBe("problem.item-unknown-near");
        problem.Detail.Values.ShouldBe(["product:mos", "product:moss"]);
        problem.Detail.ToString().ShouldBe("There is no item “product:mos”. Did you mean “product:moss”?");
        problem.Faults.ShouldHaveSingleItem().Message.In(German).ShouldBe("Einen Eintrag „product:mos“ gibt es nicht. War „product:moss“ gemeint?");
    }

    [Fact]
    public void A_sentence_inside_a_sentence_is_worded_in_the_same_language()
    {
        var told = Wording.Joined([
            Wording.Of("problem.item-cycle", Wording.Of("item.ring-more", "a → b", 3)), Wording.Count("import.beneath-ring", 1),
        ]);
        told.In(German).ShouldBe("Diese Einträge stünden im Ring untereinander: a → b → … und 3 weitere. 1 weitere Zeile steht darunter und blieb mit ihm "
            + "weg.");
        told.ToString().ShouldBe("These items would stand beneath each other in a ring: a → b → … and 3 more. "
            + "1 more row stands beneath it and was left out with it.");
    }

    [Theory]
    [InlineData("de", "de")]
    [InlineData("de-CH", "de")]
    [InlineData("en-GB", "en")]
    [InlineData("fi", "en")]
    [InlineData("", "en")]
    public void A_reader_gets_the_nearest_language_that_there_is(string reader, string book) =>
        Wordbook.For(CultureInfo.GetCultureInfo(reader)).Language.ShouldBe(book);

    [Fact]
    public void What_a_language_lacks_is_said_in_English_and_what_none_has_is_a_fault_of_ours()
    {
        German["audience.anyone"].ShouldBe("anyone");
        Should.Throw<KeyNotFoundException>(() => German["problem.never-heard-of"]);
    }

    [Fact]
    public void Words_from_elsewhere_are_left_as_they_are() => Wording.Plain("{0} broke {").In(German).ShouldBe("{0} broke {");

    private static string ValuesOf(string sentence) => string.Join(' ', Value().Matches(sentence).Select(m => m.Value).Distinct()
        .Order(StringComparer.Ordinal));

    [GeneratedRegex("^(problem|problem-kind|address|selector|item|import|apply|discover|stored|joined)[.]")]
    private static partial Regex Refusal();

    [GeneratedRegex("""\{\d\}""")]
    private static partial Regex Value();
}
