using System.Text.Json;
using Shouldly;
using WarySentinel.Contract.People;
using Xunit;

namespace WarySentinel.Contract.Tests;

/// <summary>What must not be seen is not shown by whatever prints the record that carries it, and travels as the string that it is.</summary>
public sealed class SecretTextTests
{
    [Theory]
    [InlineData("keep-the-lamp-lit")]
    [InlineData("")]
    [InlineData("ä\"\\\n\u2028🔑")]
    public void A_record_does_not_show_it_and_JSON_carries_it(string text)
    {
        var sent = new Credentials("fern", text);
        if (text.Length > 0)
        {
            sent.ToString().ShouldNotContain(text);
        }

        var there = JsonSerializer.Deserialize<Credentials>(JsonSerializer.Serialize(sent, ApiJson.Options), ApiJson.Options)!;
        there.Password!.Reveal().ShouldBe(text);
        there.ShouldBe(sent);
    }

    [Theory]
    [InlineData("7")]
    [InlineData("{}")]
    [InlineData("[\"a\"]")]
    [InlineData("true")]
    public void Anything_but_a_string_is_refused(string json) =>
        Should.Throw<JsonException>(() => JsonSerializer.Deserialize<Credentials>($$"""{"name":"fern","password":{{json}}}""", ApiJson.Options));

    [Fact]
    public void None_is_none()
    {
        JsonSerializer.Deserialize<Credentials>("""{"name":"fern","password":null}""", ApiJson.Options)!.Password.ShouldBeNull();
        JsonSerializer.Serialize(new Credentials("fern", null), ApiJson.Options).ShouldBe("""{"name":"fern"}""");
    }
}
