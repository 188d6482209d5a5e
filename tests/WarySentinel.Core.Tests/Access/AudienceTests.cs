using System.Net;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using Xunit;

namespace WarySentinel.Core.Tests.Access;

public sealed class AudienceTests
{
    private static readonly IKnownKeys Known = new KnownKeys(Scene.Policy(Scene.Shop()), email => email == "nell@shop.example");

    [Theory]
    [InlineData("role:dealer")]
    [InlineData("role:dealer or group:schools")]
    [InlineData("role:dealer and (signed-in or not guest)")]
    [InlineData("password or network:10.2.0.0/16")]
    [InlineData("bought:product:moss or member:nell@shop.example")]
    [InlineData("not (role:dealer or role:guide)")]
    public void What_is_parsed_is_printed_the_same(string text) => AudienceParser.Parse(text, Known).Value.ToString().ShouldBe(text);

    [Theory]
    [InlineData("", 1, "audience-empty")]
    [InlineData("(role:dealer", 13, "audience-bracket")]
    [InlineData("role:dealer)", 12, "audience-syntax")]
    [InlineData("role:dealer role:guide", 13, "audience-syntax")]
    [InlineData("role:dealr", 6, "unknown-role")]
    [InlineData("role:dealer and group:scools", 23, "unknown-group")]
    [InlineData("role:dealer or", 15, "audience-syntax")]
    [InlineData("singed-in", 1, "audience-word")]
    [InlineData("network:10.2.0.1/16", 9, "audience-network")]
    [InlineData("role:", 6, "audience-syntax")]
    [InlineData("and role:dealer", 1, "audience-syntax")]
    [InlineData("not not guest", 5, "audience-syntax")]
    [InlineData("bought:product:mos", 8, "unknown-bought")]
    [InlineData("member:nobody@shop.example", 8, "unknown-member")]
    public void A_mistake_has_its_column_and_code(string text, int column, string code)
    {
        var problem = AudienceParser.Parse(text, Known).Problem.ShouldNotBeNull();
        problem.Code.ShouldBe(code);
        problem.Faults.ShouldHaveSingleItem().Column.ShouldBe(column);
    }

    [Theory]
    [InlineData("role:dealr", "dealer")]
    [InlineData("group:school", "schools")]
    [InlineData("singed-in", "signed-in")]
    [InlineData("bought:product:mos", "product:moss")]
    public void The_nearest_known_word_is_offered(string text, string nearest) =>
        AudienceParser.Parse(text, Known).Problem!.Detail.ShouldContain($"“{nearest}”");

    [Fact]
    public void Hostile_depth_and_length_are_refused()
    {
        AudienceParser.Parse(new string('(', 3000) + "guest").Problem!.Code.ShouldBe("audience-too-deep");
        AudienceParser.Parse(new string('x', 5000)).Problem!.Code.ShouldBe("audience-too-long");
    }

    [Fact]
    public void And_binds_tighter_than_or()
    {
        var audience = AudienceParser.Parse("role:dealer or role:guide and group:schools").Value;
        audience.Admits(Scene.Role("dealer"), "", Scene.Now).ShouldBeTrue();
        audience.Admits(Scene.Role("guide"), "", Scene.Now).ShouldBeFalse();
    }

    [Fact]
    public void Password_is_true_for_the_very_gate_that_was_unlocked()
    {
        var audience = AudienceParser.Parse("password").Value;
        var visitor = Visitor.Guest.Having([new Unlock("vault", Scene.Now.AddDays(1))]);
        audience.Admits(visitor, "vault", Scene.Now).ShouldBeTrue();
        audience.Admits(visitor, "other", Scene.Now).ShouldBeFalse();
        audience.Admits(visitor, "vault", Scene.Now.AddDays(1)).ShouldBeFalse();
    }

    [Fact]
    public void Network_takes_addresses_mapped_into_IPv6()
    {
        var audience = AudienceParser.Parse("network:10.2.0.0/16").Value;
        audience.Admits(Visitor.Guest.From(IPAddress.Parse("10.2.9.9")), "", Scene.Now).ShouldBeTrue();
        audience.Admits(Visitor.Guest.From(IPAddress.Parse("::ffff:10.2.9.9")), "", Scene.Now).ShouldBeTrue();
        audience.Admits(Visitor.Guest.From(IPAddress.Parse("10.3.0.1")), "", Scene.Now).ShouldBeFalse();
    }

    [Fact]
    public void An_expired_grant_admits_nobody()
    {
        var visitor = new Visitor { IsSignedIn = true, Grants = [new Grant(FactKind.Plan, "patron", Scene.Now.AddDays(-9), Scene.Now)] };
        var audience = AudienceParser.Parse("plan:patron").Value;
        audience.Admits(visitor, "", Scene.Now.AddTicks(-1)).ShouldBeTrue();
        audience.Admits(visitor, "", Scene.Now).ShouldBeFalse();
        audience.Admits(visitor, "", Scene.Now.AddDays(-10)).ShouldBeFalse();
    }

    [Property(MaxTest = 2000, Arbitrary = [typeof(Audiences)])]
    public bool Parsing_what_is_printed_gives_the_same_expression(Audience audience) =>
        AudienceParser.Parse(audience.ToString()!).Value.Equals(audience);

    [Property(MaxTest = 2000)]
    public bool No_text_makes_the_parser_throw(string? text)
    {
        AudienceParser.Parse(text ?? "", Known);
        return true;
    }

    public static class Audiences
    {
        public static Arbitrary<Audience> Any() => Gen.Sized(size => Of(Math.Min(size, 12))).ToArbitrary();

        private static Gen<Audience> Of(int size)
        {
            var atoms = Gen.OneOf(
                Gen.Elements(Enum.GetValues<PlainAtom>()).Select(a => (Audience)new Audience.Plain(a)),
                Gen.Elements(FactKind.Role, FactKind.Group, FactKind.Plan, FactKind.Bought)
                    .SelectMany(k => Gen.Elements("dealer", "a-b", "x.1", "product:moss").Select(key => (Audience)new Audience.Fact(k, key))),
                Gen.Elements("10.0.0.0/8", "192.168.4.0/24", "2001:db8::/32").Select(n => (Audience)new Audience.Network(IPNetwork.Parse(n))));
            if (size <= 1)
            {
                return atoms;
            }

            var inner = Of(size / 2);
            return Gen.OneOf(
                atoms,
                inner.Where(i => i is not Audience.Not).Select(i => (Audience)new Audience.Not(i)),
                inner.ListOf(2).SelectMany(parts => Gen.Elements(true, false).Select(all => (Audience)new Audience.Many(all, [.. parts]))),
                inner.ListOf(3).SelectMany(parts => Gen.Elements(true, false).Select(all => (Audience)new Audience.Many(all, [.. parts]))));
        }
    }
}
