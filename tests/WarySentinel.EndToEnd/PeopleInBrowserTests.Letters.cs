using System.Text.RegularExpressions;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Playwright;
using Shouldly;
using WarySentinel.Service.Letters;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>Letters and what their links lead to, in a real browser.</summary>
public sealed partial class PeopleInBrowserTests
{
    private readonly Dictionary<string, string> letters = [];

    [Fact]
    public async Task Somebody_is_invited_sets_a_password_forgets_it_sets_another_elsewhere_and_takes_a_new_address()
    {
        var page = await ConsoleAsync("/members");
        await page.GetByRole(AriaRole.Button, new() { Name = "Invite people" }).ClickAsync();
        await page.GetByLabel("Who", new() { Exact = true }).FillAsync("Wren Dale <wren@dale.example>\nnobody at all");
        await page.GetByLabel("Words of your own").FillAsync("Bring <a> lamp.");
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Send invitations" }).ClickAsync();
        await page.GetByText("One letter is on its way.").WaitForAsync();
        await page.GetByText("“nobody at all” is not an e-mail address").WaitForAsync();
        await AccessibleAsync(page);

        // A phone without JavaScript sets it; programs that read mail have looked at the link before.
        var bare = await Chromium.NewContextAsync(new() { JavaScriptEnabled = false, ViewportSize = new() { Width = 390, Height = 800 } });
        var phone = await bare.NewPageAsync();
        var invitation = await LinkToAsync("wren@dale.example");
        letters["wren@dale.example"].ShouldContain("> Bring <a> lamp.");
        await phone.GotoAsync(site.Site + invitation);
        await phone.GotoAsync(site.Site + invitation);
        (await phone.GetByLabel("New password").GetAttributeAsync("autocomplete")).ShouldBe("new-password");
        await phone.GetByLabel("New password").FillAsync("lamp-at-the-ford-gate");
        await phone.GetByRole(AriaRole.Button, new() { Name = "Set password and go in" }).ClickAsync();
        await phone.GetByText("Wren Dale").First.WaitForAsync();

        var desk = await NewPageAsync(1280);
        await desk.GotoAsync(site.Site + "/account/sign-in");
        await desk.GetByRole(AriaRole.Link, new() { Name = "Forgotten your password?" }).ClickAsync();
        await AccessibleAsync(desk);
        await desk.GetByLabel("E-mail or user name").FillAsync("wren@dale.example");
        await desk.Keyboard.PressAsync("Enter");
        await desk.GetByText("Look into your mailbox").WaitForAsync();
        await AccessibleAsync(desk);
        await desk.GotoAsync(site.Site + await LinkToAsync("wren@dale.example"));
        await desk.GetByLabel("New password").FillAsync("wren");
        await desk.GetByText("8 characters more").WaitForAsync();
        await desk.GetByLabel("New password").FillAsync("a-lamp-under-the-bridge");
        await desk.GetByText("Long enough").WaitForAsync();
        await AccessibleAsync(desk);
        await desk.GetByRole(AriaRole.Button, new() { Name = "Set password" }).ClickAsync();
        await desk.GetByRole(AriaRole.Heading, new() { Name = "Your account" }).WaitForAsync();
        await phone.GotoAsync(site.Site + "/account/");
        await phone.GetByText("You are not signed in.").WaitForAsync();
        await bare.CloseAsync();

        await desk.GetByRole(AriaRole.Link, new() { Name = "Change address" }).ClickAsync();
        await desk.GetByLabel("New e-mail address").FillAsync("wren@fell.example");
        await AccessibleAsync(desk);
        await desk.GetByRole(AriaRole.Button, new() { Name = "Send the letter" }).ClickAsync();
        await desk.GetByText("Look into the new mailbox").WaitForAsync();
        await desk.GotoAsync(site.Site + await LinkToAsync("wren@fell.example"));
        await AccessibleAsync(desk);
        await desk.GetByRole(AriaRole.Button, new() { Name = "Use this address" }).ClickAsync();
        await desk.GetByText("Your address is changed").WaitForAsync();
        await page.GotoAsync(site.Admin + "/members?search=wren");
        await page.GetByRole(AriaRole.Link, new() { Name = "Wren Dale" }).ClickAsync();
        await page.GetByText("wren@fell.example").First.WaitForAsync();
        await page.GetByText("Invitation", new() { Exact = true }).WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Make up a password" }).ClickAsync();
        (await page.Locator(".told code").InnerTextAsync()).ShouldMatch("^([a-z]{3,8}-){6}[a-z]{3,8}$");
        await AccessibleAsync(page);
    }

