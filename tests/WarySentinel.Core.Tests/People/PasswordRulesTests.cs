using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Core.Tests.People;

/// <summary>What a password has to be, whatever judges how hard it is to guess.</summary>
public sealed class PasswordRulesTests
{
    private static readonly PasswordRules Rules = new((_, _) => new PasswordStrength(4, null));

    [Theory]
    [InlineData("elevenchars", "password-short")]
    [InlineData("ababababababab", "password-same")]
    [InlineData("ada@quill.example", "password-own")]
    [InlineData("AdaQuill2026", "password-own")]
    [InlineData("quillquillquill", "password-own")]
    [InlineData("Ádám-Quill-1234-x", null)]
    [InlineData("twelve chars", null)]
    [InlineData("żółta łódź płynie", null)]
    [InlineData("🏔🏔⭐🌙🏔🏔⭐🌙🏔🦉🏔🦉", null)]
    public void Length_counts_characters_as_people_do_and_own_words_do_not_count(string password, string? code) =>
        Rules.FaultOf(password, "ada@quill.example", "Ada Quill", null, "Fernlight Observatory")?.Code.ShouldBe(code);

    [Fact]
    public void What_is_easy_to_guess_is_refused_with_the_part_that_is()
    {
        var weak = new PasswordRules((_, own) => new PasswordStrength(own.Contains("fernlight") ? 1 : 3, "iloveyou"));
        weak.FaultOf("iloveyou-and-more", "a@b.example", "Fernlight").ShouldNotBeNull().Detail.ToString().ShouldContain("iloveyou");
        weak.FaultOf("iloveyou-and-more", "a@b.example", "Other").ShouldBeNull();
    }

    /// <summary>No kind of character is asked for, and none is refused.</summary>
    [Property(MaxTest = 300)]
    public Property Any_characters_will_do() => Prop.ForAll(
        Gen.Choose(0x21, 0x2FFF).Select(c => (char)c).Where(char.IsLetterOrDigit).ArrayOf(14).ToArbitrary(),
        letters => Rules.FaultOf(new string(letters), "a@b.example")?.Code is null or "password-same" or "password-short");
}
