using Microsoft.Extensions.DependencyInjection;
using Microsoft.Playwright;
using Shouldly;
using WarySentinel.Contract.Facts;
using WarySentinel.Service.Letters;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>Members, roles, redirects and the daily face of the console, in a real browser.</summary>
public sealed partial class PeopleInBrowserTests(ChromiumFixture fixture) : OnChromium(fixture)
{
    [Fact]
    public async Task Members_come_in_from_a_file_after_a_look_and_many_are_given_something_at_once()
    {
        var page = await ConsoleAsync("/members/import");
        var csv = "Mail;Vorname;Nachname;Beruf\r\nbrook@import.example;Lou;Brook;guide\r\nmill@import.example;Véra;Mill;guide\r\nnobody;No;One;guide\r\n";
        await page.GetByLabel("File").SetInputFilesAsync(new FilePayload
        {
            Name = "club.csv", MimeType = "text/csv",
            Buffer = System.Text.Encoding.UTF8.GetBytes(csv)
        });
        await page.GetByRole(AriaRole.Button, new() { Name = "Import 2 members" }).WaitForAsync();
        await page.GetByText("“nobody” is not an e-mail address").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByLabel("Beruf: Is taken as").SelectOptionAsync("roles");
        await page.GetByText("Lou Brook, role:guide").WaitForAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Import 2 members" }).ClickAsync();
        await page.GetByText("Done. 2 came in, 0 changed.").WaitForAsync();

        await page.GotoAsync(site.Admin + "/members?search=import.example");
        await page.GetByLabel("Choose all that are shown").CheckAsync();
        await page.GetByText("2 chosen").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Give…" }).ClickAsync();
        await page.GetByLabel("What", new() { Exact = true }).SelectOptionAsync("plan:patron");
        await page.GetByRole(AriaRole.Button, new() { Name = "Show what would change" }).ClickAsync();
        await page.GetByText("2 of 2 would change").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Give it" }).ClickAsync();
        await page.GetByText("Done: 2 changed").WaitForAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Close" }).ClickAsync();
        await Assertions.Expect(page.Locator("code", new() { HasText = "plan:patron" })).ToHaveCountAsync(2);
    }

