using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Pages;
using Xunit;

namespace WarySentinel.Core.Tests.Pages;

/// <summary>The owner's own words on visitor pages: whatever is taken can be said, and nothing else is taken.</summary>
public sealed class TextTests
{
    private static readonly Policy Shop = Scene.Policy(Scene.Shop(), Scene.Gate("dealer-stock", "category:dealer") with { Message = "Ask us by post." });

    [Fact]
    public void A_text_of_ones_own_is_said_in_its_language_and_goes_back_to_ours()
    {
        var set = Put(Shop, "de", ("sign-in.title", "Willkommen zurück"));
        Book(set, "de")["sign-in.title"].ShouldBe("Willkommen zurück");
        Book(set, "de-CH")["sign-in.title"].ShouldBe("Willkommen zurück");
        Book(set, "fr")["sign-in.title"].ShouldBe("Connexion");
        var back = Put(set, "de", ("sign-in.title", " "));
        Book(back, "de")["sign-in.title"].ShouldBe("Anmelden");
        TextBook.Of(back).All.ShouldBeEmpty();
    }

    [Fact]
    public void A_language_that_we_do_not_speak_is_said_in_the_owners_words_and_for_the_rest_in_the_sites()
    {
        var swedish = Put(Shop, "sv", ("sign-in.title", "Logga in"));
        var book = TextBook.Of(swedish).SpokenIn("sv", "de");
        (book.Language, book["sign-in.title"], book["sign-in.button"]).ShouldBe(("sv", "Logga in", "Anmelden"));
        LanguageGaps.OfTexts(swedish, "sv").Select(t => t.Key).ShouldContain("sign-in.button");
        LanguageGaps.OfTexts(swedish, "sv").Select(t => t.Key).ShouldNotContain("sign-in.title");
        LanguageGaps.OfTexts(swedish, "fr").ShouldAllBe(t => t.IsOwners);
    }

    [Fact]
    public void What_the_owner_says_at_a_gate_has_words_in_other_languages_and_not_a_second_time_in_the_sites()
    {
        var set = Put(Shop, "de", ("gate:dealer-stock.message", "Fragen Sie uns\nper Post."));
        Book(set, "de").FindOwn("gate:dealer-stock.message").ShouldBe("Fragen Sie uns\nper Post.");
        Book(set, "fr").FindOwn("gate:dealer-stock.message").ShouldBeNull();
        Refused(Shop, "en", "gate:dealer-stock.message", "Twice").ShouldBe("text-own");
        LanguageGaps.OfTexts(set, "de").Select(t => t.Key).ShouldNotContain("gate:dealer-stock.message");
        LanguageGaps.OfTexts(set, "en").ShouldBeEmpty();
    }

    [Theory]
    [InlineData("sign-in.titel", "x", "text-unknown-near")]
    [InlineData("gate:nowhere.title", "x", "text-unknown")]
    [InlineData("sign-in.title", "{0}", "text-no-value")]
    [InlineData("sign-in.keep", "{0} and {1}", "text-value")]
    [InlineData("sign-in.keep", "{0} days {", "text-braces")]
    [InlineData("sign-in.keep", "{{0}} days", "text-braces")]
    [InlineData("sign-in.title", "two\nlines", "text-form")]
    [InlineData("sign-in.title", "turned\u202e", "text-form")]
    public void What_cannot_be_said_is_refused_where_it_stands(string key, string text, string code) => Refused(Shop, "de", key, text).ShouldBe(code);

    [Fact]
    public void A_fault_takes_nothing_and_what_a_gate_that_went_was_called_does_no_harm()
    {
        var draft = new TextsDraft("de", new Dictionary<string, string?> { ["sign-in.title"] = "Gut", ["sign-in.titel"] = "Schlecht" });
        TextCommands.Set(Shop, draft).Problem!.Faults.ShouldHaveSingleItem().Field.ShouldBe("words[sign-in.titel]");
        var set = Put(Shop, "de", ("gate:dealer-stock.message", "Fragen Sie uns."));
        var without = Policy.Build(Scene.Shop(), [], [], new SiteSettings()).Value.After(new Edit("x", "x", [new TextsPut(TextBook.Of(set).In("de"))]));
        Book(Put(without, "de", ("sign-in.title", "Hallo")), "de").FindOwn("gate:dealer-stock.message").ShouldBe("Fragen Sie uns.");
    }

    [Fact]
    public void Whatever_is_taken_can_be_said_with_any_values()
    {
        var random = new Random(20);
        string[] bits =
        [
            "{0}", "{1}", "{2}", "{n}", "{all}", "{", "}", "{{", "{0", "0}", "{0:X}", "{0,9}",
            "a", "ü", "字", " ", "'", "|", "%", "<b>", "&amp;",
        ];
        var (keys, taken) = (TextCatalogue.OfService.ToList(), 0);
        for (var trial = 0; trial < 20_000; trial++)
        {
            var key = keys[random.Next(keys.Count)].Key;
            var text = string.Concat(Enumerable.Range(0, random.Next(1, 6)).Select(_ => bits[random.Next(bits.Length)]));
            var set = TextCommands.Set(Shop, new TextsDraft("pl", new Dictionary<string, string?> { [key] = text }));
            if (set.Problem is null && set.Value.ToStore.Changes is [TextsPut put])
            {
                taken++;
                var book = Wordbook.English.With("pl", put.Texts.Words);
                // Places with a name are filled in by a script.
                Should.NotThrow(() => key == "form.steps" ? book.Of(key) : book.Of(key, 5, "<two>", 3) + book.Count(key, 5, "a", "b"), text);
                book.Forms(key).ShouldNotBeEmpty();
            }
        }

        taken.ShouldBeGreaterThan(2_000);
    }

    [Fact]
    public void Every_text_of_every_language_would_be_taken_as_the_owners()
    {
        foreach (var language in Wordbook.Languages)
        {
            var words = Wordbook.Find(language)!.VisitorKeys.ToDictionary(k => k, string? (k) => Wordbook.Find(language)![k]);
            TextCommands.Set(Shop, new TextsDraft(language, words)).Problem?.Faults.ShouldBeEmpty(language);
        }
    }

    private static Policy Put(Policy policy, string language, params (string Key, string? Text)[] texts) => policy.After(
        TextCommands.Set(policy, new TextsDraft(language, texts.ToDictionary(t => t.Key, t => t.Text))).Value.ToStore);

    private static string Refused(Policy policy, string language, string key, string text) =>
        TextCommands.Set(policy, new TextsDraft(language, new Dictionary<string, string?> { [key] = text })).Problem!.Faults.ShouldHaveSingleItem()
            .Message.Key["problem.".Length..];

    private static Wordbook Book(Policy policy, string language) => TextBook.Of(policy).SpokenIn(language, policy.Settings.Language);
}
