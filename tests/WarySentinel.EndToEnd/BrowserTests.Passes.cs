using Microsoft.Playwright;
using Shouldly;
using WarySentinel.Contract.Facts;
using WarySentinel.Contract.Gates;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>A pass, as owner and holder see it.</summary>
public sealed partial class BrowserTests
{
    [Fact]
    public async Task A_pass_is_made_told_once_used_on_the_page_of_everybody_and_withdrawn()
    {
        var stop = TestContext.Current.CancellationToken;
        await using var shop = await RunningSite.StartAsync();
        await shop.Client.AddFactDefinitionAsync("pass-kinds", new FactDefinitionDraft("frames", "Calibration frames"), stop);
        await shop.Client.AddGateAsync(
            new GateDraft { Key = "frames", Title = "Frames", Covers = ["category:filters"], Audience = "pass:frames", Basic = "tools" }, stop);
        var owner = await NewPageAsync();
        await owner.GotoAsync(shop.Admin + "/passes");
        await owner.GetByLabel("E-mail or user name").FillAsync(RunningSite.Owner);
        await owner.GetByLabel("Password").FillAsync(RunningSite.Password);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Sign in" }).ClickAsync();
        await owner.GetByText("No passes yet").WaitForAsync();
        await AccessibleAsync(owner);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Make a pass" }).ClickAsync();
        await owner.GetByLabel("For", new() { Exact = true }).FillAsync("Heather School");
        await owner.GetByLabel("Name", new() { Exact = true }).FillAsync("a b");
        await owner.GetByRole(AriaRole.Button, new() { Name = "Make it" }).ClickAsync();
        await owner.GetByText("A sign-in name has 3 to").WaitForAsync();
        await owner.GetByLabel("Name", new() { Exact = true }).FillAsync("heather");
        await AccessibleAsync(owner);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Make it" }).ClickAsync();
        var told = owner.Locator(".told code");
        await told.First.WaitForAsync();
        var password = await told.Last.InnerTextAsync();
        await AccessibleAsync(owner);
        await owner.GetByRole(AriaRole.Button, new() { Name = "I have noted it" }).ClickAsync();

        // A browser is led to the page of everybody, and meets no box of its own.
        var holder = await NewPageAsync();
        (await holder.GotoAsync(shop.Site + "/shop/filters"))!.Headers["www-authenticate"].ShouldStartWith("Cookie");
        await holder.GetByLabel("E-mail or user name").FillAsync("Heather");
        await holder.GetByLabel("Password", new() { Exact = true }).FillAsync(password);
        await holder.Locator("main form button.prime").First.ClickAsync();
        await holder.WaitForURLAsync(shop.Site + "/shop/filters");
        (await holder.GotoAsync(shop.Site + "/account/"))!.Status.ShouldBe(200);
        await holder.GetByText("You are in with a pass").WaitForAsync();
        await AccessibleAsync(holder);

        await owner.ReloadAsync();
        await owner.GetByRole(AriaRole.Button, new() { Name = "Heather School" }).ClickAsync();
        await AccessibleAsync(owner);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Withdraw" }).ClickAsync();
        await owner.Locator("tbody .state", new() { HasText = "Withdrawn" }).WaitForAsync();
        (await holder.GotoAsync(shop.Site + "/shop/filters"))!.Status.ShouldBe(401);
    }
}
