using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Text.Json;

namespace WarySentinel.Bench;

/// <summary>Drives one or two machines over HTTP: members, grants, what the other machine makes of them, searches, effects.</summary>
internal sealed class People(string[] machines, string[] sites, string token)
{
    private static readonly HttpClient Http = new(new SocketsHttpHandler { UseCookies = false, MaxConnectionsPerServer = 64, AllowAutoRedirect = false });
    private readonly Random random = new(Environment.ProcessId);

    public async Task WriteAsync(int members, int count)
    {
        var run = Environment.ProcessId;
        var grants = new ConcurrentBag<(string Member, string Grant)>();
        // The first thousands are slower, until the compiler has settled.
        foreach (var machine in machines)
        {
            await LoadAsync("warming up", 2500, 1, n => (HttpMethod.Post, "/api/v1/members",
                new { email = $"warm.{run}.{machine.GetHashCode()}.{n}@house.example", name = "Warm Member " + n }), null, machine);
            await LoadAsync("warming up", 2500, 1, n => (HttpMethod.Post,
                $"/api/v1/members/{new Guid(random.Next(members), 7, 0x7000, 0x80, 0, 0, 0, 0, 0, 0, 0)}/grants",
                new { fact = "group:k" + random.Next(10_000), source = $"order:warm-{run}-{n}" }), null, machine);
        }

        foreach (var together in machines.Length > 1 ? new[] { 1, 2 } : [1])
        {
            await LoadAsync($"member added, {together} machine(s)", count, together, n => (HttpMethod.Post, "/api/v1/members",
                new { email = $"new.{run}.{together}.{n}@house.example", name = "New Member " + n }), null);
            await LoadAsync($"grant given, {together} machine(s)", count, together, _ =>
            {
                var who = new Guid(random.Next(members), 7, 0x7000, 0x80, 0, 0, 0, 0, 0, 0, 0);
                return (HttpMethod.Post, $"/api/v1/members/{who}/grants",
                    new { fact = "group:k" + random.Next(10_000), source = $"order:{run}-{together}-{_}" });
            }, (path, body) => grants.Add((path, body.GetProperty("grant").GetProperty("id").GetString()!)));
            var queue = new ConcurrentQueue<(string Member, string Grant)>(grants);
            grants.Clear();
            await LoadAsync($"grant ended, {together} machine(s)", queue.Count, together, _ => queue.TryDequeue(out var one)
                ? (HttpMethod.Delete, $"{one.Member}/{one.Grant}", null) : (HttpMethod.Get, "/health/live", null), null);
        }
    }

