using System.Globalization;
using System.Net;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace WarySentinel.Service.Tests.Orders;

/// <summary>Calls a web hook as Standard Webhooks has it; signed here by a second reading of the specification.</summary>
internal sealed class HookSender(string secret) : IDisposable
{
    private readonly HttpClient http = new() { Timeout = TimeSpan.FromSeconds(10) };

    public void Dispose() => http.Dispose();

    /// <summary>A secret of the right form.</summary>
    public static string NewSecret() => "whsec_" + Convert.ToBase64String(RandomNumberGenerator.GetBytes(32));

    /// <summary>A CloudEvent about an order.</summary>
    public static byte[] Event(string id, string kind, string order, string? email = null, string code = "PATRON", string? token = null, string? amount = null,
        DateTimeOffset? at = null, int quantity = 1, string? coupon = null) => JsonSerializer.SerializeToUtf8Bytes(new
        {
            specversion = "1.0", id, source = "https://pay.example", type = "example.pay.order." + kind, time = at ?? DateTimeOffset.UtcNow,
            data = new
            {
                order, token, coupon, currency = "EUR", amount, buyer = email is null ? null : new { email, name = "Somebody" },
                lines = email is null ? null : new[] { new { code, quantity, amount = "49.00" } },
            },
        });

    /// <summary>Calls once; the status.</summary>
    public async Task<HttpStatusCode> SendAsync(string hook, byte[] body, string? message = null, DateTimeOffset? stamp = null, string? signedWith = null)
    {
        var (id, seconds) = (message ?? "msg_" + Guid.NewGuid().ToString("N"), (stamp ?? DateTimeOffset.UtcNow).ToUnixTimeSeconds()
            .ToString(CultureInfo.InvariantCulture));
        byte[] whole = [.. Encoding.UTF8.GetBytes($"{id}.{seconds}."), .. body];
        var key = Convert.FromBase64String((signedWith ?? secret)["whsec_".Length..]);
        using var request = new HttpRequestMessage(HttpMethod.Post, hook) { Content = new ByteArrayContent(body) };
        request.Content.Headers.TryAddWithoutValidation("Content-Type", "application/cloudevents+json");
        request.Headers.TryAddWithoutValidation("webhook-id", id);
        request.Headers.TryAddWithoutValidation("webhook-timestamp", seconds);
        request.Headers.TryAddWithoutValidation("webhook-signature", "v1," + Convert.ToBase64String(HMACSHA256.HashData(key, whole)));
        using var answer = await http.SendAsync(request);
        return answer.StatusCode;
    }

    /// <summary>Calls until it is taken, as processors do, wherever the service is meanwhile.</summary>
    public async Task InsistAsync(Func<string> hook, byte[] body, CancellationToken stop = default)
    {
        for (var tries = 0; tries < 6000; tries++)
        {
            try
            {
                if (await SendAsync(hook(), body) == HttpStatusCode.Accepted)
                {
                    return;
                }
            }
            catch (Exception fault) when (fault is HttpRequestException or TaskCanceledException or IOException)
            {
                // It is down for now.
            }

            await Task.Delay(Random.Shared.Next(20, 120), stop);
        }

        throw new InvalidOperationException("Nobody took the call.");
    }
}
