using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Catalogue;
using Xunit;

namespace WarySentinel.Core.Tests.Catalogue;

public sealed class RequestPathTests
{
    [Theory]
    [InlineData("/", "/", "/")]
    [InlineData("/Shop/Filters/", "/Shop/Filters/", "/shop/filters")]
    [InlineData("//shop///filters", "/shop/filters", "/shop/filters")]
    [InlineData("/a/./b/../c", "/a/c", "/a/c")]
    [InlineData("/a/%2e%2E/c", "/c", "/c")]
    [InlineData("/%73hop", "/shop", "/shop")]
    [InlineData("/caf%C3%A9", "/caf%C3%A9", "/café")]
    [InlineData("/a%20b", "/a%20b", "/a b")]
    [InlineData("/a/..", "/", "/")]
    [InlineData("http://site.example/shop?x=1", "/shop", "/shop")]
    [InlineData("/wiki/100%25", "/wiki/100%25", "/wiki/100%")]
    public void There_is_one_normal_form(string target, string sent, string key)
    {
        RequestPath.TryNormalise(target, new PathRules(), out var path, out _).ShouldBeTrue();
        (path.Sent, path.Key).ShouldBe((sent, key));
    }

    [Theory]
    [InlineData("shop", PathFault.Malformed)]
    [InlineData("", PathFault.Malformed)]
    [InlineData("/a#b", PathFault.Malformed)]
    [InlineData("/a%00b", PathFault.Malformed)]
    [InlineData("/a%0d%0ab", PathFault.Malformed)]
    [InlineData("/a%", PathFault.BadEscape)]
    [InlineData("/a%2", PathFault.BadEscape)]
    [InlineData("/a%zz", PathFault.BadEscape)]
    [InlineData("/a%2fb", PathFault.HiddenSeparator)]
    [InlineData("/a%5Cb", PathFault.HiddenSeparator)]
    [InlineData("/a\\b", PathFault.HiddenSeparator)]
    [InlineData("/a%252e", PathFault.EscapedTwice)]
    [InlineData("/%c0%ae", PathFault.NotUtf8)]
    [InlineData("/%ff", PathFault.NotUtf8)]
    [InlineData("/../a", PathFault.AboveRoot)]
    [InlineData("/a/../../b", PathFault.AboveRoot)]
    [InlineData("/a;x=1", PathFault.Semicolon)]
    [InlineData("/a%3bx", PathFault.Semicolon)]
    [InlineData("/a./b", PathFault.TrailingDot)]
    [InlineData("/a%20", PathFault.TrailingDot)]
    [InlineData("/...", PathFault.TrailingDot)]
    public void What_has_two_readings_has_none(string target, PathFault fault)
    {
        RequestPath.TryNormalise(target, new PathRules(), out _, out var found).ShouldBeFalse();
        found.ShouldBe(fault);
    }

    [Fact]
    public void What_the_origin_takes_literally_can_be_allowed()
    {
        var rules = new PathRules(IgnoreCase: false, IgnoreTrailingSlash: false, RefuseSemicolons: false, RefuseTrailingDots: false);
        RequestPath.TryNormalise("/A;b/c./", rules, out var path, out _).ShouldBeTrue();
        path.Key.ShouldBe("/A;b/c./");
    }

    [Property(MaxTest = 3000, Arbitrary = [typeof(Targets)])]
    public void The_form_sent_on_reads_the_same_again(string target)
    {
        if (RequestPath.TryNormalise(target, new PathRules(), out var path, out _))
        {
            RequestPath.TryNormalise(path.SentWithQuery, new PathRules(), out var again, out var fault).ShouldBeTrue(fault.ToString());
            (again.Sent, again.Key).ShouldBe((path.Sent, path.Key));
            path.Sent.ShouldNotContain("//");
            path.Sent.Split('/').ShouldNotContain("..");
        }
    }

    [Theory]
    [InlineData("/a/*", "/a/b", true)]
    [InlineData("/a/*", "/a/b/c", false)]
    [InlineData("/a/*", "/a", false)]
    [InlineData("/a/**", "/a", true)]
    [InlineData("/a/**", "/a/b/c", true)]
    [InlineData("/a/**", "/ab", false)]
    [InlineData("/**", "/", true)]
    [InlineData("/a/*/c", "/a/b/c", true)]
    [InlineData("/a/*/c", "/a/b/d", false)]
    [InlineData("/A/B/", "/a/b", true)]
    [InlineData("/item?id=12", "/item?x=2&id=12", true)]
    [InlineData("/item?id=12", "/item?id=123", false)]
    public void A_star_is_one_segment_and_two_are_the_rest(string address, string target, bool matches) =>
        Address.Parse(address).Matches(Scene.Path(target), new PathRules()).ShouldBe(matches);

    [Theory]
    [InlineData("shop")]
    [InlineData("/a**")]
    [InlineData("/**/")]
    [InlineData("/a//b")]
    [InlineData("/a/%2e%2e/../..")]
    [InlineData("/a?")]
    [InlineData("")]
    public void An_address_that_cannot_be_is_refused(string text) => Address.TryParse(text, out _, out _).ShouldBeFalse();

    [Theory]
    [InlineData("/shop", true)]
    [InlineData("/shop?x=1#top", true)]
    [InlineData("https://evil.example", false)]
    [InlineData("//evil.example", false)]
    [InlineData("/\\evil.example", false)]
    [InlineData("/%5cevil.example", false)]
    [InlineData("/\tx", false)]
    [InlineData("/a//b", false)]
    [InlineData("javascript:alert(1)", false)]
    [InlineData("", false)]
    [InlineData(null, false)]
    [InlineData("/é", false)]
    public void A_visitor_is_led_back_only_to_this_site(string? address, bool good) => ReturnTo.IsOnThisSite(address).ShouldBe(good);

    public static class Targets
    {
        private static readonly string[] Pieces =
            ["/", "/", "a", "B", "..", ".", "%2e", "%2E%2e", "%2f", "%5c", "//", ";", "%", "%25", "é", "%C3%A9", " ", "%20", "?", "q=1", "&", "*", "%c0",
                "\\", "x."];

        public static Arbitrary<string> Any() =>
            Gen.Elements(Pieces).ListOf().Select(parts => "/" + string.Concat(parts)).ToArbitrary();
    }
}
