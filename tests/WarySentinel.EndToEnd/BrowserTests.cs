using Microsoft.Playwright;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>The console and the visitor pages in a real browser.</summary>
public sealed partial class BrowserTests(ChromiumFixture fixture) : OnChromium(fixture)
{
    [Fact]
    public async Task A_dealer_comes_in_and_out_and_back_shows_nothing()
    {
        var page = await NewPageAsync();
        await page.GotoAsync(site.Site + "/product/case-fern-40");
        await AccessibleAsync(page);
        await page.GetByLabel("E-mail or user name").FillAsync("nell");
        await page.GetByLabel("Password").FillAsync("orchard-quiet-91");
        await page.GetByRole(AriaRole.Button, new() { Name = "Show" }).ClickAsync();
        (await page.GetByLabel("Password").GetAttributeAsync("type")).ShouldBe("text");
        await page.Keyboard.PressAsync("Enter");
        await AtAsync(page, "/product/case-fern-40");
        await page.GetByRole(AriaRole.Heading, new() { Name = "Case of 6 Fern 40 mm" }).WaitForAsync();
        await page.GotoAsync(site.Site + "/account/");
        await page.GetByRole(AriaRole.Button, new() { Name = "Sign out", Exact = true }).ClickAsync();
        await page.GetByText("You are signed out").WaitForAsync();
        await page.GoBackAsync();
        await page.GoBackAsync();
        await page.GetByText("Sign in to go on").WaitForAsync();
        (await page.ContentAsync()).ShouldNotContain("Case of 6");
    }

