using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace WarySentinel.Core.Orders;

/// <summary>
/// Where in somebody else's web hook the fields of an order stand: each by a JSON Pointer (RFC 6901). What came as a form
/// (<c>application/x-www-form-urlencoded</c>) is an object of its fields.
/// </summary>
public sealed record OrderMapping
{
    /// <summary>What a kind says that is none of ours: such a call is taken and does nothing.</summary>
    public const string Ignored = "ignore";

    /// <summary>The fields that a mapping can point at, in the order in which people fill them in.</summary>
    public static readonly IReadOnlyList<string> Fields =
    [
        "id", "kind", "time", "order", "token", "email", "name", "language", "currency", "amount", "payment", "coupon", "lines", "code", "variant", "quantity",
        "lineAmount", "giftEmail", "giftName", "giftOn", "giftWords",
    ];

    /// <summary>Those of a line: they are pointers into it where <c>lines</c> points at a list, and into the whole where it is not said.</summary>
    public static readonly IReadOnlyList<string> OfLine = ["code", "variant", "quantity", "lineAmount"];

    /// <summary>Where each field stands.</summary>
    public IReadOnlyDictionary<string, string> At { get; init; } = new Dictionary<string, string>(StringComparer.Ordinal);

    /// <summary>What the values of the kind mean: one of ours, or <see cref="Ignored"/>. Where the kind is not pointed at, everything is a payment.</summary>
    public IReadOnlyDictionary<string, string> Kinds { get; init; } = new Dictionary<string, string>(StringComparer.Ordinal);

    /// <summary>Whether amounts are in the smallest unit of the currency.</summary>
    public bool IsInUnits { get; init; }

    /// <summary>The currency where no field says it.</summary>
    public string? Currency { get; init; }

    /// <summary>Whether it says the same.</summary>
    public bool Equals(OrderMapping? other) => other is not null && IsInUnits == other.IsInUnits && Currency == other.Currency
        && Same(At, other.At) && Same(Kinds, other.Kinds);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(At.Count, Kinds.Count, IsInUnits, Currency);

    /// <summary>What a call says, as a CloudEvent of ours; null where its kind is to be ignored.</summary>
    /// <param name="root">What came.</param>
    /// <param name="fallback">The id of the event where no field says it.</param>
    public Outcome<JsonElement?> Apply(JsonElement root, string fallback)
    {
        var kind = "order.paid";
        if (At.ContainsKey("kind"))
        {
            var said = TextAt(root, "kind") ?? "";
            if (!Kinds.TryGetValue(said, out kind!))
            {
                return Problem.In(At["kind"], "mapping-kind", said);
            }

            if (kind == Ignored)
            {
                return (JsonElement?)null;
            }
        }

        var currency = TextAt(root, "currency")?.ToUpperInvariant() ?? Currency;
        var data = new JsonObject();
        Put(data, "order", TextAt(root, "order"));
        Put(data, "token", TextAt(root, "token"));
        Put(data, "currency", currency);
        Put(data, "amount", Amount(TextAt(root, "amount"), currency));
        Put(data, "payment", TextAt(root, "payment"));
        Put(data, "coupon", TextAt(root, "coupon"));
        if (TextAt(root, "email") is { } email)
        {
            data["buyer"] = Made(("email", email), ("name", TextAt(root, "name")), ("language", TextAt(root, "language")));
        }

        if (TextAt(root, "giftEmail") is { } gift)
        {
            data["gift"] = Made(("email", gift), ("name", TextAt(root, "giftName")), ("on", TextAt(root, "giftOn")), ("words", TextAt(root, "giftWords")));
        }

        data["lines"] = Lines(root, currency);
        var whole = new JsonObject { ["specversion"] = "1.0", ["id"] = TextAt(root, "id") ?? fallback, ["type"] = kind, ["data"] = data };
        Put(whole, "time", Time(TextAt(root, "time")));
        return (JsonElement?)JsonSerializer.SerializeToElement(whole);
    }

