using System.Net;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
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
    [InlineData("network:10.2", 9, "audience-network")]
    [InlineData("network:fe80::1%2", 9, "audience-network")]
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
        AudienceParser.Parse(text, Known).Problem!.Detail.ToString().ShouldContain($"“{nearest}”");

    /// <summary>Trees as a file, the API, the console or a program could make them, far beyond what people write.</summary>
    private static Gen<Audience> Trees(int size) => size <= 0
        ? Gen.OneOf(
            Gen.Elements(Enum.GetValues<PlainAtom>()).Select(a => (Audience)new Audience.Plain(a)),
            Gen.Elements("dealer", "and", "or", "not", "a.b-c_d", "product:moss", "ключ", "🔭", "%20", "a,b|c;d")
            .SelectMany(key => Gen.Elements(Enum.GetValues<FactKind>()).Select(kind => (Audience)new Audience.Fact(kind, key))),
            Gen.Elements("10.2.0.0/16", "0.0.0.0/0", "::/0", "2001:db8::/32", "192.0.2.7/32", "::1/128", "::ffff:10.0.0.0/104")
            .Select(r => (Audience)new Audience.Network(IPNetwork.Parse(r))))
        : Gen.OneOf(
            Trees(0),
            Trees(size - 1).Select(inner => (Audience)new Audience.Not(inner)),
            Gen.Choose(2, 4).SelectMany(n => Gen.Elements(true, false)
            .SelectMany(all => Trees(size / 2).ListOf(n).Select(parts => (Audience)new Audience.Many(all, [.. parts])))));

    [Property(MaxTest = 3000)]
    public Property Whatever_tree_is_made_is_read_back_as_the_same()
    {
        var trees = Gen.Choose(0, 8).SelectMany(Trees).ToArbitrary();
        return Prop.ForAll(trees, tree => AudienceParser.ParseStored(tree.ToString()!).Value.Equals(tree)
            && (tree.ToString()!.Length > 4000 || AudienceParser.Parse(tree.ToString()!).Value.Equals(tree)));
    }

    [Property(MaxTest = 3000)]
    public Property Whatever_text_is_accepted_is_written_so_that_it_is_read_back_as_the_same()
    {
        string[] words = ["not", "not", "(", "(", ")", ")", "and", "or", "role:r1", "signed-in", "network:10.1.2.3", "network:::1", "member:A@B.example",
            " ", "not("];
        var texts = Gen.Elements(words).ListOf().Resize(14).Select(w => string.Join(' ', w)).ToArbitrary();
        return Prop.ForAll(texts, text => AudienceParser.Parse(text) is not { IsGood: true } read
            || AudienceParser.Parse(read.Value.ToString()!).Value.Equals(read.Value));
    }

    [Fact]
    public void What_could_not_be_read_back_cannot_be_made()
    {
        foreach (var key in new[] { "", "a b", "a)", "(", "a\u00a0b", "a\n" })
        {
            Should.Throw<ArgumentException>(() => new Audience.Fact(FactKind.Role, key));
        }

        Should.Throw<ArgumentException>(() => new Audience.Fact(FactKind.Member, "Nell@Shop.example"));
        Should.Throw<ArgumentException>(() => new Audience.Network(new IPNetwork(IPAddress.Parse("fe80::1%2"), 128)));
        var deep = Audience.Anyone;
        for (var n = 1; n < Audience.Deepest; n++)
        {
            deep = new Audience.Not(deep);
        }

        AudienceParser.Parse(deep.ToString()!).Value.ShouldBe(deep);
        Should.Throw<ArgumentException>(() => new Audience.Not(deep));
    }

    [Fact]
    public void What_earlier_versions_wrote_is_read_as_it_was_meant()
    {
        var twice = AudienceParser.Parse("not (not role:r1)").Value;
        twice.ToString().ShouldBe("not (not role:r1)");
        AudienceParser.ParseStored("not not role:r1").Value.ShouldBe(twice);
        AudienceParser.ParseStored("not not not guest or not not (anyone and guest)").IsGood.ShouldBeTrue();
        var addresses = string.Join(" or ", Enumerable.Range(0, 180).Select(n => $"network:10.0.0.{n}"));
        addresses.Length.ShouldBeLessThan(4000);
        AudienceParser.Parse(addresses).Problem!.Code.ShouldBe("audience-too-long");
        AudienceParser.ParseStored(addresses).IsGood.ShouldBeTrue();
    }

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

    [Property(MaxTest = 2000)]
    public bool No_text_makes_the_parser_throw(string? text)
    {
        AudienceParser.Parse(text ?? "", Known);
        return true;
    }
}
