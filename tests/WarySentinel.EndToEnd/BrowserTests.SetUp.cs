using System.Diagnostics;
using System.Net;
using Microsoft.Playwright;
using Shouldly;
using WarySentinel.StandIns.Mailbox;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>From an empty store to a guarded site, click by click.</summary>
public sealed partial class BrowserTests
{
    private static readonly TimeSpan LongestSetUp = TimeSpan.FromMinutes(5);

    [Fact]
    public async Task An_owner_goes_from_an_empty_store_to_a_guarded_site()
    {
        var port = RunningSite.FreePort();
        await using var mailbox = new SmtpMailbox(port);
        await using var empty = await RunningSite.StartAsync(
            settings: [$"--Wary:Smtp=smtp://127.0.0.1:{port}", "--Wary:MailFrom=lamp@fernlight.example", "--Wary:RoundMilliseconds=200"], empty: true);
        var began = Stopwatch.StartNew();
        var page = await NewPageAsync();
        await page.GotoAsync($"{empty.Admin}/first-owner?code={empty.SetUpCode}");
        await page.GetByLabel("Your name").FillAsync("Juniper Fern");
        await page.GetByLabel("E-mail").FillAsync(RunningSite.Owner);
        await page.GetByLabel("Password").FillAsync(RunningSite.Password);
        await page.GetByRole(AriaRole.Button, new() { Name = "Begin" }).ClickAsync();

        // The first run leads there, and knows what the front page says.
        await AtAsync(page, "/set-up");
        await Assertions.Expect(page.GetByLabel("Name", new() { Exact = true })).ToHaveValueAsync("Fernlight Observatory");
        await Assertions.Expect(page.GetByRole(AriaRole.Checkbox, new() { Name = "Members /members" })).ToBeCheckedAsync();
        await page.GetByRole(AriaRole.Checkbox, new() { Name = "Downloads /downloads" }).CheckAsync();
        await page.GetByLabel("Lasts").FillAsync("30");
        await page.GetByLabel("A membership you sell").FillAsync("Night pass");
        await page.Keyboard.PressAsync("Enter");
        await page.GetByText("(30 days)").WaitForAsync();
        await page.GetByRole(AriaRole.Radio, new() { Name = "somebody else" }).CheckAsync();
        await page.GetByLabel("Whom", new() { Exact = true }).FillAsync("plan:night-pas");
        await page.GetByText("Did you mean").First.WaitForAsync();
        await Assertions.Expect(page.GetByRole(AriaRole.Button, new() { Name = "Set it up" })).ToBeDisabledAsync();
        await page.GetByRole(AriaRole.Radio, new() { Name = "whoever holds one" }).CheckAsync();
        await page.GetByLabel("Who may join").SelectOptionAsync("approval");
        await page.GetByLabel("Where they land").FillAsync("/members");
        await page.GetByText("only Night pass members may open it").WaitForAsync();
        await AccessibleAsync(page);
        await page.GetByRole(AriaRole.Button, new() { Name = "Set it up" }).ClickAsync();

        await page.GetByText("A guest is turned away at /downloads").WaitForAsync();
        await page.GetByText("Whoever should (plan:night-pass) gets in at /members (200)").WaitForAsync();
        await page.GetByRole(AriaRole.Button, new() { Name = "Send one to " + RunningSite.Owner }).ClickAsync();
        await page.GetByText("is under way").WaitForAsync();
        var letter = await ArrivedAsync(mailbox);
        var mail = await NewPageAsync();
        await mail.GotoAsync(letter.Text.Split('\n', ' ').First(w => w.Contains("/letters/arrived?", StringComparison.Ordinal)).Trim());
        await mail.GetByRole(AriaRole.Heading, new() { Name = "It arrived" }).WaitForAsync();
        await AccessibleAsync(mail);
        await page.GetByRole(AriaRole.Button, new() { Name = "Try again" }).ClickAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "It holds", Exact = true }).WaitForAsync();
        await page.GetByText("Your pages").WaitForAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "Registration" }).WaitForAsync();
        await AccessibleAsync(page);
        began.Elapsed.ShouldBeLessThan(LongestSetUp);

        // A visitor who knows nothing of it.
        using var guest = empty.NewBrowser();
        (await guest.StatusAsync("/members")).ShouldBe(HttpStatusCode.Unauthorized);
        (await guest.StatusAsync("/visit")).ShouldBe(HttpStatusCode.OK);
        (await guest.PageAsync("/account/register")).ShouldContain("Fernlight Observatory");
        await page.Context.CloseAsync();
        await mail.Context.CloseAsync();
    }

    private static async Task<Letter> ArrivedAsync(SmtpMailbox mailbox)
    {
        for (var tries = 0; tries < 200; tries++)
        {
            if (mailbox.Letters.FirstOrDefault(l => l.Subject.Contains("letters arrive", StringComparison.Ordinal)) is { } found)
            {
                return found;
            }

            await Task.Delay(100, TestContext.Current.CancellationToken);
        }

        throw new TimeoutException("No letter came.");
    }
}