    /// <summary>Writes so many grants a second until it is stopped, for what is measured beside it.</summary>
    public async Task PaceAsync(int members, int perSecond, int seconds)
    {
        var began = Stopwatch.GetTimestamp();
        var sent = 0;
        var flying = new List<Task>();
        while (Stopwatch.GetElapsedTime(began).TotalSeconds < seconds)
        {
            var due = (int)(Stopwatch.GetElapsedTime(began).TotalSeconds * perSecond);
            for (; sent < due; sent++)
            {
                var who = new Guid(random.Next(members), 7, 0x7000, 0x80, 0, 0, 0, 0, 0, 0, 0);
                flying.Add(SendAsync(machines[sent % machines.Length], HttpMethod.Post, $"/api/v1/members/{who}/grants",
                    new { fact = "group:k" + random.Next(10_000), source = $"order:pace-{Environment.ProcessId}-{sent}" }, null));
            }

            flying.RemoveAll(f => f.IsCompleted);
            await Task.Delay(2);
        }

        await Task.WhenAll(flying);
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"paced: {sent / Stopwatch.GetElapsedTime(began).TotalSeconds:F0} grants a second"));
    }

    public async Task SearchAsync()
    {
        foreach (var (what, part) in new[] { ("one member", "ada.anbelcor"), ("a few thousand", "fernfern"), ("half a million", "an"),
            ("everybody", ".example"),
            ("nobody", "zzzzq"), ("a name", "Nell Rostarn"), ("two letters, rare", "xq") })
        {
            await TimeAsync($"search for {what} (“{part}”)", 15, () =>
                SendAsync(machines[0], HttpMethod.Get, "/api/v1/members?limit=50&search=" + Uri.EscapeDataString(part), null, null));
        }

        await TimeAsync("effect of a gate on a branch of 5,000 items", 15, () => SendAsync(machines[0], HttpMethod.Post, "/api/v1/gates/preview",
            new { draft = new { title = "Wide", covers = new[] { "category:branch" }, audience = "group:k1 or group:k2 or role:dealer" } }, null));
        await TimeAsync("board, first page", 15, () => SendAsync(machines[0], HttpMethod.Get, "/api/v1/board", null, null));
        await TimeAsync("board, a branch of 5,000", 15, () => SendAsync(machines[0], HttpMethod.Get, "/api/v1/board?beneath=category:branch", null, null));
        await TimeAsync("a gate stored", 9, () => SendAsync(machines[0], HttpMethod.Put, "/api/v1/gates/held",
            new { title = "Held " + random.Next(99999), covers = new[] { "product:p2020" }, audience = "group:k77" }, null, "*"));
    }

    /// <summary>
    /// How long until the second machine decides by what the first has stored: a sign-out, and a shared password typed. The member may open
    /// <paramref name="path"/>, and whoever knows the password <paramref name="locked"/>.
    /// </summary>
    public async Task EndsAsync(string member, string memberPassword, string path, string gate, string locked, string password)
    {
        var (unlocked, left) = (new List<double>(), new List<double>());
        for (var round = 0; round < 15; round++)
        {
            using var handler = new SocketsHttpHandler { AllowAutoRedirect = false, CookieContainer = new CookieContainer() };
            using var browser = new HttpClient(handler) { BaseAddress = new Uri(sites[0]) };
            string Cookie() => string.Join("; ", handler.CookieContainer.GetAllCookies().Select(c => c.Name + "=" + c.Value));
            await PostAsync(browser, "/account/sign-in", new() { ["name"] = member, ["password"] = memberPassword });
            var signedIn = Cookie();
            await UntilAsync(sites[1], signedIn, path, true);
            await UntilAsync(sites[1], signedIn, locked, false);
            await PostAsync(browser, "/account/unlock", new() { ["gate"] = gate, ["password"] = password });
            var stored = Stopwatch.GetTimestamp();
            await UntilAsync(sites[1], Cookie(), locked, true);
            unlocked.Add(Stopwatch.GetElapsedTime(stored).TotalMilliseconds);
            await PostAsync(browser, "/account/sign-out", []);
            stored = Stopwatch.GetTimestamp();
            await UntilAsync(sites[1], signedIn, path, false);
            left.Add(Stopwatch.GetElapsedTime(stored).TotalMilliseconds);
        }

        Say("an unlock holds on the other machine after", unlocked, "ms");
        Say("a sign-out holds on the other machine after", left, "ms");
    }

    /// <summary>Sends a form as a browser does: its page first, then what is filled in.</summary>
    private static async Task PostAsync(HttpClient browser, string path, Dictionary<string, string> fields)
    {
        var page = await browser.GetStringAsync(path);
        fields["__RequestVerificationToken"] = System.Text.RegularExpressions.Regex.Match(page, "name=\"__RequestVerificationToken\" value=\"([^\"]*)\"")
            .Groups[1].Value;
        using var form = new FormUrlEncodedContent(fields);
        using var answer = await browser.PostAsync(path, form);
        if ((int)answer.StatusCode >= 400)
        {
            throw new InvalidOperationException($"{path}: {(int)answer.StatusCode}");
        }
    }

    /// <summary>How long until the second machine decides by what the first has stored: a grant, and its end.</summary>
    public async Task HoldsAsync(string member, string cookie, string path, string fact)
    {
        var (given, ended) = (new List<double>(), new List<double>());
        await UntilAsync(sites[1], cookie, path, false);
        for (var round = 0; round < 25; round++)
        {
            JsonElement answer = default;
            await SendAsync(machines[0], HttpMethod.Post, $"/api/v1/members/{member}/grants", new { fact, source = $"order:{Environment.ProcessId}-{round}" },
                b => answer = b);
            var stored = Stopwatch.GetTimestamp();
            await UntilAsync(sites[1], cookie, path, true);
            given.Add(Stopwatch.GetElapsedTime(stored).TotalMilliseconds);
            await SendAsync(machines[0], HttpMethod.Delete, $"/api/v1/members/{member}/grants/{answer.GetProperty("grant").GetProperty("id").GetString()}",
                null, null);
            stored = Stopwatch.GetTimestamp();
            await UntilAsync(sites[1], cookie, path, false);
            ended.Add(Stopwatch.GetElapsedTime(stored).TotalMilliseconds);
        }

        Say("a grant holds on the other machine after", given, "ms");
        Say("its end holds on the other machine after", ended, "ms");
    }

    private static async Task UntilAsync(string site, string cookie, string path, bool open)
    {
        for (var tries = 0; tries < 20_000; tries++)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, site + "/sentinel/check");
            request.Headers.TryAddWithoutValidation("Cookie", cookie);
            request.Headers.TryAddWithoutValidation("X-Original-URI", path);
            using var response = await Http.SendAsync(request);
            if (response.StatusCode == HttpStatusCode.NoContent == open)
            {
                return;
            }
        }

        throw new InvalidOperationException($"{path} does not become {(open ? "open" : "closed")} at {site}.");
    }

    private async Task LoadAsync(
        string what, int count, int together, Func<int, (HttpMethod Method, string Path, object? Body)> next, Action<string, JsonElement>? took,
        string? only = null)
    {
        var times = new ConcurrentBag<double>();
        var number = -1;
        var began = Stopwatch.GetTimestamp();
        await Task.WhenAll(Enumerable.Range(0, 24).Select(async worker =>
        {
            for (int n; (n = Interlocked.Increment(ref number)) < count;)
            {
                var (method, path, body) = next(n);
                var sent = Stopwatch.GetTimestamp();
                await SendAsync(only ?? machines[worker % together], method, path, body, took is null ? null : b => took(path, b));
                times.Add(Stopwatch.GetElapsedTime(sent).TotalMilliseconds);
            }
        }));
        var took2 = Stopwatch.GetElapsedTime(began).TotalSeconds;
        var sorted = times.Order().ToList();
        if (only is not null)
        {
            return;
        }

        Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
            $"{what}: {count / took2:F0} a second, p50 {sorted[sorted.Count / 2]:F1} ms, p99 {sorted[(int)(sorted.Count * 0.99)]:F1} ms"));
    }

    private static async Task TimeAsync(string what, int runs, Func<Task> work)
    {
        await work();
        var times = new List<double>();
        for (var run = 0; run < runs; run++)
        {
            var began = Stopwatch.GetTimestamp();
            await work();
            times.Add(Stopwatch.GetElapsedTime(began).TotalMilliseconds);
        }

        Say(what, times, "ms");
    }

    private static void Say(string what, List<double> values, string unit)
    {
        values.Sort();
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
            $"{what}: {values[0]:F1} / {values[values.Count / 2]:F1} / {values[^1]:F1} {unit} (min/med/max)"));
    }

    private async Task SendAsync(string machine, HttpMethod method, string path, object? body, Action<JsonElement>? took, string? tag = null)
    {
        using var request = new HttpRequestMessage(method, machine + path);
        request.Headers.Authorization = new("Bearer", token);
        if (tag is not null)
        {
            request.Headers.TryAddWithoutValidation("If-Match", tag);
        }

        request.Content = body is null ? null : JsonContent.Create(body);
        using var response = await Http.SendAsync(request);
        if (!response.IsSuccessStatusCode)
        {
            throw new InvalidOperationException($"{method} {path}: {(int)response.StatusCode} {await response.Content.ReadAsStringAsync()}");
        }

        if (took is not null)
        {
            took(await response.Content.ReadFromJsonAsync<JsonElement>());
        }
        else
        {
            await response.Content.CopyToAsync(Stream.Null);
        }
    }
}
