using System.Collections.Concurrent;
using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace WarySentinel.StandIns.Payments;

/// <summary>
/// A payment processor: it takes no money, and tells of orders by signed web hooks (Standard Webhooks, CloudEvents 1.0), as often, late and mixed up as real
/// ones do, and again and again until it is answered with 2xx.
/// </summary>
public sealed class PaymentDesk(string hook, string secret) : IDisposable
{
    private const int MostTries = 12;
    private static readonly Dictionary<string, int> Prices = new(StringComparer.OrdinalIgnoreCase)
    {
        ["PATRON"] = 4900, ["NIGHT-PASS"] = 900, ["ATLAS"] = 1900, ["ALMANAC"] = 1200, ["FIELD-WEEK"] = 1500,
        ["SCHOOL"] = 2500, ["VAULT"] = 500,
    };

    private readonly HttpClient http = new() { Timeout = TimeSpan.FromSeconds(20) };
    private readonly ConcurrentDictionary<string, PaymentOrder> orders = new();
    private readonly ConcurrentQueue<string> sent = new();
    private readonly Random chance = new();
    private readonly string run = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(2));
    private int count = 2000;
    private int events;

    /// <summary>How often each call is made.</summary>
    public int Repeats { get; set; } = 1;

    /// <summary>For how long a call is held back at most, in milliseconds; calls overtake each other by that.</summary>
    public int DelayMilliseconds { get; set; }

    /// <summary>Whether calls wait until <see cref="Release"/>.</summary>
    public bool Holds { get; set; }

    /// <summary>The orders, the newest first.</summary>
    public IEnumerable<PaymentOrder> Orders => orders.Values.OrderByDescending(o => o.Id, StringComparer.Ordinal);

    /// <summary>What was called, the newest first.</summary>
    public IEnumerable<string> Sent => sent.Reverse().Take(60);

    private readonly ConcurrentQueue<PaymentCall> held = new();

    /// <summary>What one costs, in cents.</summary>
    public static int PriceOf(string code) => Prices.GetValueOrDefault(code, 1500);

    /// <summary>The order of that name, or null.</summary>
    public PaymentOrder? Find(string id) => orders.GetValueOrDefault(id);

    /// <summary>Keeps an order that was paid, or could not be, and tells of it.</summary>
    public PaymentOrder Take(Func<string, PaymentOrder> make, bool paid)
    {
        var order = make($"FO-{run}-{Interlocked.Increment(ref count)}");
        orders[order.Id] = order;
        Tell(order, paid ? "order.paid" : "order.failed", order.Cents * order.Quantity, true);
        return order;
    }

    /// <summary>Sells something else from now on in place of what was, for so many cents more.</summary>
    public void Change(PaymentOrder order, string code, int? cents)
    {
        (order.Code, order.Cents) = (code, PriceOf(code));
        Tell(order, "order.changed", cents, true);
    }

    /// <summary>Tells that something happened.</summary>
    public void Tell(PaymentOrder order, string kind, int? cents = null, bool whole = false)
    {
        lock (order)
        {
            order.Story.Add(cents is { } amount ? $"{kind} {Euros(amount)}" : kind);
        }

        var id = $"ev-{run}-{Interlocked.Increment(ref events)}";
        var data = new Dictionary<string, object?> { ["order"] = order.Id, ["currency"] = "EUR" };
        if (cents is { } sum)
        {
            data["amount"] = Euros(sum);
        }

        if (whole)
        {
            data["token"] = order.Token;
            data["buyer"] = new { email = order.Email, name = order.Name };
            data["lines"] = new[] { new { code = order.Code, quantity = order.Quantity, amount = Euros(order.Cents * order.Quantity) } };
            data["gift"] = order.GiftEmail is null ? null : new { email = order.GiftEmail, on = order.GiftOn, words = order.GiftWords };
        }

        var body = JsonSerializer.SerializeToUtf8Bytes(new
        {
            specversion = "1.0", id, source = "https://payments.example", type = "example.payments." + kind,
            time = DateTimeOffset.UtcNow.ToString("O", CultureInfo.InvariantCulture), datacontenttype = "application/json", data,
        });
        Send(new PaymentCall(id, body));
    }

    /// <summary>Makes the calls that were held, in any order.</summary>
    public void Release()
    {
        Holds = false;
        var all = new List<PaymentCall>();
        while (held.TryDequeue(out var call))
        {
            all.Add(call);
        }

        foreach (var call in all.OrderBy(_ => chance.Next()))
        {
            Send(call);
        }
    }

    /// <inheritdoc/>
    public void Dispose() => http.Dispose();

    private static string Euros(int cents) => (cents / 100m).ToString("F2", CultureInfo.InvariantCulture);

    private void Send(PaymentCall call)
    {
        if (Holds)
        {
            held.Enqueue(call);
            return;
        }

        for (var n = 0; n < Math.Clamp(Repeats, 1, 20); n++)
        {
            _ = Task.Run(() => CallAsync(call));
        }
    }

    private async Task CallAsync(PaymentCall call)
    {
        if (DelayMilliseconds > 0)
        {
            await Task.Delay(chance.Next(DelayMilliseconds));
        }

        for (var tries = 1; tries <= MostTries; tries++)
        {
            var said = await OnceAsync(call);
            sent.Enqueue($"{DateTimeOffset.UtcNow:HH:mm:ss} {call.Id} {said}");
            if (said.StartsWith('2'))
            {
                return;
            }

            await Task.Delay(TimeSpan.FromMilliseconds(Math.Min(30_000, 250 << tries)));
        }
    }

    private async Task<string> OnceAsync(PaymentCall call)
    {
        var stamp = DateTimeOffset.UtcNow.ToUnixTimeSeconds().ToString(CultureInfo.InvariantCulture);
        byte[] whole = [.. Encoding.UTF8.GetBytes($"{call.Id}.{stamp}."), .. call.Body];
        var key = Convert.FromBase64String(secret.Replace("whsec_", "", StringComparison.Ordinal));
        using var request = new HttpRequestMessage(HttpMethod.Post, hook) { Content = new ByteArrayContent(call.Body) };
        request.Content.Headers.TryAddWithoutValidation("Content-Type", "application/cloudevents+json");
        request.Headers.TryAddWithoutValidation("webhook-id", call.Id);
        request.Headers.TryAddWithoutValidation("webhook-timestamp", stamp);
        request.Headers.TryAddWithoutValidation("webhook-signature", "v1," + Convert.ToBase64String(HMACSHA256.HashData(key, whole)));
        try
        {
            using var answer = await http.SendAsync(request);
            return ((int)answer.StatusCode).ToString(CultureInfo.InvariantCulture);
        }
        catch (Exception fault) when (fault is HttpRequestException or TaskCanceledException)
        {
            return "no answer";
        }
    }
}
