using System.Collections.Concurrent;
using System.Net;
using PuppeteerSharp;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>A page as a browser made it.</summary>
/// <param name="Text">All that stands in it at the end, in its frames and shadow trees too.</param>
/// <param name="Answers">What its scripts asked for, and got.</param>
/// <param name="Elsewhere">Hosts that it wanted something of, and that were not asked.</param>
internal sealed record DrawnPage(string Text, IReadOnlyList<DrawnAnswer> Answers, IReadOnlyList<string> Elsewhere);

/// <summary>What a script of a page asked for.</summary>
internal sealed record DrawnAnswer(Uri Url, string Method, Sighting Seen);

/// <summary>
/// Chromium without a window. It has no way into any network: whatever it asks for, the service asks for in its place, by the rules of its own requests, so
/// that no script reaches a host that the service would not.
/// </summary>
internal sealed class SweepBrowser : IAsyncDisposable
{
    private const int LoadMilliseconds = 10_000;
    private const int QuietMilliseconds = 300;
    private const int StillMilliseconds = 3000;
    private const int MostText = 4 << 20;

    private static readonly string[] Usual = ["chromium", "chromium-browser", "chrome"];

    private static readonly string[] Arguments =
    [
        // Where our answering of requests did not reach, there is nothing. Through a pipe, it is started by a shell, to which the brackets say something.
        "--proxy-server=http://127.0.0.1:9", "'--proxy-bypass-list=<-loopback>'", "--disable-quic", "--force-webrtc-ip-handling-policy=disable_non_proxied_udp",
        "--disable-background-networking", "--disable-dev-shm-usage", "--disable-gpu", "--disable-sync", "--mute-audio", "--no-first-run",
        "--blink-settings=imagesEnabled=false",
    ];

    private readonly IBrowser browser;
    private readonly HttpClient http;
    private readonly Func<Uri, bool> isOurs;

    private SweepBrowser(IBrowser browser, HttpClient http, Func<Uri, bool> isOurs) => (this.browser, this.http, this.isOurs) = (browser, http, isOurs);

    /// <summary>The browser of the settings, or one that is installed; null where there is none, or none is wanted.</summary>
    public static string? Find(string setting) => setting == "none" ? null : setting.Length > 0 ? setting
        : (Environment.GetEnvironmentVariable("PATH") ?? "").Split(':', StringSplitOptions.RemoveEmptyEntries)
            .SelectMany(folder => Usual.Select(name => Path.Combine(folder, name))).FirstOrDefault(File.Exists);

    /// <summary>Starts it.</summary>
    /// <param name="path">The program.</param>
    /// <param name="http">What asks in its place.</param>
    /// <param name="isOurs">Whether an address may be asked for.</param>
    public static async Task<SweepBrowser> OpenAsync(string path, HttpClient http, Func<Uri, bool> isOurs)
    {
        // Root has no sandbox to give: Chromium would not start.
        string[] arguments = Environment.IsPrivilegedProcess ? [.. Arguments, "--no-sandbox"] : Arguments;
        return new SweepBrowser(
            await Puppeteer.LaunchAsync(new LaunchOptions
            {
                ExecutablePath = path, Headless = true, Pipe = true, Args = arguments, Timeout = 30_000,
                DefaultViewport = new ViewPortOptions { Width = 1280, Height = 2000 },
            }),
            http, isOurs);
    }

    /// <summary>Draws a page as somebody who was never there before; null where that came to nothing.</summary>
    public async Task<DrawnPage?> DrawAsync(Uri url, CancellationToken stop)
    {
        var context = await browser.CreateBrowserContextAsync(
            new BrowserContextOptions { DownloadBehavior = new DownloadBehavior { Policy = DownloadPolicy.Deny } });
        var (answers, elsewhere, cookies) = (new ConcurrentQueue<DrawnAnswer>(), new ConcurrentDictionary<string, bool>(), new CookieContainer());
        try
        {
            await using var page = await context.NewPageAsync();
            await page.SetBypassServiceWorkerAsync(true);
            await page.SetRequestInterceptionAsync(true);
            await page.EvaluateFunctionOnNewDocumentAsync(DrawnText.Prepare);
            page.Dialog += async (_, e) => await Quietly(e.Dialog.Dismiss());
            page.Request += async (_, e) => await Quietly(AnswerAsync(e.Request, url, answers, elsewhere, cookies, stop));
            await page.GoToAsync(
                url.AbsoluteUri, new NavigationOptions { Timeout = LoadMilliseconds, WaitUntil = [WaitUntilNavigation.Load], CancellationToken = stop });
            await StillAsync(page);
            await page.EvaluateFunctionAsync(DrawnText.Scroll);
            await StillAsync(page);
            var text = new System.Text.StringBuilder();
            foreach (var frame in page.Frames)
            {
                text.Append(await frame.EvaluateFunctionAsync<string>(DrawnText.Read)).Append('\n');
            }

            return new DrawnPage(text.Length > MostText ? text.ToString(0, MostText) : text.ToString(), [.. answers], [.. elsewhere.Keys]);
        }
        catch (Exception fault) when (fault is PuppeteerException or TimeoutException or System.Text.Json.JsonException
            || (fault is OperationCanceledException && !stop.IsCancellationRequested))
        {
            return null;
        }
        finally
        {
            await Quietly(context.CloseAsync());
        }
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync() => await Quietly(browser.DisposeAsync().AsTask());

    private static async Task StillAsync(IPage page)
    {
        try
        {
            await page.WaitForNetworkIdleAsync(new WaitForNetworkIdleOptions { IdleTime = QuietMilliseconds, Timeout = StillMilliseconds });
        }
        catch (Exception fault) when (fault is TimeoutException or PuppeteerException)
        {
            // A page that never rests is read as it stands.
        }
    }

    private async Task AnswerAsync(
        IRequest request, Uri page, ConcurrentQueue<DrawnAnswer> answers, ConcurrentDictionary<string, bool> elsewhere, CookieContainer cookies,
        CancellationToken stop)
    {
        if (!Uri.TryCreate(request.Url, UriKind.Absolute, out var url) || url.Scheme is not ("http" or "https"))
        {
            await request.ContinueAsync();
            return;
        }

        if (!isOurs(url))
        {
            elsewhere[url.Authority] = true;
            await request.AbortAsync(RequestAbortErrorCode.AccessDenied);
            return;
        }

        if (await BrowserAnswer.ForAsync(http, request, url, cookies, stop) is not { } answer)
        {
            await request.AbortAsync(RequestAbortErrorCode.Failed);
            return;
        }

        if (url != page)
        {
            answers.Enqueue(new DrawnAnswer(url, request.Method.Method, answer.Seen));
        }

        await request.RespondAsync(answer.Response);
    }

    /// <summary>A page or a browser may be gone by the time that it is told something.</summary>
    private static async Task Quietly(Task task)
    {
        try
        {
            await task;
        }
        catch (Exception fault) when (fault is PuppeteerException or ObjectDisposedException or OperationCanceledException or InvalidOperationException
            or IOException or TimeoutException)
        {
        }
    }
}
