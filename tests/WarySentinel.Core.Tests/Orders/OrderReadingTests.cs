using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using Xunit;

namespace WarySentinel.Core.Tests.Orders;

/// <summary>What strangers send, read: whole, bent, mapped; and what codes and amounts mean.</summary>
public sealed class OrderReadingTests
{
    private static readonly DateTimeOffset Now = new(2026, 11, 27, 18, 0, 0, TimeSpan.Zero);
    private static readonly string[] Odd =
    [
        "null", "true", "[]", "{}", "-1", "1e400", "\"\"", "\"\\ud800\"", "\"\\u0000\"", "\"\\u202e\"", "99999999999999999999999999",
            "\"2026-13-01T00:00:00Z\"", "0.5",
        "\" \"", "[[[[]]]]", "\"EURO\"",
    ];

    private static JsonObject Whole() => (JsonObject)JsonNode.Parse("""
        {
          "specversion": "1.0", "id": "ev-1", "source": "https://pay.example", "type": "example.pay.order.paid", "time": "2026-11-27T17:00:00.1234567Z",
          "data": {
            "order": "FO-1", "token": "abcdefghijklmnop", "buyer": { "email": "ada@quill.example", "name": "Ada", "language": "de" },
            "lines": [ { "code": "PATRON", "variant": "A", "quantity": 2, "amount": "12.90" }, { "code": "ATLAS" } ],
            "amount": 12.9, "currency": "eur", "payment": "p", "gift": { "email": "b@c.example", "on": "2026-12-24", "words": "Two\nlines." }
          }
        }
        """)!;

    private static Outcome<OrderEvent> Read(JsonNode json) => EventReading.Read(JsonSerializer.SerializeToElement(json), Now);

    [Fact]
    public void A_whole_event_is_read_as_it_is_said()
    {
        var read = Read(Whole()).Value;
        (read.Kind, read.Order, read.Buyer).ShouldBe((OrderEventKind.Paid, "FO-1", new OrderBuyer("ada@quill.example", "Ada", "de")));
        read.Lines.ShouldBe([new OrderLine("PATRON", "A", 2, new Money(1290, "EUR")), new OrderLine("ATLAS")]);
        (read.Amount, read.Gift!.On, read.Gift.Words).ShouldBe((new Money(1290, "EUR"), new DateOnly(2026, 12, 24), "Two\nlines."));
        // To the microsecond, as both databases keep it; and nothing happens later than it is told.
        read.At.ShouldBe(new DateTimeOffset(2026, 11, 27, 17, 0, 0, TimeSpan.Zero).AddTicks(1234560));
        var ahead = Whole();
        ahead["time"] = "2030-01-01T00:00:00Z";
        Read(ahead).Value.At.ShouldBe(Now);
    }

    [Theory]
    [InlineData("/specversion", "\"0.3\"")]
    [InlineData("/type", "\"order.eaten\"")]
    [InlineData("/type", "\"reorder.paid\"")]
    [InlineData("/type", "\"order.mended\"")]
    [InlineData("/id", "null")]
    [InlineData("/data/order", "null")]
    [InlineData("/data/buyer", "null")]
    [InlineData("/data/buyer", "\"ada\"")]
    [InlineData("/data/lines", "[]")]
    [InlineData("/data/lines", "{}")]
    [InlineData("/data/currency", "\"E2R\"")]
    [InlineData("/data/amount", "\"12.901\"")]
    [InlineData("/data/amount", "\"-1\"")]
    [InlineData("/data/gift/on", "\"24.12.2026\"")]
    [InlineData("/time", "\"tomorrow\"")]
    public void What_is_wrong_is_told_with_its_place(string pointer, string value)
    {
        var json = Whole();
        var parts = pointer.Split('/')[1..];
        var at = parts[..^1].Aggregate((JsonNode)json, (node, part) => node[part]!);
        at[parts[^1]] = JsonNode.Parse(value);
        Read(json).Problem!.Faults.ShouldContain(f => f.Field == pointer, JsonSerializer.Serialize(Read(json).Problem!.Faults.Select(f => f.Field)));
    }

