using Microsoft.Playwright;
using Shouldly;
using WarySentinel.Contract.Gates;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>A show, as owner and listener see and hear it.</summary>
public sealed partial class WaresInBrowserTests
{
    [Fact]
    public async Task A_show_is_made_heard_on_its_page_and_taken_along_by_a_feed_of_ones_own()
    {
        var stop = TestContext.Current.CancellationToken;
        await using var shop = await RunningSite.StartAsync();
        await shop.Client.AddItemAsync("show:dusk", "Dusk", [], [], stop);
        await shop.Client.AddItemAsync("episode:dusk-08", "The longest night", ["show:dusk"], [], stop);
        await shop.Client.AddGateAsync(new GateDraft { Key = "hours", Title = "Hours", Covers = ["show:dusk"], Audience = "role:dealer" }, stop);
        var owner = await NewPageAsync();
        await owner.GotoAsync(shop.Admin + "/shows");
        await owner.GetByLabel("E-mail or user name").FillAsync(RunningSite.Owner);
        await owner.GetByLabel("Password").FillAsync(RunningSite.Password);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Sign in" }).ClickAsync();
        await owner.GetByText("No shows yet").WaitForAsync();
        await AccessibleAsync(owner);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Add a show" }).ClickAsync();
        await owner.GetByLabel("The show in the catalogue").FillAsync("show:dus");
        await owner.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await owner.GetByText("Did you mean “show:dusk”?").WaitForAsync();
        await owner.GetByLabel("The show in the catalogue").FillAsync("show:dusk");
        await owner.GetByLabel("What it is about").FillAsync("A show a month.");
        await owner.GetByLabel("Picture").SetInputFilesAsync(Demo("cover.jpg"));
        await AccessibleAsync(owner);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await owner.GetByText("No episodes yet").WaitForAsync();
        await owner.GetByRole(AriaRole.Button, new() { Name = "Add an episode" }).ClickAsync();
        await owner.GetByLabel("Episode", new() { Exact = true }).SelectOptionAsync("episode:dusk-08");
        await owner.GetByLabel("File", new() { Exact = true }).SetInputFilesAsync(Demo("hours-08.mp3"));
        await owner.GetByLabel("How long it lasts").FillAsync("14");
        await AccessibleAsync(owner);
        await owner.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await owner.GetByText("“14” is no length").WaitForAsync();
        await owner.GetByLabel("How long it lasts").FillAsync("0:14");
        await owner.GetByRole(AriaRole.Button, new() { Name = "Save" }).ClickAsync();
        await owner.GetByRole(AriaRole.Button, new() { Name = "The longest night" }).WaitForAsync();
        await owner.GetByText("42.2 kB").WaitForAsync();
        await AccessibleAsync(owner);

        var listener = await NewPageAsync(390);
        (await listener.GotoAsync(shop.Site + "/account/listen/dusk"))!.Status.ShouldBe(401);
        await listener.GetByLabel("E-mail or user name").FillAsync("nell");
        await listener.GetByLabel("Password", new() { Exact = true }).FillAsync("orchard-quiet-91");
        await listener.Locator("main form button.prime").First.ClickAsync();
        // The page that was asked for comes first; the account leads there, too.
        await listener.GetByRole(AriaRole.Heading, new() { Name = "The longest night" }).WaitForAsync();
        await listener.GotoAsync(shop.Site + "/account/");
        await listener.GetByRole(AriaRole.Link, new() { Name = "Listen to Dusk" }).ClickAsync();
        await AccessibleAsync(listener);
        (await listener.EvaluateAsync<double>(
            "async () => { const a = document.querySelector('audio'); a.muted = true; await a.play(); a.currentTime = 10; "
            + "await new Promise(r => a.onseeked = r); return a.currentTime; }")).ShouldBeGreaterThanOrEqualTo(10);
        (await listener.EvaluateAsync<int>("() => document.querySelector('img.cover').naturalWidth")).ShouldBe(400);
        await listener.GetByRole(AriaRole.Button, new() { Name = "Get my feed address" }).ClickAsync();
        var address = await listener.GetByLabel("Your feed address").InputValueAsync();
        await AccessibleAsync(listener);
        using var app = new HttpClient();
        (await app.GetStringAsync(address, stop)).ShouldContain("dusk-08.mp3\" length=\"42162\" type=\"audio/mpeg\"");
        await listener.GetByRole(AriaRole.Button, new() { Name = "Take another address" }).ClickAsync();
        await listener.GetByText("This is your new address").WaitForAsync();
        using var before = await app.GetAsync(address, stop);
        ((int)before.StatusCode).ShouldBe(410);
        await owner.ReloadAsync();
        await owner.GetByText("nell@orchard-optics.example").WaitForAsync();
    }

    private static string Demo(string file) => Path.Combine(RunningSite.Root, "demo", "shows", "hours-of-dark", file);
}
