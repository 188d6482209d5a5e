using Microsoft.Playwright;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

public sealed class ChromiumFixture : IAsyncLifetime
{
    // The same browser without its windows, where it is installed: it takes a third less time.
    private static readonly string Shell = new[] { "/usr/bin/chromium-headless-shell", "/usr/bin/chromium" }.First(File.Exists);
    private IPlaywright playwright = null!;

    public IBrowser Chromium { get; private set; } = null!;

    public RunningSite Site { get; private set; } = null!;

    public static string Axe { get; } = File.ReadAllText(Path.Combine(RunningSite.Root, "console", "node_modules", "axe-core", "axe.min.js"));

    public async ValueTask InitializeAsync()
    {
        Site = await RunningSite.StartAsync();
        playwright = await Playwright.CreateAsync();
        Chromium = await playwright.Chromium.LaunchAsync(new()
        {
            ExecutablePath = Shell,
            Args = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update",
            "--disable-sync"],
        });
    }

    public async ValueTask DisposeAsync()
    {
        await Chromium.DisposeAsync();
        playwright.Dispose();
        await Site.DisposeAsync();
    }
}

/// <summary>A real browser in front of a site that the tests of one class share.</summary>
public abstract class OnChromium(ChromiumFixture fixture) : IClassFixture<ChromiumFixture>, IAsyncDisposable
{
    private const string AllRules = "['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']";
    private readonly List<IBrowserContext> profiles = [];

#pragma warning disable CA1051 // read by every test
    protected readonly RunningSite site = fixture.Site;
#pragma warning restore CA1051

    protected IBrowser Chromium => fixture.Chromium;

    protected async Task SignInAsync(IPage visitor, string name, string password)
    {
        await visitor.GotoAsync(site.Site + "/account/sign-in");
        await visitor.GetByLabel("E-mail or user name").FillAsync(name);
        await visitor.GetByLabel("Password").FillAsync(password);
        await visitor.GetByRole(AriaRole.Button, new() { Name = "Sign in" }).ClickAsync();
    }

    /// <summary>Closes what the test opened: a page that nobody looks at any more goes on asking.</summary>
    public virtual async ValueTask DisposeAsync()
    {
        GC.SuppressFinalize(this);
        await Task.WhenAll(profiles.Select(p => p.CloseAsync()));
    }

    /// <summary>A page in a fresh profile.</summary>
    protected async Task<IPage> NewPageAsync(int width = 1280)
    {
        profiles.Add(await Chromium.NewContextAsync(new() { ViewportSize = new() { Width = width, Height = 800 }, ReducedMotion = ReducedMotion.Reduce }));
        return await profiles[^1].NewPageAsync();
    }

    /// <summary>Waits until the page itself says that it is at an address: it may be there before anybody listens for its going there.</summary>
    protected static Task AtAsync(IPage page, string path) => page.WaitForFunctionAsync("path => location.pathname === path", path);

    protected async Task<IPage> ConsoleAsync(string path, int width = 1280)
    {
        var page = await NewPageAsync(width);
        await page.GotoAsync(site.Admin + path);
        await page.GetByLabel("E-mail or user name").FillAsync(RunningSite.Owner);
        await page.GetByLabel("Password").FillAsync(RunningSite.Password);
        await page.GetByRole(AriaRole.Button, new() { Name = "Sign in" }).ClickAsync();
        await page.Locator("main h1").WaitForAsync();
        return page;
    }

    /// <summary>WCAG 2.2 A and AA, as far as a machine can tell.</summary>
    protected static async Task AccessibleAsync(IPage page)
    {
        // The themes differ in their colours alone.
        foreach (var (theme, rules) in new[] { (ColorScheme.Dark, "['color-contrast']"), (ColorScheme.Light, AllRules) })
        {
            await page.EmulateMediaAsync(new() { ColorScheme = theme });
            // In one go with what looks: a page that loads itself anew has it no more.
            var found = await page.EvaluateAsync<string[]>(
                "async () => { " + ChromiumFixture.Axe
                    + $"; return (await axe.run(document, {{ runOnly: {rules} }})).violations"
                    + ".map(v => v.id + ': ' "
                    + "+ v.nodes.map(n => n.html.slice(0, 120)).join(' | ')); }");
            found.ShouldBeEmpty($"in the {theme} theme");
        }
    }
}
