using System.Globalization;
using System.Text.Json;

namespace WarySentinel.Core.Orders;

/// <summary>
/// Reads what is told of an order: a CloudEvent (CloudEvents 1.0, JSON event format §3) whose data is an order as docs/reference/orders.md has it. Faults
/// say in which field they lie, as a JSON Pointer (RFC 6901).
/// </summary>
public sealed class EventReading
{
    /// <summary>Longest name of an event or an order, in characters.</summary>
    public const int LongestName = 100;

    /// <summary>Most lines of one order.</summary>
    public const int MostLines = 200;

    private const int LongestWords = 2000;
    private const int LongestAddress = 254;
    private const int MostOfOne = 100_000;
    private readonly Faults faults = new();

    private EventReading()
    {
    }

    /// <summary>Reads a CloudEvent.</summary>
    /// <param name="json">The event.</param>
    /// <param name="received">When it came: nothing happens later than it is told.</param>
    public static Outcome<OrderEvent> Read(JsonElement json, DateTimeOffset received) => new EventReading().Event(json, received);

    /// <summary>The kind that a type of event means; the reverse domain that may stand before it is whoever tells it.</summary>
    public static OrderEventKind? KindOf(string? type)
    {
        var at = type?.LastIndexOf("order.", StringComparison.Ordinal) ?? -1;
        return at >= 0 && (at == 0 || type![at - 1] == '.') && OrderEvent.Kinds.TryGetValue(type![at..], out var kind) && kind != OrderEventKind.Mended
            ? kind : null;
    }

    private Outcome<OrderEvent> Event(JsonElement json, DateTimeOffset received)
    {
        if (json.ValueKind != JsonValueKind.Object)
        {
            return Problem.In("", "order-json");
        }

        var version = TextOf(json, "", "specversion", 10);
        faults.Unless(version is "1.0", "/specversion", "order-specversion", version);
        var type = Needed(json, "", "type", 200);
        var kind = KindOf(type);
        faults.Unless(type is null || kind is not null, "/type", "order-type", type, string.Join(", ", OrderEvent.Kinds.Keys.SkipLast(1)));
        var at = Moment(json, received);
        var id = Needed(json, "", "id", LongestName);
        var read = Data(json, id ?? "", kind ?? OrderEventKind.Paid, at);
        return faults.Any ? faults.ToProblem("order-unreadable") : read!;
    }

    private OrderEvent? Data(JsonElement json, string id, OrderEventKind kind, DateTimeOffset at)
    {
        if (!json.TryGetProperty("data", out var data) || data.ValueKind != JsonValueKind.Object)
        {
            faults.Bad("/data", "order-data");
            return null;
        }

        var order = Needed(data, "/data", "order", LongestName);
        var currency = TextOf(data, "/data", "currency", 3)?.ToUpperInvariant();
        faults.Unless(currency is null || Money.IsCurrency(currency), "/data/currency", "order-currency", currency);
        var lines = Lines(data, currency);
        var read = new OrderEvent
        {
            Id = id, Order = order ?? "", Kind = kind, At = at, Buyer = Buyer(data), Lines = lines, Amount = Amount(data, "/data", currency),
            Payment = TextOf(data, "/data", "payment", LongestName), Coupon = TextOf(data, "/data", "coupon", LongestName), Gift = Gift(data),
            TokenDigest = TextOf(data, "/data", "token", 200) is { } token ? DigestOf(token) : null,
        };
        faults.Unless(kind is not (OrderEventKind.Paid or OrderEventKind.Changed) || read.Lines.Count > 0 || faults.Any, "/data/lines", "order-lines");
        faults.Unless(kind != OrderEventKind.Paid || read.Buyer is not null || faults.Any, "/data/buyer", "order-buyer");

        return read;
    }

