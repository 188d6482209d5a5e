using Microsoft.Playwright;
using Shouldly;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>What the site shows and sells, made in the console and met in a fresh browser: pages and their words, orders, prices, shows.</summary>
public sealed partial class WaresInBrowserTests(ChromiumFixture fixture) : OnChromium(fixture)
{
    [Fact]
    public async Task A_page_is_moved_and_put_into_words_beside_its_look_and_a_visitor_finds_it_so()
    {
        var page = await ConsoleAsync("/pages");
        await page.GetByRole(AriaRole.Heading, new() { Name = "Languages" }).WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Link, new() { Name = "Forgotten password" }).ClickAsync();
        var preview = page.FrameLocator("iframe[title='As a visitor sees it']");
        await preview.GetByRole(AriaRole.Heading, new() { Name = "Forgotten your password?" }).WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByLabel("Address of its own").FillAsync("/visit");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save", Exact = true }).First.ClickAsync();
        await page.GetByText("Free is /forgotten.").Or(page.GetByText("such as /forgotten.")).WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByLabel("Address of its own").FillAsync("/lost-the-key");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save", Exact = true }).First.ClickAsync();
        await page.GetByText("Saved").WaitForAsync();

        await page.GetByLabel("Language").SelectOptionAsync("de");
        await preview.GetByRole(AriaRole.Heading, new() { Name = "Passwort vergessen?" }).WaitForAsync();
        await page.GetByLabel("forgotten.title", new() { Exact = true }).FillAsync("Schlüssel {9} weg?");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save one text" }).ClickAsync();
        await page.GetByText("{9} stands for nothing").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByLabel("forgotten.title", new() { Exact = true }).FillAsync("Schlüssel weg?");
        await page.GetByRole(AriaRole.Button, new() { Name = "Save one text" }).ClickAsync();
        await preview.GetByRole(AriaRole.Heading, new() { Name = "Schlüssel weg?" }).WaitForAsync();
        await page.GotoAsync(site.Admin + "/pages/languages/de?show=yours");
        await page.GetByLabel("forgotten.title", new() { Exact = true }).WaitForAsync();
        await AccessibleAsync(page);

