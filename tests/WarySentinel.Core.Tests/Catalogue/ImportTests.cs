using Shouldly;
using WarySentinel.Core.Catalogue;
using Xunit;

namespace WarySentinel.Core.Tests.Catalogue;

public sealed class ImportTests
{
    private static ItemDraft Row(int line, string id, string parents = "", string address = "") =>
        new(id, "Title", parents.Length == 0 ? [] : parents.Split('|'), address.Length == 0 ? [] : [address], line);

    private static ImportResult Import(bool keepGood, params ItemDraft[] rows) => ItemCommands.Import(Scene.Policy(Scene.Shop()), rows, [], keepGood, Scene.Reserved).Result;

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
        fault.Message.ShouldContain("line 2");
    }

    [Fact]
    public void A_ring_is_named_on_each_of_its_rows_and_the_rest_can_be_kept()
    {
        var result = Import(true, Row(2, "category:a", "category:b"), Row(3, "category:b", "category:a"), Row(4, "page:fine"));
        result.Added.ShouldBe(1);
        result.Faults.Select(f => f.Line).ShouldBe([2, 3]);
        result.Faults.ShouldAllBe(f => f.Message.Contains('→', StringComparison.Ordinal));
    }

    [Fact]
    public void A_ring_that_runs_through_what_is_stored_is_found()
    {
        var result = Import(false, Row(2, "category:dealer", "category:spares"));
        result.Stored.ShouldBeFalse();
        result.Faults.ShouldHaveSingleItem().Line.ShouldBe(2);
    }

    [Fact]
    public void Our_own_addresses_belong_to_no_item() => Import(false, Row(2, "page:x", "", "/account/sign-in")).Faults.ShouldHaveSingleItem().Column.ShouldBe(4);

    [Fact]
    public void Faults_are_bounded() =>
        Import(false, [.. Enumerable.Range(2, 1000).Select(n => Row(n, "bad id " + n))]).Faults.Count.ShouldBe(ItemCommands.MostFaults);

    [Fact]
    public void Importing_the_same_again_changes_nothing()
    {
        var policy = Scene.Policy(Scene.Shop());
        var rows = policy.Graph.Items.Skip(1).Select((item, n) => ItemDraft.Of(item) with { Line = n + 2 }).ToList();
        var (result, edit) = ItemCommands.Import(policy, rows, [], false, Scene.Reserved);
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
        ItemCommands.Remove(policy, Scene.Id("category:spares"), null).Problem!.Code.ShouldBe("item-has-children");
        ItemCommands.Remove(policy, Scene.Id("product:moss"), null).Problem!.Code.ShouldBe("item-in-gate");
        ItemCommands.Remove(policy, Scene.Id("product:gear"), null).IsGood.ShouldBeTrue();
    }
}
