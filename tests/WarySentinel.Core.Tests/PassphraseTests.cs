using Shouldly;
using Xunit;

namespace WarySentinel.Core.Tests;

public sealed class PassphraseTests
{
    [Theory]
    [InlineData("en")]
    [InlineData("es")]
    [InlineData("fr")]
    [InlineData("it")]
    [InlineData("de-AT")]
    [InlineData(null)]
    public void Words_are_plain_and_told_apart_by_their_first_letters(string? language)
    {
        // Every word once: the draw says which.
        var words = Enumerable.Range(0, 2048).Select(n => Passphrase.Draw(language, _ => n).Split('-')).ToList();
        words.ShouldAllBe(w => w.Length == Passphrase.Length && w.All(one => one.Length >= 3 && one.All(char.IsAsciiLetterLower)));
        words.Select(w => w[0]).Distinct().Count().ShouldBe(2048);
        words.Select(w => w[0][..Math.Min(4, w[0].Length)]).Distinct().Count().ShouldBe(2048);
    }

    [Fact]
    public void They_are_as_strong_as_they_say_and_differ_by_language()
    {
        var random = new Random(7);
        var many = Enumerable.Range(0, 3000).Select(_ => Passphrase.Draw("it", random.Next)).ToList();
        many.Distinct().Count().ShouldBe(3000);
        many.SelectMany(p => p.Split('-')).Distinct().Count().ShouldBe(2048, "every word of the list comes up");
        Passphrase.Bits.ShouldBe(77);
        Passphrase.Draw("fr", _ => 5).ShouldNotBe(Passphrase.Draw("en", _ => 5));
        Passphrase.Draw("ja", _ => 5).ShouldBe(Passphrase.Draw("en", _ => 5));
        Passphrase.DrawEnding(random.Next).Length.ShouldBe(5);
    }
}
