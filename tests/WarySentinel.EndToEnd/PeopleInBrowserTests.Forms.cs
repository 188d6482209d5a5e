using Microsoft.Playwright;
using Shouldly;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>A form of the owner's own: made in the console, filled in by a visitor, asked back, let in.</summary>
public sealed partial class PeopleInBrowserTests
{
    private const int AsLongAsSomebodyTakes = 4_200;

    [Fact]
    public async Task A_form_is_made_beside_its_page_and_asks_by_its_answers()
    {
        var page = await ConsoleAsync("/forms");
        await page.GetByText("No forms yet").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Add a form" }).ClickAsync();
        await page.GetByLabel("Heading", new() { Exact = true }).FillAsync("Trade account");
        await AddFieldAsync(page, "Company", "text");
        await AddFieldAsync(page, "Do you resell?", "yes-no");
        await AddFieldAsync(page, "VAT number", "text", "vat");
        var vat = page.GetByRole(AriaRole.Listitem).Filter(new() { HasText = "VAT number" }).Last;
        await vat.GetByLabel("needed").CheckAsync();
        await vat.GetByText("Always shown").ClickAsync();
        await vat.GetByRole(AriaRole.Button, new() { Name = "Only if …" }).ClickAsync();
        await vat.GetByLabel("Field").SelectOptionAsync(new SelectOptionValue { Label = "Do you resell?" });
        await page.GetByLabel("Who may join", new() { Exact = true }).SelectOptionAsync("approval");
        await page.GetByRole(AriaRole.Button, new() { Name = "Give something" }).ClickAsync();
        await page.GetByLabel("What they get", new() { Exact = true }).SelectOptionAsync("role:dealer");
        await AccessibleAsync(page);

        // The page beside it is the visitor's own, and does as it will.
        var preview = page.FrameLocator("iframe[title='The page as visitors see it']");
        await preview.GetByLabel("Company").WaitForAsync();
        await Assertions.Expect(preview.GetByLabel("VAT number")).ToBeHiddenAsync();
        await preview.GetByLabel("Yes").CheckAsync();
        await Assertions.Expect(preview.GetByLabel("VAT number")).ToBeVisibleAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Move VAT number up" }).ClickAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Save form" }).ClickAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "Trade account" }).WaitForAsync();
        await AccessibleAsync(page);

        var visitor = await NewPageAsync(390);
        await visitor.GotoAsync(site.Site + "/account/register/trade-account");
        await AccessibleAsync(visitor);
        await visitor.GetByLabel("Your name").FillAsync("Orla Vane");
        await visitor.GetByLabel("E-mail address").FillAsync("orla@vane.example");
        await visitor.GetByLabel("Password").FillAsync("brass-rings-and-felt");
        await visitor.GetByLabel("Company").FillAsync("Vane <Optics>");
        await visitor.GetByLabel("Yes").CheckAsync();
        await visitor.GetByLabel("VAT number").FillAsync("PT501964842");
        (await visitor.EvaluateAsync<bool>("document.documentElement.scrollWidth <= innerWidth")).ShouldBeTrue("nothing stands out on a phone");
        await visitor.WaitForTimeoutAsync(AsLongAsSomebodyTakes);
        await visitor.GetByRole(AriaRole.Button, new() { Name = "Ask to join" }).ClickAsync();
        await visitor.GetByText("That is no VAT number").WaitForAsync();
        await AccessibleAsync(visitor);
        await Assertions.Expect(visitor.GetByLabel("Company")).ToHaveValueAsync("Vane <Optics>");
        await Assertions.Expect(visitor.GetByLabel("VAT number")).ToBeFocusedAsync();
        await visitor.GetByLabel("VAT number").FillAsync("PT501964843");
        await visitor.GetByLabel("Password").FillAsync("brass-rings-and-felt");
        await visitor.WaitForTimeoutAsync(AsLongAsSomebodyTakes);
        await visitor.GetByRole(AriaRole.Button, new() { Name = "Ask to join" }).ClickAsync();
        await visitor.GetByText("Look into your mailbox").WaitForAsync();
        await visitor.GotoAsync(site.Site + await LinkToAsync("orla@vane.example"));
        await visitor.GetByRole(AriaRole.Button, new() { Name = "Yes, that is mine" }).ClickAsync();
        await visitor.GetByText("Somebody looks at your request").WaitForAsync();
        letters.Clear();

        await page.GotoAsync(site.Admin + "/requests");
        var request = page.GetByRole(AriaRole.Listitem).Filter(new() { HasText = "orla@vane.example" });
        await request.GetByText("Vane <Optics>").WaitForAsync();
        await Assertions.Expect(request).Not.ToContainTextAsync("scripts");
        await AccessibleAsync(page);
        await request.GetByLabel("Words to them").FillAsync("Is that the whole name?");
        await request.GetByRole(AriaRole.Button, new() { Name = "Ask back" }).ClickAsync();
        await request.GetByText("asked back").WaitForAsync();
        await visitor.GotoAsync(site.Site + await LinkToAsync("orla@vane.example"));
        await visitor.GetByText("Is that the whole name?").WaitForAsync();
        await AccessibleAsync(visitor);
        await visitor.GetByLabel("Company").FillAsync("Vane & Daughters");
        await visitor.GetByRole(AriaRole.Button, new() { Name = "Send answers" }).ClickAsync();
        await visitor.GetByText("Your answers have arrived").WaitForAsync();
        await page.ReloadAsync();
        await request.GetByText("Vane & Daughters").WaitForAsync();
        await request.GetByRole(AriaRole.Button, new() { Name = "Let in" }).ClickAsync();
        await page.GetByText("Nobody waits").WaitForAsync();
        await visitor.GotoAsync(site.Site + "/account/sign-in?return_to=/account/profile");
        await visitor.GetByLabel("E-mail or user name").FillAsync("orla@vane.example");
        await visitor.GetByLabel("Password").FillAsync("brass-rings-and-felt");
        await visitor.Keyboard.PressAsync("Enter");
        await visitor.GetByRole(AriaRole.Heading, new() { Name = "Your profile" }).WaitForAsync();
        await AccessibleAsync(visitor);
        await visitor.GetByLabel("Your name").FillAsync("Orla Vane-Hill");
        await visitor.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await visitor.GetByText("Saved.").WaitForAsync();
        await page.GotoAsync(site.Admin + "/members?search=orla");
        await page.GetByRole(AriaRole.Link, new() { Name = "Orla Vane-Hill" }).ClickAsync();
        await page.GetByText("Vane & Daughters").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Change answers" }).ClickAsync();
        await AccessibleAsync(page);
        await page.GotoAsync(site.Admin + "/forms/trade-account");
        await page.GetByRole(AriaRole.Button, new() { Name = "Remove form" }).ClickAsync();
        await page.GetByText("No forms yet").WaitForAsync();
    }

    private static async Task AddFieldAsync(IPage page, string label, string kind, string? format = null)
    {
        await page.GetByLabel("Add a field …").Last.SelectOptionAsync("+");
        var dialog = page.GetByRole(AriaRole.Dialog);
        await dialog.GetByLabel("Name", new() { Exact = true }).First.FillAsync(label);
        await dialog.GetByLabel("Kind", new() { Exact = true }).SelectOptionAsync(kind);
        if (format is not null)
        {
            await dialog.GetByLabel("Has to be").SelectOptionAsync(format);
        }

        await AccessibleAsync(page);
        await dialog.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = label, Exact = true }).WaitForAsync();
    }
}
