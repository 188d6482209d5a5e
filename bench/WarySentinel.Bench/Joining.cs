using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Text.RegularExpressions;

namespace WarySentinel.Bench;

/// <summary>Sham registrations in a flood, from one network or from one each, and what everybody else notices of it.</summary>
internal sealed partial class Joining(string site)
{
    private static readonly HttpClient Http = new(new SocketsHttpHandler { UseCookies = false, MaxConnectionsPerServer = 512, AllowAutoRedirect = false });

    /// <summary>Whoever looks on has a connection of their own, and does not wait for those of the flood.</summary>
    private static readonly HttpClient Own = new(new SocketsHttpHandler { UseCookies = false, AllowAutoRedirect = false });
    private readonly ConcurrentDictionary<string, int> answers = new(StringComparer.Ordinal);

    /// <summary>So many registrations in so many seconds.</summary>
    /// <param name="count">How many.</param>
    /// <param name="seconds">Over which time, whether or not the service keeps pace.</param>
    /// <param name="networks">Over how many networks they are spread.</param>
    /// <param name="cookie">The session of a member who looks at a page meanwhile.</param>
    public async Task RunAsync(int count, int seconds, int networks, string cookie)
    {
        var before = await WatchAsync(TimeSpan.FromSeconds(4), cookie);
        using var over = new CancellationTokenSource();
        var watching = WatchAsync(Timeout.InfiniteTimeSpan, cookie, over.Token);
        var (began, flying, sent) = (Stopwatch.GetTimestamp(), new List<Task>(), 0);
        while (Stopwatch.GetElapsedTime(began).TotalSeconds < seconds)
        {
            for (var due = (int)Math.Min(count, Stopwatch.GetElapsedTime(began).TotalSeconds * count / seconds); sent < due; sent++)
            {
                flying.Add(JoinAsync(sent, sent % networks));
            }

            flying.RemoveAll(f => f.IsCompleted);
            await Task.Delay(2);
        }

        await Task.WhenAll(flying);
        var took = Stopwatch.GetElapsedTime(began).TotalSeconds;
        await over.CancelAsync();
        var during = await watching;
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{sent} registrations from {networks} network(s) in {took:F1} s: {string.Join(", ",
            answers.OrderByDescending(a => a.Value).Select(a => $"{a.Value} × {a.Key}"))}"));
        Console.WriteLine($"  a member's page meanwhile: {Told(before)} before, {Told(during)} in the flood");
    }

    private static string Told(List<double> took) => took.Order().ToList() is { Count: > 0 } all
        ? string.Create(CultureInfo.InvariantCulture, $"{all[all.Count / 2]:F1} ms in the middle, {all[(int)(all.Count * 0.99)]:F1} ms at the 99th of 100")
        : "none";

    /// <summary>A machine that fills in the form at once and pretends to have done the work for it, so that nobody has it wait.</summary>
    private async Task JoinAsync(int number, int network)
    {
        var from = $"{60 + (network >> 16)}.{network >> 8 & 255}.{network & 255}.9";
        try
        {
            using var look = new HttpRequestMessage(HttpMethod.Get, site + "/account/register");
            look.Headers.Add("X-Forwarded-For", from);
            using var page = await Http.SendAsync(look);
            var html = await page.Content.ReadAsStringAsync();
            if (page.StatusCode != HttpStatusCode.OK)
            {
                answers.AddOrUpdate($"{(int)page.StatusCode} at the form", 1, (_, n) => n + 1);
                return;
            }

            using var send = new HttpRequestMessage(HttpMethod.Post, site + "/account/register")
            {
                Content = new FormUrlEncodedContent(new Dictionary<string, string>
                {
                    ["__RequestVerificationToken"] = Token().Match(html).Groups[1].Value, ["seal"] = Seal().Match(html).Groups[1].Value,
                    ["name"] = $"Person {number}", ["email"] = $"person.{Environment.ProcessId}.{number}@flood-{number % 50}.example",
                    ["password"] = "a-ladder-in-the-orchard", ["website"] = number % 2 == 0 ? "https://x.example" : "", ["work"] = "guessed",
                }),
            };
            send.Headers.Add("X-Forwarded-For", from);
            send.Headers.Add("Cookie", string.Join("; ", page.Headers.GetValues("Set-Cookie").Select(c => c.Split(';')[0])));
            using var answer = await Http.SendAsync(send);
            answers.AddOrUpdate($"{(int)answer.StatusCode}", 1, (_, n) => n + 1);
        }
        catch (Exception fault) when (fault is HttpRequestException or TaskCanceledException or InvalidOperationException)
        {
            answers.AddOrUpdate(fault.GetType().Name, 1, (_, n) => n + 1);
        }
    }

    /// <summary>Times a page that needs a member, again and again.</summary>
    private async Task<List<double>> WatchAsync(TimeSpan time, string cookie, CancellationToken stop = default)
    {
        var (took, began) = (new List<double>(), Stopwatch.GetTimestamp());
        while (!stop.IsCancellationRequested && (time < TimeSpan.Zero || Stopwatch.GetElapsedTime(began) < time))
        {
            using var ask = new HttpRequestMessage(HttpMethod.Get, site + "/account/");
            ask.Headers.Add("Cookie", cookie);
            var at = Stopwatch.GetTimestamp();
            using var answer = await Own.SendAsync(ask, CancellationToken.None);
            took.Add(answer.StatusCode == HttpStatusCode.OK ? Stopwatch.GetElapsedTime(at).TotalMilliseconds : 60_000);
            await Task.Delay(10, CancellationToken.None);
        }

        return took;
    }

    [GeneratedRegex("name=\"__RequestVerificationToken\" value=\"([^\"]+)\"")]
    private static partial Regex Token();

    [GeneratedRegex("name=\"seal\" value=\"([^\"]+)\"")]
    private static partial Regex Seal();
}