    [Fact]
    public async Task An_organisation_is_made_in_the_console_and_managed_by_its_own_manager()
    {
        var stop = TestContext.Current.CancellationToken;
        var page = await ConsoleAsync("/organisations");
        await page.GetByText("No organisations yet").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Add an organisation" }).ClickAsync();
        await page.GetByLabel("Name", new() { Exact = true }).FillAsync("Mill Röad School");
        await page.GetByLabel("Seats", new() { Exact = true }).FillAsync("3");
        await page.GetByLabel("Its people hold").SelectOptionAsync("role:dealer");
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Add", Exact = true }).ClickAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "Mill Röad School" }).WaitForAsync();
        await page.GetByLabel("Invite by e-mail").FillAsync("owner-to-be");
        await page.GetByLabel("Invite by e-mail").EvaluateAsync("e => e.type = 'text'");
        await page.GetByRole(AriaRole.Button, new() { Name = "Send invitation" }).ClickAsync();
        await page.GetByText("“owner-to-be” is not an e-mail address").WaitForAsync();
        await page.GetByLabel("Invite by e-mail").FillAsync("lou@mill.example");
        await page.GetByLabel("May invite and remove colleagues").CheckAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Send invitation" }).ClickAsync();
        await page.GetByText("asked by").WaitForAsync();
        await AccessibleAsync(page);

        // The letter's link, in a browser that nobody is signed in with, without JavaScript.
        var (store, envelopes) = (site.Services.GetRequiredService<Store>(), site.Services.GetRequiredService<Envelopes>());
        var letter = "";
        while (await store.TakeMessageAsync(DateTimeOffset.UtcNow.AddDays(1), stop) is { } waiting)
        {
            letter = waiting.To == "lou@mill.example" ? envelopes.Open(waiting.Body).Text : letter;
        }

        var context = await Chromium.NewContextAsync(new() { JavaScriptEnabled = false, ViewportSize = new() { Width = 390, Height = 800 } });
        var visitor = await context.NewPageAsync();
        var link = System.Text.RegularExpressions.Regex.Match(letter, "/account/join\\S+").Value;
        await visitor.GotoAsync(site.Site + link);
        await visitor.GetByLabel("Your name").FillAsync("Lou Mill");
        await visitor.GetByLabel("Password", new() { Exact = true }).FillAsync("the-mill-wheel-turns");
        await visitor.GetByRole(AriaRole.Button, new() { Name = "Set password and join" }).ClickAsync();
        await visitor.GetByRole(AriaRole.Link, new() { Name = "Mill Röad School" }).ClickAsync();
        await visitor.GetByText("1 of 3 seats taken").WaitForAsync();
        await visitor.GetByLabel("E-mail addresses").FillAsync("kit@mill.example");
        await visitor.GetByRole(AriaRole.Button, new() { Name = "Send invitations" }).ClickAsync();
        await visitor.GetByText("kit@mill.example").WaitForAsync();
        await visitor.GetByRole(AriaRole.Button, new() { Name = "Take back: kit@mill.example" }).ClickAsync();
        await visitor.GetByText("1 of 3 seats taken").WaitForAsync();
        await context.CloseAsync();

        var told = await NewPageAsync(390);
        await told.GotoAsync(site.Site + link);
        await told.GetByText("It was used already").WaitForAsync();
        await AccessibleAsync(told);
        await page.ReloadAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "Lou Mill" }).ClickAsync();
        await page.GetByText("given by organisation:mill-road-school").WaitForAsync();
        await AccessibleAsync(page);
    }

    [Fact]
    public async Task A_role_gets_its_pages_and_a_group_its_rule()
    {
        var stop = TestContext.Current.CancellationToken;
        await site.Client.AddFactDefinitionAsync("groups", new FactDefinitionDraft("walkers", "Walkers"), stop);
        var page = await ConsoleAsync("/roles");
        await page.GetByRole(AriaRole.Link, new() { Name = "Walkers" }).WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Link, new() { Name = "Walkers" }).ClickAsync();
        await page.GetByLabel("Rule", new() { Exact = true }).FillAsync("role:gide");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await page.GetByText("Did you mean “guide”").WaitForAsync();
        await page.GetByLabel("Rule", new() { Exact = true }).FillAsync("role:guide or plan:patron");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await page.GetByText("Saved.").WaitForAsync();
        await AccessibleAsync(page);

        await page.GotoAsync(site.Admin + "/roles/roles/keeper");
        await page.GetByRole(AriaRole.Button, new() { Name = "Add a link" }).ClickAsync();
        await page.GetByLabel("Words").FillAsync("Vault");
        await page.GetByLabel("Address", new() { Exact = true }).FillAsync("//evil.example");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await page.GetByText("is no address of this site").WaitForAsync();
        await page.GetByLabel("Address", new() { Exact = true }).FillAsync("/shop/clearance-vault");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await page.GetByText("Saved.").WaitForAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "dealer-stock" }).WaitForAsync();
        await AccessibleAsync(page);
    }

    [Fact]
    public async Task Redirects_are_ordered_by_hand_and_say_who_lands_where()
    {
        var stop = TestContext.Current.CancellationToken;
        await site.Client.PutRedirectAsync("plain", "sign-in", "role:keeper or role:guide", "/visit", 10, stop);
        await site.Client.PutRedirectAsync("fine", "sign-in", "role:keeper", "/shop/dealer-stock", 20, stop);
        var page = await ConsoleAsync("/redirects");
        await page.GetByLabel("Who", new() { Exact = true }).FillAsync("role:keeper");
        await page.GetByText("The redirect “plain” says so.").WaitForAsync();
        await AccessibleAsync(page);
        await page.Locator(".redirects li").Nth(1).DragToAsync(page.Locator(".redirects li").Nth(0));
        await Assertions.Expect(page.Locator(".redirects li code").First).ToHaveTextAsync("fine");
        await page.GetByText("The redirect “fine” says so.").WaitForAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Add a redirect" }).ClickAsync();
        await page.GetByLabel("Lands on").FillAsync("/no-such-page");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await page.GetByText("The site has no page /no-such-page").WaitForAsync();
        await AccessibleAsync(page);
        await site.Client.RemoveRedirectAsync("plain", stop);
        await site.Client.RemoveRedirectAsync("fine", stop);
    }

    [Fact]
    public async Task Today_is_read_by_support_who_changes_no_gate()
    {
        await site.Client.AddMemberAsync("bell@x.example", "Ash Wicket", null, "plum-stones-at-dusk", ["support"], [], [],
            TestContext.Current.CancellationToken);
        var page = await NewPageAsync();
        await page.GotoAsync(site.Admin + "/");
        await page.GetByLabel("E-mail or user name").FillAsync("bell@x.example");
        await page.GetByLabel("Password").FillAsync("plum-stones-at-dusk");
        await page.GetByRole(AriaRole.Button, new() { Name = "Sign in" }).ClickAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "Today" }).WaitForAsync();
        await page.Locator(".curves svg").First.WaitForAsync();
        await page.GetByText("As a table").ClickAsync();
        await page.GetByRole(AriaRole.Rowheader, new() { Name = "All accounts" }).WaitForAsync();
        await AccessibleAsync(page);
        await page.GotoAsync(site.Admin + "/gates/dealer-stock");
        await page.GetByText("You may look here, and change nothing.").WaitForAsync();
        (await page.GetByRole(AriaRole.Button, new() { Name = "Who may" }).IsDisabledAsync()).ShouldBeTrue();
        await AccessibleAsync(page);
        await page.GotoAsync(site.Admin + "/members");
        await page.GetByRole(AriaRole.Button, new() { Name = "Add a member" }).WaitForAsync();
    }

    [Fact]
    public async Task The_account_page_and_menu_in_a_real_browser()
    {
        var page = await NewPageAsync(390);
        await SignInAsync(page, "nell", "orchard-quiet-91");
        await page.WaitForFunctionAsync("() => !location.pathname.startsWith('/account/sign-in')");
        await page.GotoAsync(site.Site + "/visit");
        await page.Locator(".wary-menu").GetByRole(AriaRole.Link, new() { Name = "Your account" }).ClickAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "What you have" }).WaitForAsync();
        await page.GetByText("this one").WaitForAsync();
        await AccessibleAsync(page);
        (await page.EvaluateAsync<bool>("document.documentElement.scrollWidth <= innerWidth")).ShouldBeTrue();
    }
}
