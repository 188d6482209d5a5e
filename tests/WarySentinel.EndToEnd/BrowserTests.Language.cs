using System.Text.RegularExpressions;
using Microsoft.Playwright;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>The console in German: every page that the rail leads to, wide and on a phone, and what the service says in it.</summary>
public sealed partial class BrowserTests
{
    [Fact]
    public async Task The_console_is_read_in_German_from_the_sign_in_on_and_keeps_to_it()
    {
        // A site of its own: what others typed on the shared one is no German.
        await using var own = await RunningSite.StartAsync();
        var page = await NewPageAsync();
        await page.GotoAsync(own.Admin + "/gates");
        await page.GetByLabel("The console speaks").SelectOptionAsync("de");
        await page.GetByRole(AriaRole.Heading, new() { Name = "Anmelden" }).WaitForAsync();
        (await page.Locator("html").GetAttributeAsync("lang")).ShouldBe("de");
        await AccessibleAsync(page);
        await page.GetByLabel("E-Mail oder Benutzername").FillAsync(RunningSite.Owner);
        await page.GetByLabel("Passwort", new() { Exact = true }).FillAsync("das falsche Passwort");
        await page.GetByRole(AriaRole.Button, new() { Name = "Anmelden" }).ClickAsync();
        await page.GetByRole(AriaRole.Alert).WaitForAsync();
        (await page.GetByRole(AriaRole.Alert).InnerTextAsync()).ShouldContain("Das passte nicht.");
        await page.GetByLabel("Passwort", new() { Exact = true }).FillAsync(RunningSite.Password);
        await page.GetByRole(AriaRole.Button, new() { Name = "Anmelden" }).ClickAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "Tore", Exact = true }).WaitForAsync();
        await page.GetByText("sehen es gelistet").First.WaitForAsync();
        await page.ReloadAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "Tore", Exact = true }).WaitForAsync();

        var addresses = await page.Locator(".rail a").EvaluateAllAsync<string[]>("all => all.map(a => a.getAttribute('href'))");
        addresses.Length.ShouldBeGreaterThan(25);
        var wrong = new List<string>();
        foreach (var address in addresses)
        {
            await page.GotoAsync(own.Admin + address);
            await page.Locator("main h1").WaitForAsync();
            await page.WaitForLoadStateAsync(LoadState.NetworkIdle);
            foreach (var width in new[] { 390, 1280 })
            {
                await page.SetViewportSizeAsync(width, 800);
                wrong.AddRange(await FitsAsync(page) ? [] : [$"{address} stands out at {width}"]);
                // None of the little words that no German sentence has. Names stay as they are, and what the trail keeps as whoever did it read it.
                var lines = (await page.Locator("main").InnerTextAsync()).Split('\n');
                wrong.AddRange(lines.Where(l => (English().IsMatch(l) && !l.Contains(" and all in it", StringComparison.Ordinal))
                    || Unfilled().IsMatch(l)).Select(l => $"{address} says: {l}"));
            }
        }

        wrong.Distinct().ShouldBeEmpty();

        await page.SetViewportSizeAsync(390, 800);
        await page.GetByRole(AriaRole.Button, new() { Name = "Menü" }).ClickAsync();
        await page.GetByLabel("Die Konsole spricht").SelectOptionAsync("en");
        await page.GetByText("The console speaks").Or(page.GetByLabel("The console speaks")).First.WaitForAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "Settings" }).WaitForAsync();
    }

    /// <summary>Whether nothing stands out, once what is drawn to measure has been drawn anew.</summary>
    private static async Task<bool> FitsAsync(IPage page)
    {
        try
        {
            await page.WaitForFunctionAsync("document.documentElement.scrollWidth <= innerWidth", null, new() { Timeout = 3000 });
            return true;
        }
        catch (TimeoutException)
        {
            return false;
        }
    }

    [GeneratedRegex(@"\b(which|whoever|whether|their|nobody|everybody|are|may)\b", RegexOptions.IgnoreCase)]
    private static partial Regex English();

    [GeneratedRegex(@"\{\{\w+\}\}")]
    private static partial Regex Unfilled();
}