        var visitor = await NewPageAsync(390);
        await visitor.Context.SetExtraHTTPHeadersAsync(new Dictionary<string, string> { ["Accept-Language"] = "de" });
        await visitor.GotoAsync(site.Site + "/account/sign-in");
        await visitor.GetByRole(AriaRole.Link, new() { Name = "Passwort vergessen?" }).ClickAsync();
        await visitor.WaitForURLAsync("**/lost-the-key");
        await visitor.GetByRole(AriaRole.Heading, new() { Name = "Schlüssel weg?" }).WaitForAsync();
    }

    [Fact]
    public async Task The_pages_of_members_and_of_letters_are_looked_at_with_somebody_made_up()
    {
        var page = await ConsoleAsync("/pages/account");
        var preview = page.FrameLocator("iframe[title='As a visitor sees it']");
        await preview.GetByText("Signed in as Ada Quill.").WaitForAsync();
        await page.GetByLabel("Language").SelectOptionAsync("de");
        await preview.GetByText("Ada Quill").WaitForAsync();
        await page.GotoAsync(site.Admin + "/pages/look");
        var look = page.FrameLocator("iframe[title='The page in this look']");
        await page.GetByLabel("Page that is shown").SelectOptionAsync("thanks");
        await look.GetByText("Your order FO-2031 is paid.").WaitForAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Night", Exact = true }).ClickAsync();
        await look.Locator("body[data-theme=dark]").WaitForAsync();
        await look.GetByText("Your order FO-2031 is paid.").WaitForAsync();
    }

    [Fact]
    public async Task Every_page_that_can_be_looked_at_is_accessible_by_night_and_in_Arabic_on_a_phone()
    {
        var (visitor, stop) = (await NewPageAsync(390), TestContext.Current.CancellationToken);
        var looks = (await site.Client.VisitorPagesAsync(stop)).Where(p => p.Look is not null).Select(p => p.Look!).ToList();
        looks.Count.ShouldBeGreaterThan(15);
        foreach (var look in looks)
        {
            foreach (var dress in new[] { "theme=dark", "theme=light&language=ar" })
            {
                await visitor.GotoAsync($"{look}{(look.Contains('?', StringComparison.Ordinal) ? '&' : '?')}{dress}");
                await AccessibleAsync(visitor);
                (await visitor.EvaluateAsync<bool>("document.documentElement.scrollWidth <= innerWidth")).ShouldBeTrue($"nothing stands out at {look} {dress}");
            }
        }
    }

    [Fact]
    public async Task A_page_is_written_beside_what_anybody_sees_of_it_and_each_visitor_gets_their_own()
    {
        var page = await ConsoleAsync("/pages");
        await page.GetByRole(AriaRole.Button, new() { Name = "New section" }).ClickAsync();
        await page.GetByLabel("Title", new() { Exact = true }).FillAsync("Night book");
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Make the section" }).ClickAsync();
        await page.Locator(".written .sheet", new() { HasText = "Night book" }).GetByRole(AriaRole.Button, new() { Name = "New page" }).ClickAsync();
        await page.GetByLabel("Title", new() { Exact = true }).FillAsync("The ladder");
        await page.GetByRole(AriaRole.Button, new() { Name = "Make the page" }).ClickAsync();
        await page.WaitForURLAsync("**/pages/written/the-ladder");
        var text = page.GetByLabel("Text", new() { Exact = true });
        await text.FillAsync("Hold on.\n\n- ::: for role:dealer\nx");
        await page.GetByText("Line 3, column 3").WaitForAsync();
        await AccessibleAsync(page);
        await text.FillAsync("Hold on.\n\n::: for role:dealer\nThe wholesale ladder.\n::: otherwise\nThe ladder of the shop.\n:::\n");
        var seen = page.FrameLocator("iframe[title='As a visitor sees it']");
        await seen.GetByText("The ladder of the shop.").WaitForAsync();
        await page.GetByLabel("Through whose eyes").SelectOptionAsync("role:dealer");
        await seen.GetByText("The wholesale ladder.").WaitForAsync();
        await page.Locator("input[type=file]").SetInputFilesAsync(new FilePayload
        {
            Name = "Rung 1.svg", MimeType = "image/svg+xml",
            Buffer = System.Text.Encoding.UTF8.GetBytes("<svg xmlns='http://www.w3.org/2000/svg' width='40' height='40'><rect width='40' height='40'/></svg>"),
        });
        await page.GetByText("Rung-1.svg", new() { Exact = true }).WaitForAsync();
        (await text.InputValueAsync()).ShouldContain("![Rung-1.svg](Rung-1.svg)");
        var visitor = await NewPageAsync(390);
        (await visitor.GotoAsync(site.Site + "/night-book/the-ladder"))!.Status.ShouldBe(404);
        await page.GetByRole(AriaRole.Button, new() { Name = "Publish", Exact = true }).ClickAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Publish now" }).ClickAsync();
        await page.GetByText("published", new() { Exact = true }).First.WaitForAsync();
        await page.GetByLabel("By a gate of its own").CheckAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Save who may" }).ClickAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Save who may" }).WaitForAsync(new() { State = WaitForSelectorState.Detached });
        await page.GetByRole(AriaRole.Button, new() { Name = "Compare" }).WaitForAsync();

        (await visitor.GotoAsync(site.Site + "/night-book/the-ladder"))!.Status.ShouldBe(401);
        await visitor.GetByLabel("E-mail or user name").FillAsync("nell");
        await visitor.GetByLabel("Password", new() { Exact = true }).FillAsync("orchard-quiet-91");
        await visitor.GetByRole(AriaRole.Button, new() { Name = "Sign in" }).ClickAsync();
        await visitor.GetByText("The wholesale ladder.").WaitForAsync();
        (await visitor.ContentAsync()).ShouldNotContain("The ladder of the shop");
        (await visitor.EvaluateAsync<bool>("document.querySelector('.article img').naturalWidth > 0")).ShouldBeTrue();
        (await visitor.EvaluateAsync<bool>("document.documentElement.scrollWidth <= innerWidth")).ShouldBeTrue();
        await AccessibleAsync(visitor);
        await visitor.GetByLabel("Search the pages").FillAsync("wholesale");
        await visitor.GetByLabel("Search the pages").PressAsync("Enter");
        await visitor.GetByRole(AriaRole.Link, new() { Name = "The ladder" }).WaitForAsync();
        await AccessibleAsync(visitor);
    }

    [Fact]
    public async Task A_look_is_tried_beside_the_page_refused_where_it_could_hardly_be_read_and_pages_in_it_are_accessible()
    {
        var page = await ConsoleAsync("/pages/look");
        var preview = page.FrameLocator("iframe[title='The page in this look']");
        await preview.GetByRole(AriaRole.Heading, new() { Name = "Sign in" }).WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByLabel("Accent", new() { Exact = true }).FillAsync("#e8c15a");
        await page.GetByText("The nearest that passes is #8a7336").First.WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByLabel("Accent", new() { Exact = true }).FillAsync("#8a7336");
        await page.GetByLabel("Light or dark").SelectOptionAsync("auto");
        await preview.Locator("body[data-theme=auto]").WaitForAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Save the look" }).ClickAsync();
        await page.Locator("button:disabled", new() { HasText = "Save the look" }).WaitForAsync();
        var visitor = await NewPageAsync(390);
        foreach (var path in new[] { "/account/sign-in", "/account/register", "/account/unlock", "/shop/dealer-stock", "/account/closed", "/account/terms" })
        {
            await visitor.GotoAsync(site.Site + path);
            await AccessibleAsync(visitor);
        }
    }

    [Fact]
    public async Task Pages_in_Arabic_read_from_right_to_left_and_in_every_language_they_are_accessible_and_fit_a_phone()
    {
        var visitor = await NewPageAsync(390);
        await visitor.GotoAsync(site.Site + "/account/sign-in");
        await visitor.Locator("summary").ClickAsync();
        await visitor.GetByRole(AriaRole.Link, new() { Name = "العربية" }).ClickAsync();
        await visitor.WaitForURLAsync("**/account/sign-in");
        (await visitor.EvaluateAsync<string>("getComputedStyle(document.querySelector('h1')).direction")).ShouldBe("rtl");
        foreach (var path in new[] { "/account/register", "/account/sign-in", "/account/unlock", "/account/password/forgotten" })
        {
            await visitor.GotoAsync(site.Site + path);
            await AccessibleAsync(visitor);
            (await visitor.EvaluateAsync<bool>("document.documentElement.scrollWidth <= innerWidth")).ShouldBeTrue("nothing stands out");
        }

        // The meter counts as the language does: twelve are needed, nine are typed, three are few.
        await site.Client.AddMemberAsync(
            "aziza@hollow.example", "Aziza Hollow", null, "lamps-on-the-far-bank", [], [], [], TestContext.Current.CancellationToken);
        var member = await NewPageAsync(390);
        await SignInAsync(member, "aziza@hollow.example", "lamps-on-the-far-bank");
        await member.WaitForFunctionAsync("() => !location.pathname.includes('sign-in')");
        await member.GotoAsync(site.Site + "/account/password?language=ar");
        await member.Locator("input[data-meter]").FillAsync("abcdefghi");
        await member.GetByText("بقيت 3 أحرف").WaitForAsync();
        await AccessibleAsync(member);
        foreach (var language in new[] { "de", "fr", "es", "it", "nl", "pl", "ja" })
        {
            await visitor.GotoAsync($"{site.Site}/account/sign-in?language={language}");
            (await visitor.GetAttributeAsync("html", "lang")).ShouldBe(language);
            await AccessibleAsync(visitor);
            (await visitor.EvaluateAsync<bool>("document.documentElement.scrollWidth <= innerWidth")).ShouldBeTrue($"nothing stands out in {language}");
        }
    }
}
