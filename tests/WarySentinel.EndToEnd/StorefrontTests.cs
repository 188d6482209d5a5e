using System.Net;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Http;
using Microsoft.Extensions.FileProviders;
using Microsoft.Playwright;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>A React application with routes in the browser's history and data by JSON, guarded without its knowledge.</summary>
public sealed class StorefrontTests(ChromiumFixture fixture) : IClassFixture<ChromiumFixture>, IAsyncLifetime
{
    private static readonly object[] Lamps =
    [
        new { sku = "desk", title = "Desk lamp", price = "€ 20" }, new { sku = "searchlight", title = "Searchlight", price = "€ 900" },
        new { sku = "lantern", title = "Lantern", price = "€ 35" },
    ];
    private WebApplication shop = null!;
    private RunningSite site = null!;
    private string origin = "";

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        origin = $"http://127.0.0.1:{RunningSite.FreePort()}";
        shop = Shop(origin);
        await shop.StartAsync(Stop);
        site = await RunningSite.StartAsync(origin);
        await site.Client.AddItemAsync("product:searchlight", "Searchlight", [], ["/lamp/searchlight", "/api/lamps/searchlight"], Stop);
        await site.Client.AddItemAsync("product:lantern", "Lantern", [], ["/lamp/lantern", "/api/lamps/lantern"], Stop);
        await site.Client.AddGateAsync(new Contract.Gates.GateDraft
        { Key = "searchlights", Title = "Searchlights", Covers = ["product:searchlight"], Audience = "role:dealer", Presence = "hidden" }, Stop);
        await site.Client.AddGateAsync(new Contract.Gates.GateDraft
        { Key = "lantern-price", Title = "Lantern's price", Covers = ["product:lantern"], Audience = "role:dealer", Acts = ["price"] }, Stop);
        await site.Client.PutEntryAsync("shelf", new Contract.Entries.EntryDraft
        { At = ["/api/lamps"], Entry = "$[*]", About = "product:{sku}", Price = "@.price" }, Stop);
    }

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        await shop.DisposeAsync();
    }

    [Fact]
    public async Task Its_list_lacks_what_is_hidden_its_routes_go_on_working_and_its_data_is_refused_in_words()
    {
        var context = await fixture.Chromium.NewContextAsync();
        var page = await context.NewPageAsync();
        await page.GotoAsync(site.Site + "/");
        await page.GetByText("Desk lamp").WaitForAsync();
        (await page.GetByRole(AriaRole.Listitem).AllInnerTextsAsync()).ShouldBe(["Desk lamp € 20", "Lantern"]);

        // By the browser's history: nothing but data is asked for.
        await page.GetByRole(AriaRole.Link, new() { Name = "Desk lamp" }).ClickAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "Desk lamp" }).WaitForAsync();
        new Uri(page.Url).AbsolutePath.ShouldBe("/lamp/desk");
        await page.ReloadAsync();
        await page.GetByRole(AriaRole.Heading, new() { Name = "Desk lamp" }).WaitForAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "All lamps" }).ClickAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "The lamp of the month" }).ClickAsync();
        (await page.GetByRole(AriaRole.Alert).InnerTextAsync()).ShouldStartWith("401: ");
        (await page.ContentAsync()).ShouldNotContain("Searchlight");
        await page.GoBackAsync();
        await page.GetByText("Desk lamp").WaitForAsync();

        // By its address: the way in, and on to the page that was wanted.
        await page.GotoAsync(site.Site + "/lamp/searchlight");
        await page.GetByLabel("E-mail or user name").FillAsync("nell");
        await page.GetByLabel("Password").FillAsync("orchard-quiet-91");
        await page.Keyboard.PressAsync("Enter");
        await page.GetByRole(AriaRole.Heading, new() { Name = "Searchlight" }).WaitForAsync();
        await page.GetByRole(AriaRole.Link, new() { Name = "All lamps" }).ClickAsync();
        await page.GetByText("Searchlight").WaitForAsync();
        (await page.GetByRole(AriaRole.Listitem).AllInnerTextsAsync()).ShouldBe(["Desk lamp € 20", "Searchlight € 900", "Lantern € 35"]);
        await context.CloseAsync();
    }

    [Fact]
    public async Task Its_page_and_its_scripts_are_the_origins_byte_for_byte_with_their_tags()
    {
        using var direct = new Browser(origin);
        using var guest = site.NewBrowser();
        var scripts = Directory.EnumerateFiles(Path.Combine(Dist, "assets")).Select(f => "/assets/" + Path.GetFileName(f)).ToList();
        scripts.ShouldNotBeEmpty();
        foreach (var path in scripts.Append("/").Append("/lamp/desk"))
        {
            for (var time = 0; time < 2; time++)
            {
                using var expected = await direct.GetAsync(path);
                using var answer = await guest.GetAsync(path);
                (await answer.Content.ReadAsByteArrayAsync(Stop)).ShouldBe(await expected.Content.ReadAsByteArrayAsync(Stop), path);
                if (time == 1 || path.StartsWith("/assets/", StringComparison.Ordinal))
                {
                    answer.Headers.ETag.ShouldBe(expected.Headers.ETag, path);
                    answer.Headers.CacheControl.ShouldBe(expected.Headers.CacheControl, path);
                    answer.Content.Headers.LastModified.ShouldBe(expected.Content.Headers.LastModified, path);
                }
            }
        }
    }

    private static string Dist => Path.Combine(RunningSite.Root, "console", "tests", "storefront", "dist");

    private static WebApplication Shop(string address)
    {
        var app = SmallSite.At(address);
        var files = new PhysicalFileProvider(Dist);
        app.UseStaticFiles(new StaticFileOptions
        {
            FileProvider = files,
            OnPrepareResponse = file => file.Context.Response.Headers.CacheControl =
                file.File.Name.EndsWith(".html", StringComparison.Ordinal) ? "no-cache" : "public, max-age=31536000, immutable",
        });
        app.MapGet("/api/lamps", () => Lamps);
        app.MapGet("/api/lamps/{sku}", (string sku) =>
            Lamps.FirstOrDefault(l => sku == (string?)l.GetType().GetProperty("sku")!.GetValue(l)) is { } lamp ? Results.Ok(lamp) : Results.NotFound());
        app.MapFallback(async http =>
        {
            http.Response.ContentType = "text/html";
            var page = files.GetFileInfo("index.html");
            http.Response.Headers.ETag = $"\"{page.LastModified.Ticks:x}\"";
            http.Response.Headers.CacheControl = "no-cache";
            await http.Response.SendFileAsync(page);
        });
        return app;
    }
}
