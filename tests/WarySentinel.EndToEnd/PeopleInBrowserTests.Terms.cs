using Microsoft.Playwright;
using Shouldly;
using WarySentinel.Contract.People;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>Terms published in the console, agreed to and refused by a member; the directory set up, and a member in it.</summary>
public sealed partial class PeopleInBrowserTests
{
    [Fact]
    public async Task Terms_are_published_beside_their_page_agreed_to_and_a_member_shows_themselves()
    {
        await site.Client.AddMemberAsync(
            "fern@hollow.example", "Fern Hollow", null, "brass-rings-and-felt", [], [], [], TestContext.Current.CancellationToken);
        var page = await ConsoleAsync("/terms");
        await page.GetByText("No terms yet").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Add terms" }).ClickAsync();
        await page.GetByLabel("Heading", new() { Exact = true }).FillAsync("Rules of the hill");
        await page.GetByLabel("Text", new() { Exact = true }).FillAsync("Keep it *dark*.\n\n| When | What |\n|---|---|\n| Night | No lamps |");
        await page.GetByLabel("Asked of", new() { Exact = true }).FillAsync("member:fern@hollow.example");
        var preview = page.FrameLocator("iframe[title='The page as visitors read it']");
        await preview.GetByRole(AriaRole.Cell, new() { Name = "No lamps" }).WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Publish version 1" }).ClickAsync();
        await page.GetByText("0 agreed, 0 did not").WaitForAsync();
        await AccessibleAsync(page);

        var member = await NewPageAsync(390);
        await SignInAsFernAsync(member);
        await member.GetByRole(AriaRole.Heading, new() { Name = "Before you go on" }).WaitForAsync();
        await AccessibleAsync(member);
        (await member.EvaluateAsync<bool>("document.documentElement.scrollWidth <= innerWidth")).ShouldBeTrue("nothing stands out on a phone");
        await member.GetByRole(AriaRole.Button, new() { Name = "Go on" }).ClickAsync();
        await member.GetByText("or say that you do not agree").WaitForAsync();
        await AccessibleAsync(member);
        await member.GetByRole(AriaRole.Button, new() { Name = "I do not agree" }).ClickAsync();
        await member.GetByText("You have said no").WaitForAsync();
        await AccessibleAsync(member);
        await SignInAsFernAsync(member);
        await member.GetByLabel("I have read and agree to").CheckAsync();
        await member.GetByRole(AriaRole.Button, new() { Name = "Go on" }).ClickAsync();
        await member.GetByRole(AriaRole.Heading, new() { Name = "Your profile" }).WaitForAsync();
        await member.GotoAsync(site.Site + "/account/terms/rules-of-the-hill");
        await AccessibleAsync(member);

        await page.GotoAsync(site.Admin + "/directory");
        await page.GetByLabel("The site has a directory").CheckAsync();
        await page.GetByLabel("Heading", new() { Exact = true }).FillAsync("Who looks up");
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await page.GetByText("Look at it").WaitForAsync();
        await member.GotoAsync(site.Site + "/account/profile");
        await member.GetByLabel("Show me in the directory").CheckAsync();
        await AccessibleAsync(member);
        await member.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await member.GetByText("Saved.").WaitForAsync();
        await member.GotoAsync(site.Site + "/account/directory?q=fern");
        await AccessibleAsync(member);
        await member.GetByRole(AriaRole.Link, new() { Name = "Fern Hollow" }).ClickAsync();
        await member.GetByText("Shows nothing but the name.").WaitForAsync();
        await AccessibleAsync(member);
        await page.GotoAsync(site.Admin + "/members?search=fern");
        await page.GetByRole(AriaRole.Link, new() { Name = "Fern Hollow" }).ClickAsync();
        await page.GetByText("Agreed to rules-of-the-hill, version 1").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Take out of the directory" }).ClickAsync();
        await Assertions.Expect(page.GetByText("Stands in the directory")).ToBeHiddenAsync();
        await site.Client.SetDirectoryAsync(new DirectoryDraft(), TestContext.Current.CancellationToken);
    }

    private async Task SignInAsFernAsync(IPage page)
    {
        await page.GotoAsync(site.Site + "/account/sign-in?return_to=/account/profile");
        await page.GetByLabel("E-mail or user name").FillAsync("fern@hollow.example");
        await page.GetByLabel("Password").FillAsync("brass-rings-and-felt");
        await page.Keyboard.PressAsync("Enter");
    }
}
