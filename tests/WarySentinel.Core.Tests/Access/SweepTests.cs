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

    [Theory]
    [InlineData("<link rel=alternate href='/products.json'><img src='/x.png'><a href=\"../cart?a=1#top\">", "/shop/a/b", "/products.json /shop/cart?a=1")]
    [InlineData("<a href=page.html><script src=app.js></script><a href=https://other.example/x><a href=#x>", "/docs/", "/docs/page.html /docs/app.js")]
    [InlineData("fetch('/api/list'); load(\"data/all.json\"); var a = `/x/y`", "/js/app.js", "/api/list /js/data/all.json /x/y")]
    [InlineData("//# sourceMappingURL=app.js.map", "/js/app.js", "/js/app.js.map")]
    [InlineData("<loc>https://www.fern.example/far</loc>", "/sitemap.xml", "/far")]
    [InlineData("{\"url\":\"https:\\/\\/www.fern.example\\/deep\\/one\"}", "/x.json", "/deep/one")]
    public void An_outsider_goes_on_by_whatever_a_text_names(string text, string page, string to) =>
        SweepLinks.From(text, page, Hosts).ShouldBe(to.Split(' '));

    private static IEnumerable<SweepFinding> Judge(Visitor visitor, string address, SweepVia via, Sighting seen) =>
        SweepRules.Judge(Site, visitor, "x", new SweepTarget(address, null, true), via, seen, Hosts, Reserved, Now);
}
