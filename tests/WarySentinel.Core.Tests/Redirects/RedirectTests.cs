using System.Net;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Redirects;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Redirects;

public sealed class RedirectTests
{
    [Fact]
    public void The_first_that_admits_counts()
    {
        var policy = Put(Put(Put(Policy(Shop()), "all", "sign-in", "signed-in", "/home", 50), "dealers", "sign-in", "role:dealer", "/stock", 10), "bye",
            "sign-out", "anyone", "/bye", 1);
        Land(policy, RedirectOn.SignIn, Role("dealer")).ShouldBe("/stock");
        Land(policy, RedirectOn.SignIn, Role("guide")).ShouldBe("/home");
        Land(policy, RedirectOn.SignIn, Visitor.Guest).ShouldBeNull();
        Land(policy, RedirectOn.SignOut, Visitor.Guest).ShouldBe("/bye");
        var without = policy.After(RedirectCommands.Remove(policy, "dealers").Value.ToStore);
        Land(without, RedirectOn.SignIn, Role("dealer")).ShouldBe("/home");
    }

    [Theory]
    [InlineData("k", "sign-in", "role:dealer", "https://evil.example", "to")]
    [InlineData("k", "lunch", "role:dealer", "/x", "on")]
    [InlineData("K!", "sign-in", "role:dealer", "/x", "key")]
    [InlineData("k", "sign-in", "role:nobody-knows", "/x", "audience")]
    public void A_fault_is_told_beside_its_field(string key, string on, string audience, string to, string field)
    {
        var policy = Policy(Shop());
        RedirectCommands.Put(policy, new RedirectDraft(key, on, audience, to), Around(policy)).Problem!.Faults.ShouldContain(
            f => f.Field == field);
    }

    [Theory]
    [InlineData("crawl.search.example", true)]
    [InlineData("a1.crawl.search.example.", true)]
    [InlineData("evilcrawl.search.example", false)]
    [InlineData("crawl.search.example.evil.example", false)]
    public void A_crawler_owns_its_host_names_and_those_beneath(string host, bool owns) =>
        new WelcomeCrawler("searchbot", ["crawl.search.example"], []).Owns(host).ShouldBe(owns);

    [Fact]
    public void A_crawler_owns_its_ranges()
    {
        var crawler = new WelcomeCrawler("searchbot", [], ["192.0.2.0/24", "2001:db8::/32"]);
        crawler.Contains(IPAddress.Parse("192.0.2.9")).ShouldBeTrue();
        crawler.Contains(IPAddress.Parse("::ffff:192.0.2.9")).ShouldBeTrue();
        crawler.Contains(IPAddress.Parse("2001:db8::1")).ShouldBeTrue();
        crawler.Contains(IPAddress.Parse("192.0.3.9")).ShouldBeFalse();
    }

    [Fact]
    public void Where_a_gate_does_not_say_the_site_says_what_is_listed()
    {
        var gate = Gate("g", "category:filters") with { PresenceBySite = true };
        var listed = Policy(Shop(), gate);
        listed.Allows(Visitor.Guest, Id("category:filters"), Acts.List, Now).ShouldBeTrue();
        var hidden = listed.After(new Edit("x", "x", [new SettingsPut(new SiteSettings { Presence = Presence.Hidden })]));
        hidden.Allows(Visitor.Guest, Id("category:filters"), Acts.List, Now).ShouldBeFalse();
        GateDraft.Of(hidden.Gates[0]).Presence.ShouldBe("default");
    }

    [Fact]
    public void Whom_a_gate_lets_in_lands_at_its_first_open_address()
    {
        var policy = Policy(Shop(), Gate("f", "category:filters", "password"), Gate("p", "path:/members/**", "password"), Gate("d", "tag:none", "password"));
        Visitor Opened(string gate) => Visitor.Guest.Having([new Unlock(gate, Now.AddDays(1))]);
        Landing.Of(policy, policy.FindGate("f")!, Opened("f"), Now).ShouldBe("/shop/filters");
        Landing.Of(policy, policy.FindGate("p")!, Opened("p"), Now).ShouldBe("/members");
        Landing.Of(policy, policy.FindGate("f")!, Visitor.Guest, Now).ShouldBeNull();
        Landing.Of(policy, policy.FindGate("d")!, Opened("d"), Now).ShouldBeNull();
    }

    private static RedirectSurroundings Around(Policy policy) => new(new KnownKeys(policy, _ => false), Reserved, Now);

    private static string? Land(Policy policy, RedirectOn on, Visitor visitor) => Destination.Of(policy, new Lander(on, visitor), Now).To;

    private static Policy Put(Policy policy, string key, string on, string audience, string to, int position) =>
        policy.After(RedirectCommands.Put(policy, new RedirectDraft(key, on, audience, to, position), Around(policy)).Value.ToStore);
}
