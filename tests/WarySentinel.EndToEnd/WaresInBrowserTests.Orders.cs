using Microsoft.Playwright;
using Shouldly;
using WarySentinel.StandIns.Mailbox;
using WarySentinel.StandIns.Payments;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>From a payment to an open door, as owner and buyer see it.</summary>
public sealed partial class WaresInBrowserTests
{
    [Fact]
    public async Task An_order_opens_the_door_by_itself_and_a_refund_closes_it()
    {
        var (smtp, payments) = (RunningSite.FreePort(), $"http://127.0.0.1:{RunningSite.FreePort()}");
        await using var mailbox = new SmtpMailbox(smtp);
        await using var shop = await RunningSite.StartAsync(
            settings: [$"--Wary:Smtp=smtp://127.0.0.1:{smtp}", "--Wary:MailFrom=lamp@fernlight.example", "--Wary:RoundMilliseconds=200"]);
        var owner = await NewPageAsync();
        await owner.GotoAsync(shop.Admin + "/fulfilment");
        await owner.GetByLabel("E-mail or user name").FillAsync(RunningSite.Owner);
        await owner.GetByLabel("Password").FillAsync(RunningSite.Password);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Sign in" }).ClickAsync();

        // The owner says what an order gives, and sees what it would do.
        await owner.GetByRole(AriaRole.Button, new() { Name = "Add a rule" }).ClickAsync();
        await owner.GetByLabel("Stock code").FillAsync("DEALER-KIT");
        await owner.GetByLabel("Dealers").CheckAsync();
        await owner.GetByText("An order for DEALER-KIT gives the role Dealers").WaitForAsync();
        await owner.GetByText("They have the role Dealers from now on").WaitForAsync();
        await AccessibleAsync(owner);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await owner.GetByRole(AriaRole.Dialog).WaitForAsync(new() { State = WaitForSelectorState.Detached });

        // Who tells of orders: made, and its secret told once.
        await owner.GotoAsync(shop.Admin + "/order-sources");
        await owner.GetByRole(AriaRole.Button, new() { Name = "Add a source" }).ClickAsync();
        await owner.GetByLabel("Name", new() { Exact = true }).FillAsync("Hilltop Payments");
        await owner.GetByLabel("In the address").FillAsync("hilltop");
        await owner.GetByLabel("Page for paying").FillAsync(payments + "/checkout?code={code}&token={token}&return={return}");
        await owner.GetByLabel("The browser that paid").CheckAsync();
        await AccessibleAsync(owner);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await owner.GetByRole(AriaRole.Button, new() { Name = "Make a secret" }).ClickAsync();
        var secret = await owner.Locator(".told code").TextContentAsync();
        await owner.Locator("dialog .btn.prime, [role=dialog] .btn.prime").First.ClickAsync();

        using var desk = new PaymentDesk(shop.Site + "/sentinel/hooks/hilltop", secret!) { Repeats = 2 };
        await using var processor = PaymentSite.Build(desk, payments);
        await processor.StartAsync(TestContext.Current.CancellationToken);
        desk.Holds = true;

        // A buyer in a fresh browser pays; the call takes its time.
        var buyer = await NewPageAsync();
        await buyer.GotoAsync(shop.Site + "/account/pay?code=DEALER-KIT");
        await buyer.GetByLabel("E-mail", new() { Exact = true }).FillAsync("odd@payday.example");
        await buyer.GetByRole(AriaRole.Button, new() { Name = "Pay", Exact = true }).ClickAsync();
        await buyer.GetByText("waiting to hear").WaitForAsync();
        await AccessibleAsync(buyer);
        desk.Release();
        await buyer.GetByText("o•••@payday.example").WaitForAsync();
        await AccessibleAsync(buyer);

        // The address was mistyped: put right, once; the letters go to the right one.
        await buyer.GetByText("Is the address wrong?").ClickAsync();
        await buyer.GetByLabel("The right address").FillAsync("ode@payday.example");
        await buyer.GetByRole(AriaRole.Button, new() { Name = "Put it right" }).ClickAsync();
        await buyer.GetByText("From now on everything goes to o•••@payday.example").WaitForAsync();
        await buyer.GetByRole(AriaRole.Button, new() { Name = "Choose a password and go in" }).ClickAsync();
        await buyer.Locator("input[name=password]").FillAsync("a-kit-under-the-stars-9");
        await buyer.Locator("main form button.prime").ClickAsync();
        await buyer.WaitForURLAsync(u => !u.Contains("/password/set", StringComparison.Ordinal));
        (await buyer.GotoAsync(shop.Site + "/shop/dealer-stock"))!.Status.ShouldBe(200);
        mailbox.Letters.Where(l => l.To.Contains("odd@payday.example")).ShouldNotBeEmpty();

        // The owner reads its story, and gives the money back.
        await owner.GotoAsync(shop.Admin + "/orders");
        await AccessibleAsync(owner);
        await owner.GetByRole(AriaRole.Link, new() { NameRegex = new("^FO-") }).ClickAsync();
        await owner.GetByText("Goes to another address").WaitForAsync();
        await AccessibleAsync(owner);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Refund" }).ClickAsync();
        await owner.GetByRole(AriaRole.Dialog).GetByRole(AriaRole.Button, new() { Name = "Refund" }).ClickAsync();
        await owner.GetByText("Refunded", new() { Exact = true }).WaitForAsync();
        (await buyer.GotoAsync(shop.Site + "/shop/dealer-stock"))!.Status.ShouldBe(403);
    }
}