    [Fact]
    public async Task Somebody_asks_to_join_is_let_in_and_says_how_they_are_written_to()
    {
        var page = await ConsoleAsync("/requests");
        await page.GetByText("Nobody can ask to join").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Link, new() { Name = "Let people ask" }).ClickAsync();
        await page.GetByLabel("Who may join by themselves").SelectOptionAsync("approval");
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Save" }).First.ClickAsync();
        await page.GetByText("Saved").First.WaitForAsync();

        var bare = await Chromium.NewContextAsync(new() { JavaScriptEnabled = false, ViewportSize = new() { Width = 390, Height = 800 } });
        var phone = await bare.NewPageAsync();
        await phone.GotoAsync(site.Site + "/account/sign-in");
        await phone.GetByRole(AriaRole.Link, new() { Name = "Join" }).ClickAsync();
        await phone.GetByLabel("Your name").FillAsync("Linnet Dale");
        await phone.GetByLabel("E-mail address").FillAsync("linnet@dale.example");
        await phone.GetByLabel("Password").FillAsync("larks-above-the-quarry");
        // As long as a person takes, and a form without scripts.
        await phone.WaitForTimeoutAsync(6_500);
        await phone.GetByRole(AriaRole.Button, new() { Name = "Ask to join" }).ClickAsync();
        await phone.GetByText("Look into your mailbox").WaitForAsync();
        await phone.GotoAsync(site.Site + await LinkToAsync("linnet@dale.example"));
        await phone.GetByRole(AriaRole.Button, new() { Name = "Yes, that is mine" }).ClickAsync();
        await phone.GetByText("Somebody looks at your request").WaitForAsync();
        await bare.CloseAsync();

        await page.GotoAsync(site.Admin + "/requests");
        await page.GetByText("linnet@dale.example").WaitForAsync();
        await page.GetByLabel("Words to them").FillAsync("Bring a lamp.");
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Let in" }).ClickAsync();
        await page.GetByText("Nobody waits").WaitForAsync();

