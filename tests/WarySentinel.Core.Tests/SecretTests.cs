using System.Text.Json;
using Shouldly;
using WarySentinel.Core.Passwords;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Core.Tests;

/// <summary>What must not be shown is not shown.</summary>
public sealed class SecretTests
{
    private const string Word = "open-the-old-vault";

    [Fact]
    public void No_record_prints_what_it_keeps()
    {
        object[] holders =
        [
            new SharedPassword(Guid.NewGuid(), "vault", "Friends", Word, Word, DateTimeOffset.UnixEpoch),
            new Member(Guid.NewGuid(), "a@b.example", "A", null, Word, MemberStatus.Active, [], DateTimeOffset.UnixEpoch),
            new ApiToken(Guid.NewGuid(), "Shop", Word, ["read"], null, DateTimeOffset.UnixEpoch, null),
            new MemberDraft { Email = "a@b.example", Password = Word },
        ];
        holders.ShouldAllBe(h => !h.ToString()!.Contains(Word, StringComparison.Ordinal) && h.ToString()!.Contains(Secret.Shown, StringComparison.Ordinal));
        $"{new Secret(Word)} {(object)new Secret(Word):x}".ShouldNotContain(Word);
    }

    [Fact]
    public void In_json_a_secret_is_its_text_and_two_of_the_same_are_equal()
    {
        JsonSerializer.Deserialize<Secret>(JsonSerializer.Serialize(new Secret(Word))).ShouldBe(new Secret(Word));
        JsonSerializer.Serialize(new Secret(Word)).ShouldBe($"\"{Word}\"");
        JsonSerializer.Deserialize<Secret?>("null").ShouldBeNull();
        Should.Throw<JsonException>(() => JsonSerializer.Deserialize<Secret>("12"));
    }
}