    /// <summary>The SHA-256 by which the token of an order is kept and found.</summary>
    public static string DigestOf(string token) =>
        Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes("order " + token)));

    private List<OrderLine> Lines(JsonElement data, string? currency)
    {
        var lines = new List<OrderLine>();
        if (!data.TryGetProperty("lines", out var all) || all.ValueKind == JsonValueKind.Null)
        {
            return lines;
        }

        if (all.ValueKind != JsonValueKind.Array || all.GetArrayLength() > MostLines)
        {
            faults.Bad("/data/lines", "order-lines-form", MostLines);
            return lines;
        }

        var n = 0;
        foreach (var line in all.EnumerateArray())
        {
            var at = $"/data/lines/{n++}";
            if (line.ValueKind != JsonValueKind.Object)
            {
                faults.Bad(at, "order-line");
                continue;
            }

            var code = Needed(line, at, "code", FulfilmentDraft.LongestCode);
            lines.Add(new OrderLine(
                code ?? "", TextOf(line, at, "variant", FulfilmentDraft.LongestCode), Quantity(line, at), Amount(line, at, currency)));
        }

        return lines;
    }

    private int Quantity(JsonElement line, string at)
    {
        if (TextOf(line, at, "quantity", 20) is not { } text)
        {
            return 1;
        }

        var good = decimal.TryParse(text, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number)
            && number == decimal.Truncate(number) && number is >= 1 and <= MostOfOne;
        faults.Unless(good, at + "/quantity", "order-quantity", text, MostOfOne);
        return good ? (int)number : 1;
    }

    private Money? Amount(JsonElement of, string at, string? currency)
    {
        if (TextOf(of, at, "amount", 30) is not { } text)
        {
            return null;
        }

        if (currency is null)
        {
            faults.Bad(at + "/amount", "order-no-currency");
            return null;
        }

        if (Money.TryParse(text, currency, out var money))
        {
            return money;
        }

        faults.Unless(!Money.IsCurrency(currency), at + "/amount", "order-amount", text, currency, Money.DecimalsOf(currency));
        return null;
    }

    private OrderBuyer? Buyer(JsonElement data)
    {
        if (!data.TryGetProperty("buyer", out var buyer) || buyer.ValueKind != JsonValueKind.Object)
        {
            faults.Unless(buyer.ValueKind is JsonValueKind.Undefined or JsonValueKind.Null, "/data/buyer", "order-buyer");
            return null;
        }

        var language = TextOf(buyer, "/data/buyer", "language", 35);
        return new OrderBuyer(
            Needed(buyer, "/data/buyer", "email", LongestAddress) ?? "", TextOf(buyer, "/data/buyer", "name", People.MemberCommands.LongestName),
            language is not null && Spelling.IsLanguage(language) ? language : null);
    }

    private OrderGift? Gift(JsonElement data)
    {
        if (!data.TryGetProperty("gift", out var gift) || gift.ValueKind != JsonValueKind.Object)
        {
            faults.Unless(gift.ValueKind is JsonValueKind.Undefined or JsonValueKind.Null, "/data/gift", "order-gift");
            return null;
        }

        var on = TextOf(gift, "/data/gift", "on", 20);
        var day = default(DateOnly);
        faults.Unless(on is null || (DateOnly.TryParseExact(on, "yyyy-MM-dd", CultureInfo.InvariantCulture, DateTimeStyles.None, out day)
            && day.Year is >= 1900 and <= 9000), "/data/gift/on", "order-day", on);
        return new OrderGift(
            Needed(gift, "/data/gift", "email", LongestAddress) ?? "", on is null ? null : day, TextOf(gift, "/data/gift", "words", LongestWords, true),
            TextOf(gift, "/data/gift", "name", People.MemberCommands.LongestName));
    }

    private DateTimeOffset Moment(JsonElement json, DateTimeOffset received)
    {
        if (TextOf(json, "", "time", 60) is not { } text)
        {
            return received;
        }

        // RFC 3339, with as many decimals of a second as anybody writes.
        var good = DateTimeOffset.TryParse(text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal, out var at)
            && text.Length >= 19 && text[10] is 'T' or 't' or ' ' && at.Year is >= 1970 and <= 9000;
        faults.Unless(good, "/time", "order-time", text);
        // To the microsecond, as both databases keep it.
        return !good ? received : at > received ? received : new DateTimeOffset(at.Ticks - (at.Ticks % 10), TimeSpan.Zero);
    }

    private string? Needed(JsonElement of, string at, string name, int longest)
    {
        var before = faults.Any;
        var text = TextOf(of, at, name, longest);
        if (text is null && (before || !faults.Any))
        {
            faults.Bad($"{at}/{name}", "order-needed", name);
        }

        return text;
    }

    private string? TextOf(JsonElement of, string at, string name, int longest, bool lines = false)
    {
        if (!of.TryGetProperty(name, out var value) || value.ValueKind is JsonValueKind.Null or JsonValueKind.Undefined)
        {
            return null;
        }

        string? text;
        try
        {
            text = value.ValueKind switch { JsonValueKind.String => value.GetString()!.Trim(), JsonValueKind.Number => value.GetRawText(), _ => null };
        }
        catch (InvalidOperationException)
        {
            // Half of a surrogate pair is no text.
            text = null;
        }

        if (text is null || text.Length > longest || !PlainText.IsClean(text, lines))
        {
            faults.Bad($"{at}/{name}", "order-text", name, longest);
            return null;
        }

        return text.Length == 0 ? null : text;
    }
}
