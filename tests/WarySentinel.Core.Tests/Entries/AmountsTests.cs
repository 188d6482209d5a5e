using Shouldly;
using WarySentinel.Core.Entries;
using Xunit;

namespace WarySentinel.Core.Tests.Entries;

/// <summary>What is written like an amount of money.</summary>
public sealed class AmountsTests
{
    [Theory]
    [InlineData("Now only 1.234,50 € for members", "1.234,50 €")]
    [InlineData("EUR 12", "EUR 12")]
    [InlineData("£9", "£9")]
    [InlineData("1'250.00 CHF", "1'250.00 CHF")]
    [InlineData("49 kr", "49 kr")]
    [InlineData("19,90 zł", "19,90 zł")]
    [InlineData("40 mm, 52° north", null)]
    [InlineData("12 euros", null)]
    [InlineData("room 12.50", null)]
    [InlineData("EUROPE 12", null)]
    public void An_amount_bears_the_sign_of_its_currency(string text, string? amount) => Amounts.In(text).ShouldBe(amount);

    [Theory]
    [InlineData(" 1.234,50 ", true)]
    [InlineData("12", true)]
    [InlineData("1 250.5", true)]
    [InlineData("12.345.6789", false)]
    [InlineData("12 €", false)]
    [InlineData("", false)]
    public void Alone_it_needs_none(string text, bool isOne) => Amounts.IsOne(text).ShouldBe(isOne);

    [Theory]
    [InlineData("from 12.50", true)]
    [InlineData("12 €", true)]
    [InlineData("12.5 mm", false)]
    [InlineData("version 1.234", false)]
    public void Two_digits_behind_the_point_look_like_one(string text, bool stands) => Amounts.StandsIn(text).ShouldBe(stands);

    [Fact]
    public void Whatever_is_put_before_and_behind_an_amount_it_is_found()
    {
        var random = new Random(4);
        string[] words = ["Fern", "eyepiece,", "members", "(", "now:", "–", "40 mm", "\u00A0", "2026"];
        for (var trial = 0; trial < 2_000; trial++)
        {
            var number = $"{random.Next(1, 9999)}{(random.Next(2) == 0 ? "" : $"{(random.Next(2) == 0 ? '.' : ',')}{random.Next(10, 99)}")}";
            var amount = random.Next(4) switch { 0 => $"{number} €", 1 => $"${number}", 2 => $"USD {number}", _ => $"{number} SEK" };
            string Some() => string.Join(' ', Enumerable.Range(0, random.Next(4)).Select(_ => words[random.Next(words.Length)]));
            Amounts.In($"{Some()} - {amount} - {Some()}").ShouldBe(amount);
        }
    }
}