        var desk = await NewPageAsync(1280);
        await desk.GotoAsync(site.Site + "/account/register");
        await AccessibleAsync(desk);
        await desk.GetByRole(AriaRole.Link, new() { Name = "Sign in" }).Last.ClickAsync();
        await desk.GetByLabel("E-mail or user name").FillAsync("linnet@dale.example");
        await desk.GetByLabel("Password").FillAsync("larks-above-the-quarry");
        await desk.Keyboard.PressAsync("Enter");
        await desk.WaitForURLAsync(url => !url.Contains("/sign-in", StringComparison.Ordinal));
        await desk.GotoAsync(site.Site + "/account/");
        await desk.GetByRole(AriaRole.Link, new() { Name = "Letters to you" }).ClickAsync();
        await desk.GetByLabel("Language of letters").SelectOptionAsync("de");
        await desk.GetByLabel("Write to me about what goes on here, too").UncheckAsync();
        await desk.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await desk.GetByText("You get no letters any more but those that have to be").WaitForAsync();
        await AccessibleAsync(desk);
        await page.GotoAsync(site.Admin + "/members?search=linnet");
        await page.GetByRole(AriaRole.Link, new() { Name = "Linnet Dale" }).ClickAsync();
        await Assertions.Expect(page.GetByLabel("Letters in")).ToHaveValueAsync("de");
        await Assertions.Expect(page.GetByLabel("Wants letters beyond")).Not.ToBeCheckedAsync();
        await AccessibleAsync(page);
    }

    [Fact]
    public async Task The_words_of_a_letter_are_written_beside_the_letter_as_it_is_read()
    {
        var page = await ConsoleAsync("/letters");
        await page.GetByRole(AriaRole.Link, new() { Name = "Words of letters" }).ClickAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Link, new() { Name = "Welcome", Exact = true }).ClickAsync();
        await page.GetByText("This letter comes with the service").WaitForAsync();
        // A frame out of sight is not drawn: what it is given is looked at.
        var there = new LocatorWaitForOptions { State = WaitForSelectorState.Attached };
        await page.Locator("iframe[srcdoc*='Hello Ada Quill,']").WaitForAsync(there);
        await AccessibleAsync(page);
        var html = page.GetByLabel("Letter", new() { Exact = true });
        await html.FillAsync("<p>Good evening, {{ member.n");
        await page.GetByRole(AriaRole.Option, new() { Name = "member.name" }).WaitForAsync(there);
        await AccessibleAsync(page);
        await html.FillAsync("<p>Good evening, {{ membr }}!</p>");
        await page.GetByText("Line 1, column").First.WaitForAsync(there);
        await page.GetByRole(AriaRole.Button, new() { Name = "Save", Exact = true }).ClickAsync();
        await page.Locator("p.bad#template-html-bad").WaitForAsync(there);
        await html.FillAsync("<p>Good night, {{ member.name }}!</p>");
        await Assertions.Expect(html).ToHaveValueAsync("<p>Good night, {{ member.name }}!</p>");
        await page.Locator("iframe[srcdoc*='Good night, Ada Quill!']").WaitForAsync(there);
        await page.GetByLabel("For").FillAsync("nell@orchard-optics.example");
        await page.Locator("iframe[srcdoc*='Good night, Nell Orchard!']").WaitForAsync(there);
        await page.GetByLabel("as plain text").CheckAsync();
        await page.Locator("pre", new() { HasText = "Good night, Nell Orchard!" }).WaitForAsync(there);
        await page.GetByRole(AriaRole.Button, new() { Name = "Save", Exact = true }).ClickAsync();
        await page.GetByText("These are your own words.").WaitForAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Send me a test" }).ClickAsync();
        await page.GetByText("A test is on its way to").WaitForAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Back to ours" }).ClickAsync();
        await page.GetByText("This letter comes with the service").WaitForAsync();
        var narrow = await ConsoleAsync("/letters/words/welcome", 390);
        await narrow.GetByText("This letter comes with the service").WaitForAsync();
        (await narrow.EvaluateAsync<bool>("document.documentElement.scrollWidth <= innerWidth")).ShouldBeTrue("nothing stands out on a phone");
    }

    /// <summary>The link of the last letter to somebody.</summary>
    private async Task<string> LinkToAsync(string to)
    {
        var (store, envelopes) = (site.Services.GetRequiredService<Store>(), site.Services.GetRequiredService<Envelopes>());
        for (var n = 0; n < 50; n++)
        {
            while (await store.TakeMessageAsync(DateTimeOffset.UtcNow.AddDays(1), TestContext.Current.CancellationToken) is { } waiting)
            {
                var said = envelopes.Open(waiting.Body).Text;
                letters[waiting.To] = said.Contains("?link=", StringComparison.Ordinal) ? said : letters.GetValueOrDefault(waiting.To, said);
            }

            if (letters.TryGetValue(to, out var text) && Regex.Match(text, @"/account/\S+\?link=[\w-]+") is { Success: true } link)
            {
                return link.Value;
            }

            await Task.Delay(100, TestContext.Current.CancellationToken);
        }

        throw new InvalidOperationException("No letter to " + to);
    }
}
