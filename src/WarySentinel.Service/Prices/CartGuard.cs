using System.Text.Json;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Net.Http.Headers;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Prices;
using WarySentinel.Service.Pages;
using WarySentinel.Service.People;

namespace WarySentinel.Service.Prices;

/// <summary>
/// Looks at what is put into the shop's cart: what the visitor may not buy does not go in. A body that cannot be read as the shop may read it is refused.
/// </summary>
public sealed class CartGuard(Refusals refusals)
{
    /// <summary>The largest body taken at such an address, in bytes.</summary>
    public const int MostBytes = 1 << 20;

    private const int Deepest = 64;
    private const int MostFields = 2000;
    private static readonly JsonDocumentOptions Strict = new() { MaxDepth = Deepest };

    /// <summary>Answers a request that may not go to the cart; false where it may, and its body can be read again.</summary>
    public async Task<bool> RefusesAsync(HttpContext http, RequestIdentity identity, Policy policy, RequestPath path, Cart cart, DateTimeOffset now)
    {
        var values = new List<string>();
        foreach (var (name, said) in QueryHelpers.ParseQuery("?" + path.Query))
        {
            values.AddRange(cart.Names(name) ? said.Select(s => s ?? "") : []);
        }

        // One that cannot be read from the store has no fields, and lets nothing through.
        var status = cart.Fields.Count == 0 ? StatusCodes.Status403Forbidden : await ReadBodyAsync(http, cart, values);
        if (status != 0)
        {
            await refusals.FailedAsync(http, status);
            return true;
        }

        foreach (var value in values)
        {
            if (cart.WhyNot(policy, identity.Visitor, value, now) is not { } refusal)
            {
                continue;
            }

            if (refusal.Decision is { } decision)
            {
                // Signed in, they go on from the page where the thing was offered.
                await refusals.RespondAsync(http, identity, policy, decision, From(http, policy) ?? path);
            }
            else
            {
                await refusals.MessageAsync(http, StatusCodes.Status403Forbidden, "cart.title", "cart.unknown");
            }

            return true;
        }

        return false;
    }

    /// <summary>The page of this site from which the request was made.</summary>
    private static RequestPath? From(HttpContext http, Policy policy) => Uri.TryCreate(http.Request.Headers.Referer.ToString(), UriKind.Absolute, out var from)
        && string.Equals(from.Authority, http.Request.Host.Value, StringComparison.OrdinalIgnoreCase)
        && RequestPath.TryNormalise(from.PathAndQuery, policy.Settings.Paths, out var path, out _) ? path : null;

    /// <summary>Reads the body, and puts it back; gives 0, or the status with which it is refused.</summary>
    private static async Task<int> ReadBodyAsync(HttpContext http, Cart cart, List<string> values)
    {
        var request = http.Request;
        if (http.Features.Get<IHttpRequestBodyDetectionFeature>()?.CanHaveBody == false)
        {
            return 0;
        }

        var bytes = await WholeAsync(request.Body, request.ContentLength, http.RequestAborted);
        if (bytes is null)
        {
            return StatusCodes.Status413PayloadTooLarge;
        }

        request.Body = new MemoryStream(bytes, false);
        if (bytes.Length == 0)
        {
            return 0;
        }

        if (request.Headers.ContentEncoding.Count > 0 || !MediaTypeHeaderValue.TryParse(request.ContentType, out var type) || !IsPlain(type))
        {
            return StatusCodes.Status415UnsupportedMediaType;
        }

        try
        {
            return type.MediaType.Value?.ToLowerInvariant() switch
            {
                "application/x-www-form-urlencoded" => await ReadFormAsync(bytes, cart, values),
                "multipart/form-data" => await ReadPartsAsync(bytes, type, cart, values),
                { } json when json == "application/json" || json.EndsWith("+json", StringComparison.Ordinal) => ReadJson(bytes, cart, values),
                _ => StatusCodes.Status415UnsupportedMediaType,
            };
        }
        catch (Exception fault) when (fault is JsonException or InvalidDataException or IOException or ArgumentException)
        {
            return StatusCodes.Status400BadRequest;
        }
    }

