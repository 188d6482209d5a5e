using System.Globalization;
using System.Text.RegularExpressions;
using Shouldly;
using Xunit;

namespace WarySentinel.Core.Tests;

/// <summary>A refusal carries what it says as data, and is worded where it is read, in the reader's language.</summary>
public sealed partial class WordbookTests
{
    private static readonly Wordbook German = Wordbook.For(CultureInfo.GetCultureInfo("de"));

    public static TheoryData<string> OfStaff => [.. Wordbook.OfStaff.Skip(1)];

    public static TheoryData<string> Others => [.. Wordbook.Languages.Skip(1)];

    [Theory]
    [MemberData(nameof(OfStaff))]
    public void Every_sentence_is_there_in_every_language_that_staff_are_spoken_to_in(string language)
    {
        var book = Wordbook.For(CultureInfo.GetCultureInfo(language));
        Wordbook.English.Keys.Count().ShouldBeGreaterThan(1_000);
        Wordbook.English.Keys.Where(k => !IsForm(k)).Except(book.Keys).ShouldBeEmpty();
    }

    [Theory]
    [MemberData(nameof(Others))]
    public void Every_sentence_of_visitor_pages_is_there_in_every_language_with_the_same_values(string language)
    {
        var book = Wordbook.For(CultureInfo.GetCultureInfo(language));
        book.Language.ShouldBe(language);
        Wordbook.English.VisitorKeys.Where(k => !IsForm(k)).Except(book.VisitorKeys).ShouldBeEmpty();
        // A form of a count may leave the number out ("one day"), and a language may have forms that English does not.
        book.Keys.Except(Wordbook.English.Keys).Where(k => !IsForm(k)).ShouldBeEmpty();
        book.Keys.Where(k => !IsForm(k) && ValuesOf(book[k]) != ValuesOf(Wordbook.English[k])).ShouldBeEmpty();
        book.Keys.Where(k => IsForm(k) && !ValuesOf(Wordbook.English[Form().Replace(k, "")]).Contains(ValuesOf(book[k]))).ShouldBeEmpty();
    }

    [Theory]
    [MemberData(nameof(Others))]
    public void What_is_said_of_a_visitor_s_answers_and_passwords_is_in_their_language(string language)
    {
        var (book, said) = (Wordbook.For(CultureInfo.GetCultureInfo(language)), Wordbook.English.Keys.Where(k => Visitors().IsMatch(k)).ToList());
        said.Count.ShouldBeGreaterThan(50);
        said.Except(book.Keys).ShouldBeEmpty();
    }

    [Fact]
    public void Every_form_that_a_language_counts_in_is_there()
    {
        foreach (var language in Wordbook.Languages)
        {
            var book = Wordbook.For(CultureInfo.GetCultureInfo(language));
            var needed = Enumerable.Range(1, 120).Select(n => Plural.Of(language, n)).Distinct().Where(f => f != Plural.Other).ToList();
            foreach (var key in new[] { "error.left", "time.seconds", "time.minutes", "unlock.days", "unlock.hours", "sign-in.keep", "meter.more" })
            {
                needed.Where(f => !book.Has($"{key}.{f}")).ShouldBeEmpty($"{language} {key}");
                Enumerable.Range(1, 120).Select(n => book.Count(key, n)).ShouldAllBe(s => !s.Contains('{'));
            }
        }
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
        Wordbook.Find("fr")!["acts.usual"].ShouldBe(Wordbook.English["acts.usual"]);
        Should.Throw<KeyNotFoundException>(() => German["problem.never-heard-of"]);
    }

    [Fact]
    public void Words_from_elsewhere_are_left_as_they_are() => Wording.Plain("{0} broke {").In(German).ShouldBe("{0} broke {");

    private static bool IsForm(string key) => Form().IsMatch(key) && Wordbook.English.Has(Form().Replace(key, ""));

    private static string ValuesOf(string sentence) => string.Join(' ', Value().Matches(sentence).Select(m => m.Value).Distinct()
        .Order(StringComparer.Ordinal));

    [GeneratedRegex("[.](zero|one|two|few|many)$")]
    private static partial Regex Form();

    [GeneratedRegex("^(problem[.](answer-(?!filter|needs|file-only)|password-|email-(form|same|named)|terms-(changed|needed)|form-pace|busy|name-length)"
        + "|audience[.](anyone|nobody|guest|signed-in|password|crawler|plan|bought|pass|from-network|but|and|or)$|role[.])")]
    private static partial Regex Visitors();

    [GeneratedRegex("""\{\w+\}""")]
    private static partial Regex Value();
}