    [Property(MaxTest = 1500)]
    public void Whatever_is_bent_in_it_it_is_read_or_told_and_never_breaks(int seed)
    {
        var (random, json) = (new Random(seed), Whole());
        for (var bends = random.Next(1, 4); bends > 0; bends--)
        {
            var inner = new List<(JsonNode Parent, string Name)>();
            void Walk(JsonNode node)
            {
                foreach (var (name, value) in node is JsonObject of ? of.ToList() : [])
                {
                    inner.Add((node, name));
                    if (value is JsonObject or JsonArray)
                    {
                        Walk(value);
                    }
                }

                foreach (var value in node is JsonArray list ? list.ToList() : [])
                {
                    Walk(value!);
                }
            }

            Walk(json);
            var (parent, name) = inner[random.Next(inner.Count)];
            parent[name] = JsonNode.Parse(Odd[random.Next(Odd.Length)].Replace("\\ud800", "x", StringComparison.Ordinal));
        }

        var read = EventReading.Read(JsonDocument.Parse(json.ToJsonString()).RootElement, Now);
        if (read.Problem is { } problem)
        {
            problem.Faults.ShouldNotBeEmpty();
            return;
        }

        (read.Value.Order.Length, read.Value.Id.Length).ShouldSatisfyAllConditions(l => l.Item1.ShouldBeInRange(1, 100), l => l.Item2.ShouldBeInRange(1, 100));
        read.Value.Lines.ShouldAllBe(l => l.Quantity >= 1 && l.Code.Length > 0);
        read.Value.At.ShouldBeLessThanOrEqualTo(Now);
        OrderStory.Of([read.Value]).ShouldNotBeNull();
    }

    [Fact]
    public void Half_of_a_surrogate_pair_is_no_text()
    {
        var raw = Whole().ToJsonString().Replace("FO-1", "\\ud800", StringComparison.Ordinal);
        EventReading.Read(JsonDocument.Parse(raw).RootElement, Now).Problem!.Faults.ShouldContain(f => f.Field == "/data/order");
    }

    [Property(MaxTest = 600)]
    public void A_mapping_reads_a_stranger_as_our_own_reader_reads_ours(int seed)
    {
        var random = new Random(seed);
        var (cents, count, quantity) = (random.Next(0, 100_000), random.Next(1, 4), random.Next(1, 9));
        string Name() => new([.. Enumerable.Range(0, random.Next(1, 6)).Select(_ => "ab~/c"[random.Next(5)])]);
        var (outer, key) = (Name() + "1", Name() + "2");
        static string Escaped(string name) => name.Replace("~", "~0", StringComparison.Ordinal).Replace("/", "~1", StringComparison.Ordinal);
        var json = new JsonObject
        {
            ["what"] = "charge.ok", ["when"] = Now.AddHours(-1).ToUnixTimeMilliseconds(),
            [outer] = new JsonObject { [key] = "A-7", ["who"] = new JsonArray("x", "ada@quill.example") },
            ["cart"] = new JsonArray([.. Enumerable.Range(0, count)
                .Select(n => (JsonNode)new JsonObject { ["sku"] = "S" + n, ["n"] = quantity, ["c"] = cents })]),
        };
        var mapping = new OrderMapping
        {
            At = new Dictionary<string, string>
            {
                ["kind"] = "/what", ["time"] = "/when", ["order"] = $"/{Escaped(outer)}/{Escaped(key)}", ["email"] = $"/{Escaped(outer)}/who/1",
                ["lines"] = "/cart", ["code"] = "/sku", ["quantity"] = "/n", ["lineAmount"] = "/c",
            },
            Kinds = new Dictionary<string, string> { ["charge.ok"] = "order.paid", ["ping"] = OrderMapping.Ignored }, IsInUnits = true, Currency = "EUR",
        };
        var read = EventReading.Read(mapping.Apply(JsonSerializer.SerializeToElement(json), "fallback").Value!.Value, Now).Value;
        (read.Id, read.Order, read.Buyer!.Email, read.At).ShouldBe(("fallback", "A-7", "ada@quill.example", Now.AddHours(-1)));
        read.Lines.ShouldBe([.. Enumerable.Range(0, count).Select(n => new OrderLine("S" + n, null, quantity, new Money(cents, "EUR")))]);

        json["what"] = "ping";
        mapping.Apply(JsonSerializer.SerializeToElement(json), "f").Value.ShouldBeNull();
        json["what"] = "charge.odd";
        mapping.Apply(JsonSerializer.SerializeToElement(json), "f").Problem!.Faults.ShouldHaveSingleItem().Field.ShouldBe("/what");
    }

