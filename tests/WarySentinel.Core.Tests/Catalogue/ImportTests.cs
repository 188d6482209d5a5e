using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Core.Tests.Catalogue;

public sealed class ImportTests
{
    private static ItemDraft Row(int line, string id, string parents = "", string address = "") =>
        new(id, "Title", parents.Length == 0 ? [] : parents.Split('|'), address.Length == 0 ? [] : [address], line);

    private static ImportResult Import(bool keepGood, params ItemDraft[] rows) =>
        ItemCommands.Import(Scene.Policy(Scene.Shop()).Graph, rows, [], keepGood, Scene.Reserved).Result;

    [Fact]
    public void Good_rows_are_added_changed_or_the_same()
    {
        var result = Import(false, Row(2, "product:new", "category:filters"), Row(3, "category:filters", "section:shop", "/shop/filters"),
            new ItemDraft("product:moss", "Title of product:moss", ["category:filters"], ["/product/moss"], 4));
        (result.Added, result.Changed, result.Same, result.Stored).ShouldBe((1, 1, 1, true));
    }

    [Fact]
    public void Nothing_is_stored_unless_all_is_well()
    {
        var result = Import(false, Row(2, "product:new"), Row(3, "produkt:x"));
        result.Stored.ShouldBeFalse();
        var fault = result.Faults.ShouldHaveSingleItem();
        (fault.Line, fault.Column).ShouldBe((3, 1));
    }

    [Fact]
    public void Keeping_the_good_leaves_out_the_bad_and_what_stands_on_them()
    {
        var result = Import(true, Row(2, "product:good"), Row(3, "category:bad", "category:missing"), Row(4, "product:orphan", "category:bad"));
        (result.Added, result.FaultyRows, result.Stored).ShouldBe((1, 2, true));
        result.Faults.Select(f => f.Line).ShouldBe([3, 4]);
    }

    [Fact]
    public void A_duplicate_names_the_first_line()
    {
        var fault = Import(false, Row(2, "product:x"), Row(7, "product:x")).Faults.ShouldHaveSingleItem();
        fault.Line.ShouldBe(7);
        fault.Message.ToString().ShouldContain("line 2");
    }

    [Fact]
    public void A_ring_is_one_fault_however_long_and_the_rest_can_be_kept()
    {
        ItemDraft[] ring = [.. Enumerable.Range(0, 12).Select(n => Row(n + 2, "category:r" + n, "category:r" + ((n + 1) % 12)))];
        ItemDraft[] beneath = [.. Enumerable.Range(0, 21).Select(n => Row(n + 14, "page:b" + n, "category:r" + (n % 12)))];
        var result = Import(true, [.. ring, .. beneath, Row(40, "page:fine")]);
        result.Added.ShouldBe(1);
        result.FaultyRows.ShouldBe(33);
        var fault = result.Faults.ShouldHaveSingleItem();
        fault.Line.ShouldBe(2);
        fault.Message.ToString().ShouldContain("category:r0 → category:r1 → ");
        fault.Message.ToString().ShouldContain("21 more rows stand beneath it");
    }

    [Fact]
    public void The_site_as_a_parent_beside_others_is_kept_as_it_is_written()
    {
        var (_, edit) = ItemCommands.Import(
            Scene.Policy(Scene.Shop()).Graph, [new ItemDraft("page:both", "Both", ["site", "section:members"], null)], [], false, Scene.Reserved);
        var policy = Scene.Policy(Scene.Shop(), Scene.Gate("g", "site"), Scene.Exemption("e", "section:members")).After(edit!);
        policy.Graph.Find(Scene.Id("page:both"))!.Parents.ShouldBe([ItemId.Site, Scene.Id("section:members")]);
        policy.Opens(Visitor.Guest, "page:both").ShouldBeFalse();
        ItemDraft.Of(policy.Graph.Find(Scene.Id("page:both"))!).Parents.ShouldBe(["site", "section:members"]);
    }

    [Theory]
    [InlineData("line\u0001")]
    [InlineData("gro\u202eup")]
    [InlineData("\u2066isolated")]
    public void A_title_that_looks_like_another_is_refused(string title)
    {
        PlainText.IsClean(title).ShouldBeFalse();
        var faults = new List<Fault>();
        new ItemDraft("page:a", title, null, null).Read([], faults).ShouldBeNull();
        faults.ShouldHaveSingleItem().Field.ShouldBe("title");
        new GateDraft { Key = "g", Title = title, Covers = ["site"], Audience = "anyone" }.Read(
            Policy.Empty, new KnownKeys(Policy.Empty, _ => false), []).Problem!.Faults.ShouldContain(f => f.Field == "title");
        FactCommands.Add(Policy.Empty, FactKind.Role, new FactDraft("r", title), null).Problem.ShouldNotBeNull();
        MemberCommands.Read(Policy.Empty, new MemberDraft
        { Email = "a@b.example", Name = title }, Guid.NewGuid(), Scene.Now).Problem!.Faults.ShouldContain(f => f.Field == "name");
    }

    [Theory]
    [InlineData("Ångström ✓ 🔭")]
    [InlineData("מצפה כוכבים")]
    public void Words_of_any_language_are_welcome(string title)
    {
        PlainText.IsClean(title).ShouldBeTrue();
        PlainText.IsClean(title + '\ud83c').ShouldBeFalse();
        PlainText.IsClean(title + '\udd2d').ShouldBeFalse();
    }

    [Fact]
    public void A_ring_that_runs_through_what_is_stored_is_found()
    {
        var result = Import(false, Row(2, "category:dealer", "category:spares"));
        result.Stored.ShouldBeFalse();
        result.Faults.ShouldHaveSingleItem().Line.ShouldBe(2);
    }

    [Fact]
    public void Our_own_addresses_belong_to_no_item() =>
        Import(false, Row(2, "page:x", "", "/account/sign-in")).Faults.ShouldHaveSingleItem().Column.ShouldBe(4);

    [Fact]
    public void Faults_are_bounded() =>
        Import(false, [.. Enumerable.Range(2, 1000).Select(n => Row(n, "bad id " + n))]).Faults.Count.ShouldBe(ItemCommands.MostFaults);

    [Fact]
    public void Importing_the_same_again_changes_nothing()
    {
        var policy = Scene.Policy(Scene.Shop());
        var rows = policy.Graph.Items.Skip(1).Select((item, n) => ItemDraft.Of(item) with { Line = n + 2 }).ToList();
        var (result, edit) = ItemCommands.Import(policy.Graph, rows, [], false, Scene.Reserved);
        result.Same.ShouldBe(rows.Count);
        edit.ShouldBeNull();
    }

    [Theory]
    [InlineData("Dealer stock", "dealer-stock")]
    [InlineData("Guides’ handbook", "guides-handbook")]
    [InlineData("Crème brûlée!", "creme-brulee")]
    [InlineData("  ", "")]
    public void Keys_are_made_from_titles(string title, string key) => Slug.Of(title).ShouldBe(key);

    [Fact]
    public void An_item_in_use_is_not_removed()
    {
        var policy = Scene.Policy(Scene.Shop(), Scene.Gate("g", "product:moss"));
        ItemCommands.Remove(policy.Graph, Scene.Id("category:spares"), null, policy.GateNaming).Problem!.Code.ShouldBe("item-has-children");
        ItemCommands.Remove(policy.Graph, Scene.Id("product:moss"), null, policy.GateNaming).Problem!.Code.ShouldBe("item-in-gate");
        ItemCommands.Remove(policy.Graph, Scene.Id("product:gear"), null, policy.GateNaming).IsGood.ShouldBeTrue();
    }
}
