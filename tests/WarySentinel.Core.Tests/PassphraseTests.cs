using Shouldly;
using Xunit;

namespace WarySentinel.Core.Tests;

public sealed class PassphraseTests
{
    // Without those that are written in several ways: with hamza or madda, or at the end of a word.
    private const string OfOneSpelling = "ابتثجحخدذرزسشصضطظعغفقكلمنهوي";

    [Theory]
    [InlineData("en", 7, 2048)]
    [InlineData("es", 7, 2048)]
    [InlineData("fr", 7, 2048)]
    [InlineData("it", 7, 2048)]
    [InlineData("de-AT", 7, 2048)]
    [InlineData("nl", 8, 1024)]
    [InlineData("pl", 8, 1024)]
    [InlineData("ja", 7, 2048)]
    [InlineData("ar-EG", 9, 512)]
    [InlineData("tr", 7, 2048)]
    [InlineData(null, 7, 2048)]
    public void Words_are_plain_and_told_apart_by_their_first_letters(string? language, int many, int list)
    {
        // Every word once: the draw says which.
        var words = Enumerable.Range(0, list).Select(n => Passphrase.Draw(language, _ => n).Split('-')).ToList();
        Func<char, bool> isPlain = language == "ar-EG" ? OfOneSpelling.Contains : char.IsAsciiLetterLower;
        words.ShouldAllBe(w => w.Length == many && w.All(one => one.Length >= 3 && one.All(isPlain)));
        words.Select(w => w[0]).Distinct().Count().ShouldBe(list);
        (many * Math.Log2(list)).ShouldBeGreaterThanOrEqualTo(Passphrase.Bits);
        words.Select(w => w[0][..Math.Min(4, w[0].Length)]).Distinct().Count().ShouldBeGreaterThan(language == "ja" ? 1400 : list - 1);
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
        Passphrase.Draw("tr", _ => 5).ShouldBe(Passphrase.Draw("en", _ => 5));
        Passphrase.DrawEnding(random.Next).Length.ShouldBe(5);
    }
}
