using Microsoft.Playwright;
using Shouldly;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>What one entry is, taught in the console with the page beside it; a visitor sees the page without it.</summary>
public sealed partial class BrowserTests
{
    [Fact]
    public async Task An_entry_is_taught_with_its_page_beside_it_and_goes_for_whoever_may_not_see_it()
    {
        var page = await ConsoleAsync("/entries");
        await page.GetByText("Nothing taught yet").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Teach an entry" }).ClickAsync();
        await page.GetByLabel("Address to look at").FillAsync("/lookbook");
        await page.GetByRole(AriaRole.Button, new() { Name = "Look", Exact = true }).ClickAsync();
        await page.GetByRole(AriaRole.Radio, new() { Name = "div.piece" }).CheckAsync();
        var beside = page.FrameLocator("iframe[title='The page, with its entries marked']");
        await beside.Locator("[data-wary-entry=goes]").First.WaitForAsync();
        (await beside.Locator("[data-wary-entry=stays]").CountAsync()).ShouldBeGreaterThan(10);
        await AccessibleAsync(page);
        await page.GetByLabel("One entry is", new() { Exact = true }).FillAsync("div.piece + div");
        await page.GetByRole(AriaRole.Button, new() { Name = "Keep the rule" }).ClickAsync();
        await page.Locator("#entry-entry-bad").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByLabel("One entry is", new() { Exact = true }).FillAsync("div.piece");
        await page.GetByRole(AriaRole.Button, new() { Name = "Keep the rule" }).ClickAsync();
        await page.GetByText("At /lookbook, one entry is").WaitForAsync();
        await AccessibleAsync(page);
        await page.SetViewportSizeAsync(390, 800);
        await page.GetByText("At /lookbook, one entry is").ClickAsync();
        await beside.Locator("[data-wary-entry=goes]").First.WaitForAsync();
        (await page.EvaluateAsync<bool>("document.documentElement.scrollWidth <= innerWidth")).ShouldBeTrue("nothing stands out on a phone");

        var guest = await NewPageAsync();
        await guest.GotoAsync(site.Site + "/lookbook");
        (await guest.GetByText("Case of 6").CountAsync()).ShouldBe(0);
        (await guest.GetByText("Fern 25 mm").CountAsync()).ShouldBeGreaterThan(0);
        await page.GetByRole(AriaRole.Button, new() { Name = "Remove" }).ClickAsync();
        await page.GetByText("Nothing taught yet").WaitForAsync();
        await guest.ReloadAsync();
        (await guest.GetByText("Case of 6").CountAsync()).ShouldBeGreaterThan(0);
    }
}
