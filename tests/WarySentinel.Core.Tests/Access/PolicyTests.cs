using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Access;

public sealed class PolicyTests
{
    private static readonly Visitor Dealer = Role("dealer");

    [Fact]
    public void Without_a_requirement_everything_is_open() => Policy(Shop()).Opens(Visitor.Guest, "product:gear").ShouldBeTrue();

    [Fact]
    public void A_gate_on_a_category_reaches_everything_beneath_it()
    {
        var policy = Policy(Shop(), Gate("d", "category:dealer"));
        policy.Opens(Visitor.Guest, "product:gear").ShouldBeFalse();
        policy.Opens(Dealer, "product:gear").ShouldBeTrue();
        policy.Opens(Visitor.Guest, "product:moss").ShouldBeTrue();
    }

    [Fact]
    public void With_reach_item_what_is_beneath_stays_open()
    {
        var policy = Policy(Shop(), Gate("d", "category:dealer", itemOnly: true));
        policy.Opens(Visitor.Guest, "category:dealer").ShouldBeFalse();
        policy.Opens(Visitor.Guest, "product:gear").ShouldBeTrue();
    }

    [Fact]
    public void A_product_in_two_categories_is_as_closed_as_the_stricter_one() =>
        Policy(Shop(), Gate("d", "category:dealer")).Opens(Visitor.Guest, "product:barlow").ShouldBeFalse();

    [Fact]
    public void Every_requirement_must_admit()
    {
        var policy = Policy(Shop(), Gate("d", "category:dealer"), Gate("g", "product:gear", "role:guide"));
        policy.Opens(Dealer, "product:gear").ShouldBeFalse();
        policy.Opens(new Visitor { IsSignedIn = true, Grants = [new(FactKind.Role, "dealer"), new(FactKind.Role, "guide")] }, "product:gear").ShouldBeTrue();
    }

    [Fact]
    public void An_exempt_category_frees_what_is_inside_it_but_not_what_also_stands_in_a_guarded_one()
    {
        var items = Shop().Append(Item("category:outlet", ["category:dealer"])).Append(Item("product:cheap", ["category:outlet"]))
            .Append(Item("product:both", ["category:outlet", "category:spares"]));
        var policy = Policy(items, Gate("d", "category:dealer"), Exemption("x", "category:outlet"));
        policy.Opens(Visitor.Guest, "product:cheap").ShouldBeTrue();
        policy.Opens(Visitor.Guest, "category:outlet").ShouldBeTrue();
        policy.Opens(Visitor.Guest, "product:both").ShouldBeFalse();
    }

    [Fact]
    public void An_exemption_with_reach_item_counts_only_where_it_bears()
    {
        var policy = Policy(Shop(), Gate("d", "category:dealer"), Exemption("x", "category:spares", itemOnly: true));
        policy.Opens(Visitor.Guest, "category:spares").ShouldBeTrue();
        policy.Opens(Visitor.Guest, "product:gear").ShouldBeFalse();
    }

    [Fact]
    public void An_exemption_does_not_lift_a_gate_on_the_same_item_or_beneath() =>
        Policy(Shop(), Gate("s", "category:spares"), Exemption("x", "category:spares"), Exemption("y", "category:dealer"))
            .Opens(Visitor.Guest, "product:gear").ShouldBeFalse();

    [Fact]
    public void The_whole_site_can_be_closed_with_exempt_pages_and_paths()
    {
        var policy = Policy(Shop(), Gate("all", "site", "signed-in"), Exemption("m", "product:moss"), Exemption("h", "path:/health/**"));
        policy.Opens(Visitor.Guest, "product:gear").ShouldBeFalse();
        policy.Opens(Visitor.Guest, "product:moss").ShouldBeTrue();
        policy.OpensPath(Visitor.Guest, "/health/probe").ShouldBeTrue();
        policy.OpensPath(Visitor.Guest, "/anything").ShouldBeFalse();
        policy.OpensPath(Visitor.Guest, "/product/moss").ShouldBeTrue();
        policy.OpensPath(Dealer, "/anything").ShouldBeTrue();
    }

    [Fact]
    public void A_path_pattern_reaches_requests_and_items_with_a_matching_address()
    {
        var policy = Policy(Shop(), Gate("p", "path:/product/**"));
        policy.OpensPath(Visitor.Guest, "/product/unknown").ShouldBeFalse();
        policy.Opens(Visitor.Guest, "product:moss").ShouldBeFalse();
        policy.Opens(Visitor.Guest, "category:filters").ShouldBeTrue();
    }