    /// <summary>In these, ASCII is what it says.</summary>
    private static bool IsPlain(MediaTypeHeaderValue type) => !type.Charset.HasValue
        || HeaderUtilities.RemoveQuotes(type.Charset).Value?.ToLowerInvariant() is "utf-8" or "utf8" or "us-ascii" or "iso-8859-1" or "windows-1252";

    private static async Task<byte[]?> WholeAsync(Stream body, long? length, CancellationToken stop)
    {
        if (length > MostBytes)
        {
            return null;
        }

        using var whole = new MemoryStream((int)(length ?? 1024));
        var buffer = new byte[16 * 1024];
        int read;
        while ((read = await body.ReadAsync(buffer, stop)) > 0)
        {
            if (whole.Length + read > MostBytes)
            {
                return null;
            }

            whole.Write(buffer, 0, read);
        }

        return whole.ToArray();
    }

    private static async Task<int> ReadFormAsync(byte[] bytes, Cart cart, List<string> values)
    {
        using var reader = new FormReader(new MemoryStream(bytes, false))
        { ValueCountLimit = MostFields, KeyLengthLimit = MostBytes, ValueLengthLimit = MostBytes };
        foreach (var (name, said) in await reader.ReadFormAsync())
        {
            values.AddRange(cart.Names(name) ? said.Select(s => s ?? "") : []);
        }

        return 0;
    }

    private static async Task<int> ReadPartsAsync(byte[] bytes, MediaTypeHeaderValue type, Cart cart, List<string> values)
    {
        var boundary = HeaderUtilities.RemoveQuotes(type.Boundary).Value ?? "";
        if (boundary.Length is 0 or > 70 || type.Parameters.Count(p => p.Name.Equals("boundary", StringComparison.OrdinalIgnoreCase)) != 1)
        {
            return StatusCodes.Status400BadRequest;
        }

        var reader = new MultipartReader(boundary, new MemoryStream(bytes, false)) { BodyLengthLimit = MostBytes };
        for (var count = 0; await reader.ReadNextSectionAsync() is { } part; count++)
        {
            // What servers read in different ways is not let through.
            if (count >= MostFields || part.Headers is null || part.Headers.ContainsKey("Content-Transfer-Encoding")
                || !ContentDispositionHeaderValue.TryParse(part.ContentDisposition, out var place)
                || place.Parameters.Count(p => p.Name.StartsWith("name", StringComparison.OrdinalIgnoreCase)) != 1 || !place.Name.HasValue)
            {
                return StatusCodes.Status400BadRequest;
            }

            if (cart.Names(HeaderUtilities.RemoveQuotes(place.Name).Value ?? ""))
            {
                using var text = new StreamReader(part.Body);
                values.Add(await text.ReadToEndAsync());
            }
        }

        return 0;
    }

    private static int ReadJson(byte[] bytes, Cart cart, List<string> values)
    {
        using var whole = JsonDocument.Parse(bytes, Strict);
        var waiting = new Stack<(JsonElement Value, bool IsNamed)>([(whole.RootElement, false)]);
        while (waiting.TryPop(out var at))
        {
            switch (at.Value.ValueKind)
            {
                case JsonValueKind.Object:
                    foreach (var property in at.Value.EnumerateObject())
                    {
                        waiting.Push((property.Value, cart.NamesProperty(property.Name)));
                    }

                    break;
                case JsonValueKind.Array:
                    foreach (var one in at.Value.EnumerateArray())
                    {
                        waiting.Push((one, at.IsNamed));
                    }

                    break;
                case JsonValueKind.String when at.IsNamed:
                    values.Add(at.Value.GetString()!);
                    break;
                case JsonValueKind.Number or JsonValueKind.True or JsonValueKind.False when at.IsNamed:
                    values.Add(at.Value.GetRawText());
                    break;
            }
        }

        return 0;
    }
}
