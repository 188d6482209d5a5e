using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;

namespace WarySentinel.StandIns.Shop;

/// <summary>Asks whoever guards the shop what a cart costs, so that it charges what was shown.</summary>
/// <param name="address">The address of its API.</param>
/// <param name="tokenFile">The file with the shop's token.</param>
public sealed class ShopQuotes(string address, string tokenFile) : IDisposable
{
    private readonly HttpClient http = new() { BaseAddress = new Uri(address), Timeout = TimeSpan.FromSeconds(3) };

    /// <summary>What the cart costs; null where nobody says, so that the shop's own prices count.</summary>
    /// <param name="member">Who asks, as the guard told; null for a guest.</param>
    /// <param name="products">What is in the cart.</param>
    /// <param name="coupon">What was typed as a code.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<CartQuote?> AskAsync(string? member, IReadOnlyList<ShopProduct> products, string? coupon, CancellationToken stop)
    {
        if (products.Count == 0 || !File.Exists(tokenFile))
        {
            return null;
        }

        try
        {
            using var request = new HttpRequestMessage(HttpMethod.Post, "/api/v1/quotes")
            {
                Content = JsonContent.Create(new
                { visitor = member ?? "guest", coupon, currency = "EUR", lines = products.Select(p => new { item = "product:" + p.Key }) }),
            };
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", (await File.ReadAllTextAsync(tokenFile, stop)).Trim());
            using var response = await http.SendAsync(request, stop);
            return response.IsSuccessStatusCode ? await response.Content.ReadFromJsonAsync<CartQuote>(JsonSerializerOptions.Web, stop) : null;
        }
        catch (Exception fault) when (fault is HttpRequestException or JsonException or IOException
            || (fault is TaskCanceledException && !stop.IsCancellationRequested))
        {
            return null;
        }
    }

    /// <inheritdoc/>
    public void Dispose() => http.Dispose();
}

/// <summary>What a cart costs.</summary>
public sealed record CartQuote(IReadOnlyList<CartQuoteLine> Lines, string? Total, string? Discount, string? CouponFault);

/// <summary>What a line of it costs.</summary>
public sealed record CartQuoteLine(string Item, bool MayBuy, string? Price);