    [Fact]
    public void A_longer_exempt_pattern_lifts_a_path_requirement_and_a_shorter_one_does_not()
    {
        var policy = Policy(Shop(), Gate("p", "path:/members/**"), Exemption("x", "path:/members/calendar"), Exemption("y", "path:/**"));
        policy.OpensPath(Visitor.Guest, "/members/calendar").ShouldBeTrue();
        policy.OpensPath(Visitor.Guest, "/members/other").ShouldBeFalse();
    }

    [Fact]
    public void An_item_whose_address_matches_another_items_pattern_stands_beneath_it() =>
        Policy(Shop(), Gate("m", "section:members", "signed-in")).Opens(Visitor.Guest, "page:calendar").ShouldBeFalse();

    [Fact]
    public void An_address_with_a_query_is_its_own_item_wherever_the_pair_is_present()
    {
        var items = new[] { Item("page:item", null, ["/item"]), Item("product:a", null, ["/item?id=12"]), Item("product:b", null, ["/item?id=13"]) };
        var policy = Policy(items, Gate("a", "product:a"));
        policy.OpensPath(Visitor.Guest, "/item?id=12").ShouldBeFalse();
        policy.OpensPath(Visitor.Guest, "/item?x=1&id=12").ShouldBeFalse();
        policy.OpensPath(Visitor.Guest, "/item?id=%31%32").ShouldBeFalse();
        policy.OpensPath(Visitor.Guest, "/item?ID=12").ShouldBeFalse();
        policy.OpensPath(Visitor.Guest, "/item?id=13&id=12").ShouldBeFalse();
        policy.OpensPath(Visitor.Guest, "/item?id=13").ShouldBeTrue();
        policy.OpensPath(Visitor.Guest, "/item").ShouldBeTrue();
    }

    [Fact]
    public void The_pattern_with_the_longest_literal_prefix_is_the_item_and_equals_must_all_allow()
    {
        var items = new[] { Item("section:a", null, ["/a/**"]), Item("section:ab", null, ["/a/b/**"]), Item("section:ab2", null, ["/a/b/*"]) };
        Policy(items, Gate("a", "section:a")).OpensPath(Visitor.Guest, "/a/b/c").ShouldBeTrue();
        Policy(items, Gate("a", "section:ab2")).OpensPath(Visitor.Guest, "/a/b/c").ShouldBeFalse();
    }

    [Fact]
    public void Dates_start_and_end_a_gate_by_themselves()
    {
        var policy = Policy(Shop(), Gate("d", "product:moss") with { From = Now, Until = Now.AddHours(1) });
        policy.Opens(Visitor.Guest, "product:moss", at: Now.AddTicks(-1)).ShouldBeTrue();
        policy.Opens(Visitor.Guest, "product:moss", at: Now).ShouldBeFalse();
        policy.Opens(Visitor.Guest, "product:moss", at: Now.AddHours(1).AddTicks(-1)).ShouldBeFalse();
        policy.Opens(Visitor.Guest, "product:moss", at: Now.AddHours(1)).ShouldBeTrue();
        policy.Opens(Visitor.Guest, "product:moss", at: Now).ShouldBeFalse();
    }

    [Fact]
    public void A_gate_guards_the_acts_it_names_and_listing_only_where_it_hides()
    {
        var policy = Policy(Shop(), Gate("p", "product:moss") with { Acts = Acts.Price | Acts.Buy }, Gate("h", "product:gear", hidden: true));
        policy.Opens(Visitor.Guest, "product:moss").ShouldBeTrue();
        policy.Opens(Visitor.Guest, "product:moss", Acts.Price).ShouldBeFalse();
        policy.Opens(Visitor.Guest, "product:moss", Acts.List).ShouldBeTrue();
        policy.Opens(Visitor.Guest, "product:gear", Acts.List).ShouldBeFalse();
    }

    [Fact]
    public void Staff_pass_every_gate_unless_that_is_off_and_never_through_a_viewpoint()
    {
        var policy = Policy(Shop(), Gate("n", "site", "nobody"));
        policy.Opens(Role("owner"), "product:moss").ShouldBeTrue();
        policy.Opens(Visitor.With(new Grant(FactKind.Role, "owner")), "product:moss").ShouldBeFalse();
        var strict = Core.Access.Policy.Build(Shop(), policy.Gates, [], new SiteSettings { StaffPasses = false }).Value;
        strict.Opens(Role("editor"), "product:moss").ShouldBeFalse();
    }

    [Fact]
    public void The_gate_on_the_nearest_item_answers_and_ties_go_by_key()
    {
        var policy = Policy(
            Shop(), Gate("z-far", "section:shop", "nobody") with { Answer = Answer.NotFound }, Gate("b-near", "product:gear") with
            { Answer = Answer.Message }, Gate("a-near", "product:gear", "nobody"));
        var refusal = policy.Decide(Visitor.Guest, Id("product:gear"), Acts.Open, Now).Value.Refusal.ShouldNotBeNull();
        refusal.Gate.Key.ShouldBe("a-near");
        policy.Decide(Visitor.Guest, Id("category:spares"), Acts.Open, Now).Value.Refusal!.Answer.ShouldBe(Answer.NotFound);
    }

