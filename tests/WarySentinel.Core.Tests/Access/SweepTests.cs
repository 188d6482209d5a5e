using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Sweep;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Access;

public sealed class SweepTests
{
    private static readonly HashSet<string> Hosts = ["www.fern.example"];
    private static readonly Policy Site = Policy(Shop(), Gate("d", "category:dealer", hidden: true), Gate("f", "category:filters", "role:guide"));
    private static readonly Visitor Guest = new() { IsViewpoint = true };
    private static readonly Visitor Dealer = Visitor.With(new Grant(FactKind.Role, "dealer"));

    [Fact]
    public void Every_literal_address_is_asked_for_and_guarded_ones_first()
    {
        var (targets, left) = SweepRules.Targets(Site, Now, 4);
        targets.ShouldAllBe(t => t.Guarded || t.Address == "/" || t.Address == "/sitemap.xml");
        (targets.Count, left > 0).ShouldBe((4, true));
        SweepRules.Targets(Site, Now, 1000).Targets.Select(t => t.Address).ShouldContain("/members/calendar");
        SweepRules.Targets(Site, Now, 1000).Targets.ShouldAllBe(t => !t.Address.Contains('*'));
    }

    [Theory]
    [InlineData("/shop/dealer", 200, SweepVia.Public, SweepKind.Reachable)]
    [InlineData("/shop/dealer", 200, SweepVia.Cache, SweepKind.Reachable)]
    [InlineData("/shop/dealer", 200, SweepVia.Origin, SweepKind.Around)]
    [InlineData("/shop/dealer", 401, SweepVia.Public, null)]
    [InlineData("/shop/dealer", 404, SweepVia.Public, null)]
    [InlineData("/shop/dealer", 0, SweepVia.Public, null)]
    [InlineData("/shop", 200, SweepVia.Public, null)]
    [InlineData("/shop", 403, SweepVia.Public, SweepKind.Closed)]
    [InlineData("/shop", 404, SweepVia.Public, SweepKind.Missing)]
    [InlineData("/shop", 502, SweepVia.Public, SweepKind.Missing)]
    [InlineData("/shop", 404, SweepVia.Origin, null)]
    public void A_status_is_compared_with_what_the_policy_says(string address, int status, SweepVia via, SweepKind? kind)
    {
        var found = Judge(Guest, address, via, new Sighting(status, "private, no-store")).ToList();
        (found.Count == 0 ? (SweepKind?)null : found.Single().Kind).ShouldBe(kind);
        found.ShouldAllBe(f => f.What.Length > 0 && f.Mend.Length > 0 && f.IsLeak == (kind != SweepKind.Closed && kind != SweepKind.Missing));
    }

    [Fact]
    public void A_page_sent_to_the_sign_in_page_is_closed()
    {
        Judge(Guest, "/shop", SweepVia.Public, new Sighting(303, Location: "/account/sign-in")).Single().Kind.ShouldBe(SweepKind.Closed);
        Judge(Guest, "/shop", SweepVia.Public, new Sighting(302, Location: "/shop/")).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("", true)]
    [InlineData("max-age=60", true)]
    [InlineData("private, max-age=60", false)]
    [InlineData("No-Store", false)]
    public void A_guarded_answer_that_caches_may_keep_is_a_leak(string control, bool leak) =>
        Judge(Dealer, "/shop/dealer", SweepVia.Public, new Sighting(200, control)).Any(f => f.Kind == SweepKind.Cacheable).ShouldBe(leak);

    [Theory]
    [InlineData("<a href=\"/product/gear\">", true)]
    [InlineData("<a href='https://www.fern.example/product/gear#x'>", true)]
    [InlineData("{\"u\":\"\\/product\\/gear\"}", true)]
    [InlineData("{\"u\":\"\\u002Fproduct\"}", false)]
    [InlineData("<loc>https://www.fern.example/product/gear</loc>", true)]
    [InlineData("<loc>https://other.example/product/gear</loc>", false)]
    [InlineData("<a href=/product/moss>", false)]
    [InlineData("see /product/gear there", true)]
    [InlineData("<a href=\"/sentinel/view?return_to=/x\">", false)]
    public void A_text_that_names_what_is_hidden_is_a_leak(string text, bool leak)
    {
        var found = Judge(Guest, "/shop", SweepVia.Public, new Sighting(200, "", null, text)).ToList();
        found.Any(f => f.Kind == SweepKind.Listed).ShouldBe(leak);
        Judge(Dealer, "/shop", SweepVia.Public, new Sighting(200, "", null, text)).ShouldBeEmpty();
    }

    [Fact]
    public void Addresses_that_the_catalogue_does_not_know_are_looked_at_too()
    {
        const string page =
            "<link rel=alternate href='/products.json'><a href='/cart'><img src='/x.png'><a href='/search?q=x'><a href='/shop'><a href='/account/sign-in'>";
        SweepRules.Unknown(Site, page, "/", Hosts, Reserved).ShouldBe(["/products.json", "/cart"]);
    }

    private static IEnumerable<SweepFinding> Judge(Visitor visitor, string address, SweepVia via, Sighting seen) =>
        SweepRules.Judge(Site, visitor, "x", new SweepTarget(address, null, true), via, seen, Hosts, Reserved, Now);
}
