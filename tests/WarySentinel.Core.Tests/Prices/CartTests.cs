using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Prices;
using Xunit;
using static WarySentinel.Core.Tests.Scene;

namespace WarySentinel.Core.Tests.Prices;

/// <summary>What does not go into a cart, in however many spellings.</summary>
public sealed class CartTests
{
    private static readonly Policy Site = Policy(
        [Item("category:dealer"), Item("product:gear-7", ["category:dealer"], ["/item?id=7"]), Item("product:moss", null, ["/item?id=8"])],
        Gate("dealer", "category:dealer") with { Acts = Acts.Buy });

    private static Cart Cart(string item = "product:{value}", string? unknown = null, params string[] fields) => CartCommands.Put(
        Site, new CartDraft { Key = "shop", At = ["/cart/add"], Fields = fields.Length > 0 ? fields : ["sku"], Item = item, Unknown = unknown }, null)
        .Value.Value;

    [Theory]
    [InlineData("gear-7", "dealer")]
    [InlineData("GEAR-7", "dealer")]
    [InlineData(" gear-7\t", "dealer")]
    [InlineData("moss", null)]
    [InlineData("gear-7\0", "?")]
    [InlineData("gear-7,moss", "?")]
    [InlineData("gear%2D7", "?")]
    [InlineData("gear‑7", "?")]
    [InlineData("", "?")]
    [InlineData("nothing", "?")]
    public void A_value_stands_for_an_item_or_is_refused(string value, string? by) => Said(Cart(), value).ShouldBe(by);

    [Theory]
    [InlineData("7", "dealer")]
    [InlineData("8", null)]
    [InlineData("07", "?")]
    [InlineData("7abc", "?")]
    [InlineData("+7", "?")]
    [InlineData("8&id=7", "?")]
    [InlineData("8#", "?")]
    public void A_value_can_stand_for_an_address(string value, string? by) => Said(Cart("/item?id={value}"), value).ShouldBe(by);

    [Fact]
    public void What_is_unknown_passes_where_the_owner_says_so() => Said(Cart(unknown: "pass"), "nothing").ShouldBeNull();

    private static string? Said(Cart cart, string value)
    {
        cart.WhyNot(Site, Role("dealer"), value, Now).ShouldBe(Said(cart, Visitor.Guest, value) == "?" ? cart.WhyNot(Site, Visitor.Guest, value, Now) : null);
        return Said(cart, Visitor.Guest, value);
    }

    private static string? Said(Cart cart, Visitor visitor, string value) =>
        cart.WhyNot(Site, visitor, value, Now) is not { } refusal ? null : refusal.Decision?.Refusal?.Gate.Key ?? "?";

    [Theory]
    [InlineData("sku", "sku", true)]
    [InlineData("sku", "SKU", true)]
    [InlineData("sku", " sku", true)]
    [InlineData("sku", "sku[]", true)]
    [InlineData("sku", "sku[0]", true)]
    [InlineData("sku", "skus", false)]
    [InlineData("lines[*][sku]", "lines[12][sku]", true)]
    [InlineData("lines[*][sku]", "lines[12][quantity]", false)]
    [InlineData("item.id", "item_id", true)]
    [InlineData("item id", "item.id", true)]
    public void A_field_is_met_by_any_spelling_that_frameworks_read(string wanted, string sent, bool meets) =>
        Cart(fields: wanted).Names(sent).ShouldBe(meets);

    [Fact]
    public void Bad_carts_are_told_field_by_field() => CartCommands.Put(
            Site, new CartDraft { Key = "A B", At = ["cart"], Fields = ["*"], Item = "product:{value}{value}", Unknown = "maybe" }, null)
        .Problem!.Faults.Select(f => f.Field).ShouldBe(["key", "at[0]", "fields", "item", "unknown"]);
}
