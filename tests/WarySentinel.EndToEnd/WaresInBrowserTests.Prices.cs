using Microsoft.Playwright;
using Shouldly;
using WarySentinel.Contract.Orders;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>Prices for some, as owner and dealer see them.</summary>
public sealed partial class WaresInBrowserTests
{
    [Fact]
    public async Task A_price_list_and_a_coupon_are_made_reckoned_and_used_up_by_an_order()
    {
        var stop = TestContext.Current.CancellationToken;
        await using var shop = await RunningSite.StartAsync();
        var owner = await NewPageAsync();
        await owner.GotoAsync(shop.Admin + "/prices");
        await owner.GetByLabel("E-mail or user name").FillAsync(RunningSite.Owner);
        await owner.GetByLabel("Password").FillAsync(RunningSite.Password);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Sign in" }).ClickAsync();
        await owner.GetByText("No price lists yet").WaitForAsync();
        await AccessibleAsync(owner);
        var dialog = owner.GetByRole(AriaRole.Dialog);

        async Task ListAsync(string title, string audience, string item, string sort, string value)
        {
            await owner.GetByRole(AriaRole.Button, new() { Name = "Add a price list" }).ClickAsync();
            await dialog.GetByLabel("What it is called").FillAsync(title);
            await dialog.GetByLabel("For", new() { Exact = true }).FillAsync(audience);
            await AccessibleAsync(owner);
            await dialog.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
            await owner.GetByText("No lines yet").WaitForAsync();
            await owner.GetByRole(AriaRole.Button, new() { Name = "Add a line" }).First.ClickAsync();
            await dialog.GetByLabel("Item").FillAsync(item);
            await dialog.GetByLabel("It costs").SelectOptionAsync(sort);
            await dialog.GetByLabel(sort == "off" ? "Percent" : "Price", new() { Exact = true }).FillAsync(value);
            await dialog.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
            await dialog.WaitForAsync(new() { State = WaitForSelectorState.Detached });
            await AccessibleAsync(owner);
            await owner.GotoAsync(shop.Admin + "/prices");
        }

        await ListAsync("Usual", "anyone", "product:fern-25", "price", "119.00");
        await ListAsync("Trade", "role:dealer", "category:eyepieces", "off", "20");

        // A code for dealers; what is wrong with it stands beside its field, and nothing is lost.
        await owner.GetByRole(AriaRole.Button, new() { Name = "Add a coupon" }).ClickAsync();
        await dialog.GetByLabel("Code").FillAsync("LAMP");
        await dialog.GetByLabel("For", new() { Exact = true }).FillAsync("role:deeler");
        await dialog.GetByLabel("Percent", new() { Exact = true }).FillAsync("10");
        await dialog.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await dialog.GetByText("dealer").First.WaitForAsync();
        (await dialog.GetByLabel("Code").InputValueAsync()).ShouldBe("LAMP");
        await dialog.GetByLabel("For", new() { Exact = true }).FillAsync("role:dealer");
        await dialog.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await owner.GetByText("not used yet").WaitForAsync();

        async Task<string> ReckonAsync(string who)
        {
            foreach (var (label, typed) in new[] { ("Who pays", who), ("In the cart", "product:fern-25=2"), ("A code", "lamp") })
            {
                await owner.GetByLabel(label).FillAsync(typed);
            }

            (await owner.GetByLabel("Who pays").InputValueAsync()).ShouldBe(who, "what was typed stays");
            await owner.RunAndWaitForResponseAsync(
                () => owner.GetByRole(AriaRole.Button, new() { Name = "Reckon" }).ClickAsync(), r => r.Url.EndsWith("/quotes", StringComparison.Ordinal));
            await owner.GetByRole(AriaRole.Button, new() { Name = "Reckon", Disabled = false }).WaitForAsync();
            return await owner.Locator("tfoot b").InnerTextAsync();
        }

        // Twice 119 less a fifth, and a tenth of that off.
        (await ReckonAsync("nell@orchard-optics.example")).ShouldBe("171.36 EUR");
        (await ReckonAsync("pia@lanternlane.example")).ShouldBe("238.00 EUR");
        await AccessibleAsync(owner);

        // The dealer finds the code on the account page until an order has used it.
        var dealer = await NewPageAsync();
        await dealer.GotoAsync(shop.Site + "/account/sign-in?return_to=/account/");
        await dealer.Locator("input[name=name]").FillAsync("nell");
        await dealer.Locator("input[name=password]").FillAsync("orchard-quiet-91");
        await dealer.Locator("main form button.prime").First.ClickAsync();
        await dealer.GetByText("LAMP", new() { Exact = true }).WaitForAsync();
        var told = await shop.Client.TellOrderAsync(
            new OrderDraft
            {
                Source = "hand", Order = "D-1", Email = "nell@orchard-optics.example", Lines = [new("FERN", Quantity: 2)], Coupon = "LAMP",
            },
            stop);
        await dealer.ReloadAsync();
        await dealer.GetByText("LAMP", new() { Exact = true }).WaitForAsync(new() { State = WaitForSelectorState.Detached });
        await owner.ReloadAsync();
        await owner.GetByText("used once").WaitForAsync();
        await owner.GotoAsync($"{shop.Admin}/orders/{told.Order.Id}");
        await owner.GetByText("With the coupon").WaitForAsync();
        await AccessibleAsync(owner);
    }
}