    [Fact]
    public async Task The_pages_work_without_scripts_and_on_a_phone()
    {
        var context = await Chromium.NewContextAsync(new() { JavaScriptEnabled = false, ViewportSize = new() { Width = 360, Height = 700 } });
        var page = await context.NewPageAsync();
        await page.GotoAsync(site.Site + "/shop/clearance-vault");
        (await page.GetByRole(AriaRole.Button, new() { Name = "Show" }).CountAsync()).ShouldBe(0);
        await page.GetByLabel("Password").FillAsync("wrong-word");
        await page.GetByRole(AriaRole.Button, new() { Name = "Open" }).ClickAsync();
        (await page.GetByRole(AriaRole.Alert).InnerTextAsync()).ShouldContain("open this.");
        await page.GetByLabel("Password").FillAsync(RunningSite.VaultPassword);
        await page.GetByRole(AriaRole.Button, new() { Name = "Open" }).ClickAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "Clearance vault" }).WaitForAsync();
        var box = await page.Locator("body").BoundingBoxAsync();
        box!.Width.ShouldBeLessThanOrEqualTo(360);
        await context.CloseAsync();
    }

    [Fact]
    public async Task The_owner_reads_gates_and_adds_one_by_its_sentence()
    {
        var page = await ConsoleAsync("/gates");
        await page.Locator(".gates li").First.WaitForAsync();
        (await page.Locator(".gates li").CountAsync()).ShouldBeGreaterThanOrEqualTo(4);
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Link, new() { Name = "Add a gate" }).ClickAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "What it covers" }).ClickAsync();
        await page.GetByPlaceholder("Find a category").FillAsync("books");
        await page.Locator(".opt", new() { HasText = "category:books" }).ClickAsync();
        await page.Keyboard.PressAsync("Escape");
        await page.GetByRole(AriaRole.Button, new() { Name = "In listings" }).ClickAsync();
        await page.GetByText("don’t see it listed").Last.ClickAsync();
        await page.Keyboard.PressAsync("Escape");
        await page.Locator(".pop").WaitForAsync(new() { State = WaitForSelectorState.Detached });
        await page.GetByText("If you save this").WaitForAsync();
        await page.Locator("td", new() { HasText = "Books" }).First.WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Save the gate" }).ClickAsync();
        await AtAsync(page, "/gates");
        using var guest = site.NewBrowser();
        ((int)await guest.StatusAsync("/shop/books")).ShouldBe(401);
        await page.GetByRole(AriaRole.Link, new() { Name = "Books" }).ClickAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Remove" }).ClickAsync();
        await page.GetByRole(AriaRole.Dialog).GetByRole(AriaRole.Button, new() { Name = "Remove" }).ClickAsync();
        await AtAsync(page, "/gates");
        ((int)await guest.StatusAsync("/shop/books")).ShouldBe(200);
    }

    [Fact]
    public async Task A_mistaken_audience_is_told_beside_its_field()
    {
        var page = await ConsoleAsync("/gates/dealer-stock");
        await page.GetByLabel("As text").FillAsync("role:dealr");
        await page.GetByText("Did you mean “dealer”?").First.WaitForAsync();
        (await page.GetByRole(AriaRole.Button, new() { Name = "Save the gate" }).IsDisabledAsync()).ShouldBeTrue();
        await page.GetByRole(AriaRole.Button, new() { Name = "Put back" }).ClickAsync();
        await Assertions.Expect(page.GetByLabel("As text")).ToHaveValueAsync("role:dealer or role:keeper");
    }

    [Fact]
    public async Task A_cell_of_the_board_says_why()
    {
        var page = await ConsoleAsync("/board");
        await page.GetByRole(AriaRole.Button, new() { Name = "Open Dealer stock" }).ClickAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Dealer eyepieces, Guest: hidden" }).ClickAsync();
        await page.GetByText("A guest may not open Dealer eyepieces, and doesn’t see it listed.").WaitForAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Dealer eyepieces, Dealers: open" }).ClickAsync();
        await page.GetByText("A member of the role Dealers may open Dealer eyepieces.").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByPlaceholder("Find an item").FillAsync("barlow");
        await page.GetByRole(AriaRole.Button, new() { Name = "Barlow lens, boxed, Guest: hidden" }).WaitForAsync();
    }

    [Fact]
    public async Task A_viewpoint_shows_catalogue_and_live_site()
    {
        var page = await ConsoleAsync("/viewpoint?as=role:dealer");
        await page.GetByText("A member of the role Dealers finds").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Live site" }).ClickAsync();
        var live = page.FrameLocator("iframe");
        await live.GetByText("You see the site as: Dealers").WaitForAsync();
        await live.Locator("a[href='/shop/dealer-stock']").First.WaitForAsync(new() { State = WaitForSelectorState.Attached });
    }

    [Fact]
    public async Task The_catalogue_is_searched_and_added_to_with_faults_by_their_fields()
    {
        var page = await ConsoleAsync("/catalogue");
        await page.GetByPlaceholder("Find by name or key").FillAsync("stork");
        await page.GetByText("product:stork-eq").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Add an item" }).ClickAsync();
        await page.GetByLabel("Kind and key").FillAsync("pag:x");
        await page.GetByRole(AriaRole.Button, new() { Name = "Add it" }).ClickAsync();
        await page.GetByText("is not kind:key").WaitForAsync();
        await page.GetByLabel("Kind and key").FillAsync("page:by-hand");
        await page.GetByLabel("Title").FillAsync("By hand");
        await page.GetByRole(AriaRole.Button, new() { Name = "Add it" }).ClickAsync();
        await page.GetByRole(AriaRole.Dialog).WaitForAsync(new() { State = WaitForSelectorState.Detached });
        await page.GetByPlaceholder("Find by name or key").FillAsync("by-hand");
        await page.GetByText("page:by-hand").WaitForAsync();
    }

    [Fact]
    public async Task The_console_fits_a_phone()
    {
        var page = await ConsoleAsync("/gates", 390);
        (await page.EvaluateAsync<int>("document.documentElement.scrollWidth")).ShouldBeLessThanOrEqualTo(390);
        await page.GetByRole(AriaRole.Button, new() { Name = "Menu" }).ClickAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "Access board" }).ClickAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "Access board" }).WaitForAsync();
        (await page.EvaluateAsync<int>("document.documentElement.scrollWidth")).ShouldBeLessThanOrEqualTo(390);
        await page.GetByRole(AriaRole.Button, new() { Name = "Menu" }).ClickAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "Members" }).ClickAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "Nell Orchard" }).ClickAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "Nell Orchard" }).WaitForAsync();
        (await page.EvaluateAsync<int>("document.documentElement.scrollWidth")).ShouldBeLessThanOrEqualTo(390);
    }

    [Fact]
    public async Task The_sweep_page_finds_the_leaks_and_offers_a_gate_for_them()
    {
        var page = await ConsoleAsync("/sweep");
        await page.GetByText("No sweep has run yet").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByLabel("Dealers").CheckAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Run the sweep" }).ClickAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "3 leaks" }).WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByText("Anybody gets here what /members/coordinates says").WaitForAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "Add a gate for it" }).First.ClickAsync();
        await page.GetByText("the address /products.json").WaitForAsync();
    }

    [Fact]
    public async Task A_strong_password_is_told_once_and_a_change_taken_back()
    {
        var page = await ConsoleAsync("/gates/clearance-vault");
        await page.GetByLabel("For whom").FillAsync("Astronomy club");
        await page.GetByLabel("Most uses").FillAsync("20");
        await page.GetByRole(AriaRole.Button, new() { Name = "Make a strong password" }).ClickAsync();
        await page.GetByText("Copy this now").WaitForAsync();
        (await page.Locator(".told pre").InnerTextAsync()).ShouldContain("/account/unlock");
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Done" }).ClickAsync();
        await page.GetByText("Copy this now").WaitForAsync(new() { State = WaitForSelectorState.Detached });
        await page.GetByLabel("Name of the gate").FillAsync("Vault of the season");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save the gate" }).ClickAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "Vault of the season" }).ClickAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Undo the last change" }).ClickAsync();
        await Assertions.Expect(page.GetByLabel("Name of the gate")).ToHaveValueAsync("Clearance vault");
        await page.GotoAsync(site.Admin + "/history");
        await page.GetByText("Took a change back").First.WaitForAsync();
        await AccessibleAsync(page);
    }

    [Fact]
    public async Task An_audience_is_built_in_rows_and_says_the_same_as_its_text()
    {
        var page = await ConsoleAsync("/gates/new?covers=category:books");
        await page.GetByRole(AriaRole.Button, new() { Name = "Who may" }).ClickAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Ask for several things at once" }).ClickAsync();
        await page.GetByLabel("and …").First.SelectOptionAsync("role:dealer");
        await page.GetByLabel("Add a row …").SelectOptionAsync("plan:patron");
        await Assertions.Expect(page.GetByLabel("As text")).ToHaveValueAsync("signed-in and role:dealer or plan:patron");
        await AccessibleAsync(page);
        await page.GetByLabel("Add a row …").FocusAsync();
        await page.Keyboard.PressAsync("Escape");
        await Assertions.Expect(page.Locator("fieldset.rows")).ToHaveCountAsync(0);
        await page.GetByLabel("As text").FillAsync("role:dealer and not (group:institutions or plan:patron)");
        await page.Locator(".line").GetByText("not").First.WaitForAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Who may" }).ClickAsync();
        await page.Locator("fieldset.rows").WaitForAsync();
        await Assertions.Expect(page.GetByRole(AriaRole.Button, new() { Name = "is not" })).ToHaveCountAsync(2);
    }

    [Fact]
    public async Task The_settings_and_what_the_site_brings_in()
    {
        var page = await ConsoleAsync("/settings");
        await page.GetByLabel("Heading").FillAsync("For friends of the hill");
        await page.GetByLabel("Every so many hours").FillAsync("-1");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save the settings" }).ClickAsync();
        await page.GetByText("a number from 0").First.WaitForAsync();
        await page.GetByLabel("Every so many hours").FillAsync("0");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save the settings" }).ClickAsync();
        await Assertions.Expect(page.GetByText("a number from 0")).ToHaveCountAsync(0);
        await AccessibleAsync(page);
        var visitor = await NewPageAsync();
        await visitor.GotoAsync(site.Site + "/account/unlock");
        await visitor.GetByRole(AriaRole.Heading, new() { Name = "For friends of the hill" }).WaitForAsync();
        await AccessibleAsync(visitor);
        await page.GotoAsync(site.Admin + "/catalogue");
        await page.GetByRole(AriaRole.Button, new() { Name = "Bring in from the site" }).ClickAsync();
        await page.GetByLabel("Read").SelectOptionAsync("sitemap");
        await page.GetByRole(AriaRole.Button, new() { Name = "Look", Exact = true }).ClickAsync();
        await page.GetByText("0 to add, 0 to change").WaitForAsync();
        await AccessibleAsync(page);
        const string asked = "198.51.100.7 - - [28/Nov/2026:10:00:00 +0000] \"GET /old/price-list.html HTTP/1.1\" 200 99 \"-\" \"x\"\n";
        await page.GetByLabel("Read").SelectOptionAsync("log");
        await page.GetByLabel("The log file").SetInputFilesAsync(
            new FilePayload { Name = "access.log", MimeType = "text/x-log", Buffer = System.Text.Encoding.UTF8.GetBytes(asked + asked) });
        await page.GetByRole(AriaRole.Button, new() { Name = "Look", Exact = true }).ClickAsync();
        await page.GetByText("/old/price-list.html").First.WaitForAsync();
    }

    [Fact]
    public async Task A_member_and_another_day_are_looked_through()
    {
        var page = await ConsoleAsync("/viewpoint?as=nell@orchard-optics.example&on=2027-05-01");
        await page.GetByText("Nell Orchard finds").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Live site" }).ClickAsync();
        await page.FrameLocator("iframe").GetByText("You see the site as: Nell Orchard, on 1 May 2027").WaitForAsync();
    }

    [Fact]
    public async Task A_form_in_the_shops_own_page_signs_in_from_a_real_browser()
    {
        var page = await NewPageAsync();
        await page.GotoAsync(site.Site + "/");
        await page.GetByRole(AriaRole.Heading, new() { Name = "Join us under the dome" }).WaitForAsync();
        await page.Locator(".wary-sign-in").GetByLabel("E-mail or user name").FillAsync("nell");
        await page.Locator(".wary-sign-in").GetByLabel("Password").FillAsync("orchard-quiet-91");
        await page.Locator(".wary-sign-in").GetByRole(AriaRole.Button, new() { Name = "Sign in" }).ClickAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "For you tonight" }).WaitForAsync();
        (await page.GetByText("Join us under the dome").CountAsync()).ShouldBe(0);
    }

    [Fact]
    public async Task A_member_is_found_suspended_with_words_reads_them_and_is_let_back_in()
    {
        await site.Client.AddMemberAsync("quill@x.example", "Quill Harrow", null, "quill-and-ink-1", [], [], [], TestContext.Current.CancellationToken);
        var page = await ConsoleAsync("/members");
        await page.GetByRole(AriaRole.Searchbox).FillAsync("quill har");
        await page.WaitForURLAsync("**/members?search=quill+har");
        await page.GetByRole(AriaRole.Link, new() { Name = "Quill Harrow" }).WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Link, new() { Name = "Quill Harrow" }).ClickAsync();
        await page.GetByLabel("Give").SelectOptionAsync("role:guide");
        await page.GetByRole(AriaRole.Button, new() { Name = "Give it" }).ClickAsync();
        await page.GetByText("In force", new() { Exact = true }).WaitForAsync();
        // Several at once, and ended together.
        foreach (var fact in new[] { "plan:patron", "role:keeper" })
        {
            await page.GetByLabel("Give", new() { Exact = true }).SelectOptionAsync(fact);
        }

        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Give it" }).ClickAsync();
        await page.GetByLabel("Choose plan:patron").CheckAsync();
        await page.GetByLabel("Choose role:keeper").CheckAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "End the 2 chosen" }).ClickAsync();
        await Assertions.Expect(page.GetByText("Over", new() { Exact = true })).ToHaveCountAsync(2);
        await page.GetByLabel("Note something").FillAsync("Met at the fair.");
        await page.GetByRole(AriaRole.Button, new() { Name = "Keep the note" }).ClickAsync();
        await page.Locator(".rows").GetByText("Met at the fair.").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Suspend…" }).ClickAsync();
        await page.GetByLabel("What they read when they sign in").FillAsync("The lens is late. Write to us.");
        await page.GetByRole(AriaRole.Button, new() { Name = "Suspend", Exact = true }).ClickAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Let back in" }).WaitForAsync();

        var visitor = await NewPageAsync();
        await SignInAsync(visitor, "quill@x.example", "quill-and-ink-1");
        await visitor.GetByText("The lens is late. Write to us.").WaitForAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Let back in" }).ClickAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Suspend…" }).WaitForAsync();
        await SignInAsync(visitor, "quill@x.example", "quill-and-ink-1");
        await visitor.WaitForFunctionAsync("() => !location.pathname.startsWith('/account/sign-in')");
    }
}