    [Theory]
    [InlineData("password or role:dealer", false, Answer.Password)]
    [InlineData("password or role:dealer", true, Answer.Password)]
    [InlineData("role:dealer", false, Answer.SignIn)]
    [InlineData("role:dealer", true, Answer.Message)]
    public void Auto_picks_by_who_is_refused_and_what_is_asked(string audience, bool signedIn, Answer expected)
    {
        var visitor = signedIn ? Role("guide") : Visitor.Guest;
        Policy(Shop(), Gate("g", "product:moss", audience)).Decide(visitor, Id("product:moss"), Acts.Open, Now).Value.Refusal!.Answer.ShouldBe(expected);
    }

    [Fact]
    public void An_item_that_is_not_there_is_allowed_to_nobody()
    {
        Policy(Shop()).Opens(Visitor.Guest, "product:none").ShouldBeFalse();
        Policy(Shop()).Decide(Visitor.Guest, Id("product:none"), Acts.Open, Now).Problem!.Code.ShouldBe("item-unknown");
    }

    [Fact]
    public void Why_reads_like_an_explanation()
    {
        var policy = Policy(Shop(), Gate("d", "category:dealer", hidden: true));
        var decision = policy.Decide(Visitor.Guest, Id("product:barlow"), Acts.Open, Now).Value;
        var why = Explanation.Of(policy, decision, Visitor.Guest, "A guest", "Barlow", Acts.Open, Now);
        why.Headline.ShouldBe("A guest may not open Barlow, and doesn’t see it listed.");
        why.Steps.ShouldHaveSingleItem().Way.ShouldBe("reaches Barlow by way of Title of category:spares › Title of category:dealer");
        why.Opens.ShouldContain(line => line.Contains("dealers", StringComparison.Ordinal));
        why.Meets.ShouldBe("Not listed. At its address: the sign-in page, then back here.");
    }

    [Fact]
    public void A_lifted_gate_is_told_with_the_exemption_that_lifts_it()
    {
        var policy = Policy(Shop(), Gate("d", "category:dealer"), Exemption("free", "product:gear"));
        var decision = policy.Decide(Visitor.Guest, Id("product:gear"), Acts.Open, Now).Value;
        Explanation.Of(policy, decision, Visitor.Guest, "A guest", "Gear", Acts.Open, Now).Steps.ShouldContain(
            s => s.Way.Contains("Gate free", StringComparison.Ordinal));
    }

    [Fact]
    public void The_board_says_in_part_where_something_beneath_differs()
    {
        var policy = Policy(Shop(), Gate("d", "category:dealer", hidden: true));
        var viewpoints = Viewpoint.All(policy);
        var cells = Board.Cells(policy, viewpoints, [.. Enumerable.Range(0, policy.Graph.Items.Count)], Now);
        BoardCell Cell(string viewpoint, string item) => cells[viewpoints.ToList().FindIndex(v => v.Key == viewpoint)][policy.Graph.PlaceOf(Id(item))];
        Cell("guest", "section:shop").ShouldBe(new BoardCell(Sight.Open, true));
        Cell("guest", "category:dealer").ShouldBe(new BoardCell(Sight.Hidden, false));
        Cell("role:dealer", "section:shop").ShouldBe(new BoardCell(Sight.Open, false));
    }

    [Fact]
    public void The_effect_counts_items_and_members_and_names_what_closes_elsewhere()
    {
        var before = Policy(Shop());
        var after = before.With([Gate("d", "category:dealer", hidden: true)]);
        var effect = Effect.Between(before, after, [new FactSet(Dealer, 43, ["Nell"]), new FactSet(new Visitor { IsSignedIn = true }, 1241, ["Pia", "Ada"])],
            Now);
        effect.ItemsClosing.ShouldBe(4);
        effect.MembersLosing.ShouldBe(1241);
        effect.MembersKeeping.ShouldBe(43);
        effect.LosingNames.Concat(effect.GainingNames).ShouldBe(["Ada", "Pia"]);
        effect.Elsewhere.ShouldHaveSingleItem().Id.ShouldBe(Id("product:barlow"));
        var row = effect.Rows.First(r => r.Item.Id == Id("category:dealer"));
        row.AlsoBeneath.ShouldBe(3);
        row.ForWhom.ShouldContain("Guest");
        (row.Before, row.After).ShouldBe((Sight.Open, Sight.Hidden));
    }
}
