using Shouldly;
using WarySentinel.Core.Letters;
using Xunit;

namespace WarySentinel.Core.Tests.Letters;

/// <summary>Which words somebody is written to in.</summary>
public sealed class LetterBookTests
{
    [Theory]
    [InlineData("de-AT", "en", "own de-AT")]
    [InlineData("de-CH", "en", "own de")]
    [InlineData("sv", "de-AT", "own de-AT")]
    [InlineData("sv", "en", "ours en")]
    [InlineData(null, "de-CH", "own de")]
    [InlineData(null, "pt-BR", "ours en")]
    public void The_readers_language_comes_before_the_sites_and_the_owners_words_before_ours(string? reader, string site, string expected)
    {
        var book = new LetterBook([Own("welcome", "de-AT"), Own("welcome", "de")]);
        var chosen = book.Choose("welcome", reader, site);
        $"{(chosen.IsOurs ? "ours" : "own")} {chosen.Template.Language}".ShouldBe(expected);
        new LetterBook().Choose("welcome", "de-AT", "en").Template.Language.ShouldBe("de", "ours are there in German, too");
    }

    [Fact]
    public void English_words_of_the_owner_count_for_whoever_reads_nothing_that_there_is() =>
        new LetterBook([Own("welcome", "en")]).Choose("welcome", "fi", "fi").IsOurs.ShouldBeFalse();

    [Fact]
    public void Every_letter_is_there_in_English_and_its_words_in_every_language()
    {
        foreach (var kind in LetterKinds.All)
        {
            OurLetters.Get(kind.Key).Html.ShouldNotBeNullOrEmpty();
            foreach (var word in new[] { kind.Title, kind.About }.Concat(kind.Variables.Select(v => v.About)))
            {
                word.ToString().ShouldNotBeEmpty();
            }

            foreach (var needed in kind.Needed)
            {
                foreach (var ours in OurLetters.Languages.Select(l => OurLetters.Find(kind.Key, l)).OfType<LetterTemplate>())
                {
                    ours.Html!.ShouldContain("{{ " + needed.Name);
                }
            }
        }
    }

    [Fact]
    public void A_template_of_the_owner_is_refused_where_somebody_else_changed_it_and_stored_once()
    {
        var policy = Scene.Policy([]);
        var draft = new TemplateDraft("Hello", "<p>{{ member.name }}</p>", null, 0);
        var put = TemplateCommands.Put(policy, "welcome", "en", draft, (_, _, _) => { }).Value;
        (put.Value.Version, put.ToStore.Changes.Count).ShouldBe((1, 1));
        var after = policy.After(put.ToStore);
        TemplateCommands.Put(after, "welcome", "en", draft, (_, _, _) => { }).Problem!.Kind.ShouldBe(ProblemKind.Stale);
        TemplateCommands.Put(after, "welcome", "en", draft with { Version = 1 }, (_, _, _) => { }).Value.ToStore.Changes.ShouldBeEmpty("it says so already");
        TemplateCommands.Put(after, "welcom", "en", draft, (_, _, _) => { }).Problem!.Detail.ToString().ShouldContain("welcome");
        TemplateCommands.Put(after, "welcome", "e n", draft, (_, _, _) => { }).Problem!.Faults[0].Field.ShouldBe("language");
        TemplateCommands.Put(after, "welcome", "en", new TemplateDraft("", null, " ", 1), (_, _, _) => { }).Problem!.Faults.Count.ShouldBe(2);
        TemplateCommands.Reset(after, "welcome", "en").Value.Value.IsOurs.ShouldBeTrue();
        TemplateCommands.Reset(after, "welcome", "de").Problem!.Kind.ShouldBe(ProblemKind.NotFound);
    }

    private static LetterTemplate Own(string kind, string language) => new(kind, language, "Own", "<p>Own</p>", null);
}