    /// <summary>What stands at a pointer; null where nothing does (RFC 6901 §4).</summary>
    public static JsonElement? Find(JsonElement root, string pointer)
    {
        var at = root;
        if (pointer.Length == 0)
        {
            return at;
        }

        foreach (var part in pointer.Split('/').Skip(1).Select(p => p.Replace("~1", "/", StringComparison.Ordinal)
            .Replace("~0", "~", StringComparison.Ordinal)))
        {
            if (at.ValueKind == JsonValueKind.Object && at.TryGetProperty(part, out var inside))
            {
                at = inside;
            }
            else if (at.ValueKind == JsonValueKind.Array && int.TryParse(part, NumberStyles.None, CultureInfo.InvariantCulture, out var n)
                && n < at.GetArrayLength() && (part == "0" || part[0] != '0'))
            {
                at = at[n];
            }
            else
            {
                return null;
            }
        }

        return at;
    }

    /// <summary>Whether a text is a JSON Pointer.</summary>
    public static bool IsPointer(string text) => text.Length is > 0 and <= 300 && text[0] == '/' && PlainText.IsClean(text)
        && !text.Replace("~0", "", StringComparison.Ordinal).Replace("~1", "", StringComparison.Ordinal).Contains('~', StringComparison.Ordinal);

    private JsonArray Lines(JsonElement root, string? currency)
    {
        var lines = new JsonArray();
        if (!At.ContainsKey("code"))
        {
            return lines;
        }

        if (!At.TryGetValue("lines", out var pointer))
        {
            if (TextAt(root, "code") is not null)
            {
                lines.Add((JsonNode)Line(root, currency));
            }

            return lines;
        }

        if (Find(root, pointer) is { ValueKind: JsonValueKind.Array } all)
        {
            foreach (var line in all.EnumerateArray())
            {
                lines.Add((JsonNode)Line(line, currency));
            }
        }

        return lines;
    }

    private JsonObject Line(JsonElement of, string? currency) => Made(
        ("code", TextAt(of, "code")), ("variant", TextAt(of, "variant")), ("quantity", TextAt(of, "quantity")),
        ("amount", Amount(TextAt(of, "lineAmount"), currency)));

    /// <summary>An amount in decimals. What cannot be read stays as it is, and is told of by whoever reads it.</summary>
    private string? Amount(string? text, string? currency) => IsInUnits && currency is not null && Money.IsCurrency(currency)
        && long.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var units) && units <= Money.Most ? new Money(units, currency).Amount
            : text;

    /// <summary>A time; a number is seconds since 1970, or thousandths of them where it is as large as that.</summary>
    private static string? Time(string? text) => decimal.TryParse(text, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var number)
        && number is > 0 and < 100_000_000_000_000m
        ? DateTimeOffset.UnixEpoch.AddMilliseconds((double)(number > 100_000_000_000m ? number : number * 1000)).ToString("O", CultureInfo.InvariantCulture)
        : text;

    private string? TextAt(JsonElement root, string field) => At.TryGetValue(field, out var pointer) && Find(root, pointer) is { } found
        ? found.ValueKind switch
        {
            JsonValueKind.String => Clean(found),
            JsonValueKind.Number => found.GetRawText(),
            _ => null,
        }
        : null;

    private static string? Clean(JsonElement text)
    {
        try
        {
            return text.GetString() is { Length: > 0 } said ? said : null;
        }
        catch (InvalidOperationException)
        {
            return null;
        }
    }

    private static JsonObject Made(params (string Name, string? Value)[] fields)
    {
        var made = new JsonObject();
        foreach (var (name, value) in fields)
        {
            Put(made, name, value);
        }

        return made;
    }

    private static void Put(JsonObject to, string name, string? value)
    {
        if (value is not null)
        {
            to[name] = value;
        }
    }

    private static bool Same(IReadOnlyDictionary<string, string> one, IReadOnlyDictionary<string, string> other) =>
        one.Count == other.Count && one.All(p => other.TryGetValue(p.Key, out var value) && value == p.Value);
}
