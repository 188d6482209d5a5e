using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Http.Headers;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace WarySentinel.Bench;

/// <summary>Orders by web hook: how many are taken a second in a flood, and how long one takes from the hook to an open door.</summary>
internal sealed class Orders(string site, string admin, string token, string secret)
{
    private readonly HttpClient http = new(new SocketsHttpHandler { UseCookies = false, MaxConnectionsPerServer = 512 });

    /// <summary>So many hooks over so many connections, as fast as they go; then until all are taken up.</summary>
    public async Task FloodAsync(int count, int connections)
    {
        var (answers, next, began) = (new ConcurrentDictionary<int, int>(), -1, Stopwatch.GetTimestamp());
        await Task.WhenAll(Enumerable.Range(0, connections).Select(async _ =>
        {
            for (int n; (n = Interlocked.Increment(ref next)) < count;)
            {
                // As processors do: told to come again, it is told again.
                while (await HookAsync("flood-" + n, $"flood{n}@bench.example") is var status && answers.AddOrUpdate((int)status, 1, (_, c) => c + 1) > 0
                    && status != HttpStatusCode.Accepted)
                {
                    await Task.Delay(100);
                }
            }
        }));
        var took = Stopwatch.GetElapsedTime(began).TotalSeconds;
        var done = await DoneAsync("flood-" + (count - 1), TimeSpan.FromMinutes(10));
        var told = string.Join(", ", answers.Select(a => $"{a.Value} × {a.Key}"));
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"  {count} hooks: {count / took:F0} a second taken ({told}), "
            + $"all fulfilled after {took + done:F1} s: {count / (took + done):F0} a second end to end"));
    }

    /// <summary>So many orders, a pause apart: from the hook being sent to the order being fulfilled.</summary>
    public async Task PaceAsync(int count, int pauseMilliseconds)
    {
        var all = new List<double>();
        for (var n = 0; n < count; n++)
        {
            var began = Stopwatch.GetTimestamp();
            await HookAsync($"pace-{n}", $"pace{n}@bench.example");
            await DoneAsync($"pace-{n}", TimeSpan.FromSeconds(30));
            all.Add(Stopwatch.GetElapsedTime(began).TotalMilliseconds);
            await Task.Delay(pauseMilliseconds);
        }

        all.Sort();
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture,
            $"  from hook to open door, {count} orders: {all[count / 2]:F0} ms in the middle, {all[(int)(count * 0.99)]:F0} ms at the 99th of 100"));
    }

    private async Task<HttpStatusCode> HookAsync(string order, string email)
    {
        var body = JsonSerializer.SerializeToUtf8Bytes(new
        {
            specversion = "1.0", id = order, source = "https://bench.example", type = "order.paid",
            data = new { order, currency = "EUR", buyer = new { email }, lines = new[] { new { code = "PATRON", amount = "49.00" } } },
        });
        var stamp = DateTimeOffset.UtcNow.ToUnixTimeSeconds().ToString(CultureInfo.InvariantCulture);
        byte[] whole = [.. Encoding.UTF8.GetBytes($"{order}.{stamp}."), .. body];
        using var request = new HttpRequestMessage(HttpMethod.Post, site + "/sentinel/hooks/bench") { Content = new ByteArrayContent(body) };
        request.Content.Headers.TryAddWithoutValidation("Content-Type", "application/json");
        request.Headers.TryAddWithoutValidation("webhook-id", order);
        request.Headers.TryAddWithoutValidation("webhook-timestamp", stamp);
        request.Headers.TryAddWithoutValidation(
            "webhook-signature", "v1," + Convert.ToBase64String(HMACSHA256.HashData(Convert.FromBase64String(secret["whsec_".Length..]), whole)));
        using var answer = await http.SendAsync(request);
        return answer.StatusCode;
    }

    /// <summary>Waits until an order is fulfilled, and nothing waits; the seconds it took.</summary>
    private async Task<double> DoneAsync(string order, TimeSpan most)
    {
        var began = Stopwatch.GetTimestamp();
        while (Stopwatch.GetElapsedTime(began) < most)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, $"{admin}/api/v1/orders?q={order}&handling=done&limit=1");
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", token);
            using var answer = await http.SendAsync(request);
            if ((await answer.Content.ReadAsStringAsync()).Contains($"\"{order}\"", StringComparison.Ordinal))
            {
                return Stopwatch.GetElapsedTime(began).TotalSeconds;
            }

            await Task.Delay(2);
        }

        throw new TimeoutException(order);
    }
}