    [Theory]
    [InlineData("/a/0/b", "1")]
    [InlineData("/a/1", "\"x\"")]
    [InlineData("/m~0n", "2")]
    [InlineData("/c~1d", "3")]
    [InlineData("/", "4")]
    [InlineData("/a/01", null)]
    [InlineData("/a/2", null)]
    [InlineData("/a/-", null)]
    [InlineData("/nothing/at/all", null)]
    public void Pointers_lead_where_the_standard_says(string pointer, string? value)
    {
        using var json = JsonDocument.Parse("""{"a":[{"b":1},"x"],"m~n":2,"c/d":3,"":4}""");
        OrderMapping.Find(json.RootElement, pointer)?.GetRawText().ShouldBe(value);
        (OrderMapping.Find(json.RootElement, pointer) is null).ShouldBe(value is null);
    }

    [Property(MaxTest = 2000)]
    public void Codes_match_as_the_same_pattern_written_as_a_regular_expression(int seed)
    {
        var random = new Random(seed);
        string Made(string letters, int most) => new([.. Enumerable.Range(0, random.Next(1, most)).Select(_ => letters[random.Next(letters.Length)])]);
        var (pattern, code) = (Made("aAb*", 7), Made("abB", 9));
        var regex = new Regex("^" + Regex.Escape(pattern).Replace("\\*", ".*", StringComparison.Ordinal) + "$",
            RegexOptions.IgnoreCase | RegexOptions.CultureInvariant);
        new FulfilmentRule { Key = "k", Code = pattern, Gives = [] }.IsFor(new OrderLine(code)).ShouldBe(regex.IsMatch(code), $"{pattern} for {code}");
    }

    [Fact]
    public void The_more_precise_rule_counts_and_a_pattern_of_stars_takes_no_time()
    {
        var book = new FulfilmentBook(
            new[] { "*", "BOOK*", "BOOK-1", "BOOK-1/HARD" }.Select(c => new FulfilmentRule { Key = "k" + c.Length, Code = c, Gives = [] }));
        string? For(string code, string? variant = null) => book.For(new OrderLine(code, variant))?.Code;
        (For("x"), For("BOOK-2"), For("book-1"), For("BOOK-1", "SOFT"), For("BOOK-1", "hard")).ShouldBe(("*", "BOOK*", "BOOK-1", "BOOK-1", "BOOK-1/HARD"));
        var stars = new FulfilmentRule { Key = "k", Code = string.Concat(Enumerable.Repeat("*a", 50)), Gives = [] };
        stars.IsFor(new OrderLine(new string('a', 100) + "b")).ShouldBeFalse();
    }

    [Property(MaxTest = 1000)]
    public void Amounts_are_read_back_as_they_are_written_in_every_currency(int seed)
    {
        var random = new Random(seed);
        var currency = new[] { "EUR", "JPY", "KWD", "USD", "ISK", "TND" }[random.Next(6)];
        var money = new Money(random.NextInt64(Money.Most), currency);
        Money.TryParse(money.Amount, currency, out var read).ShouldBeTrue(money.ToString());
        read.ShouldBe(money);
        var decimals = Money.DecimalsOf(currency);
        decimal.Parse(money.Amount, CultureInfo.InvariantCulture).ShouldBe(money.Units / (decimal)Math.Pow(10, decimals));
        Money.TryParse(money.Amount + (decimals == 0 ? ".5" : "5"), currency, out _).ShouldBeFalse();
    }

    [Theory]
    [InlineData("1,5")]
    [InlineData("1e3")]
    [InlineData("+1")]
    [InlineData(" ")]
    [InlineData("٣")]
    [InlineData("99999999999999999999")]
    public void What_is_no_amount_is_none(string text) => Money.TryParse(text, "EUR", out _).ShouldBeFalse();
}
