using System.Globalization;
using CsvHelper;
using CsvHelper.Configuration;
using WarySentinel.Contract.Orders;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Orders;

/// <summary>An event that a file tells, with the line where it begins and what stands there.</summary>
public sealed record FiledEvent(int Line, OrderEvent Event, string Raw);

/// <summary>
/// Reads orders from CSV (RFC 4180) with comma, semicolon or tab, its columns in any order and named as shops name them. Rows of one order, of the same kind
/// and time, are its lines.
/// </summary>
public sealed class OrderCsv
{
    private const int LongestField = 20_000;

    private static readonly Dictionary<string, string> Synonyms = new(StringComparer.Ordinal)
    {
        ["order"] = "order", ["ordernumber"] = "order", ["orderid"] = "order", ["number"] = "order", ["bestellung"] = "order", ["bestellnummer"] = "order",
        ["email"] = "email", ["mail"] = "email", ["emailaddress"] = "email", ["buyer"] = "email", ["customer"] = "email", ["name"] = "name",
        ["fullname"] = "name", ["customername"] = "name", ["code"] = "code", ["sku"] = "code", ["product"] = "code", ["item"] = "code",
        ["stockcode"] = "code", ["artikelnummer"] = "code", ["variant"] = "variant", ["quantity"] = "quantity", ["qty"] = "quantity", ["menge"] = "quantity",
        ["amount"] = "amount", ["total"] = "amount", ["price"] = "amount", ["betrag"] = "amount", ["currency"] = "currency", ["waehrung"] = "currency",
        ["währung"] = "currency", ["at"] = "at", ["date"] = "at", ["paid"] = "at", ["paidat"] = "at", ["datum"] = "at", ["kind"] = "kind",
        ["status"] = "kind", ["event"] = "kind", ["language"] = "language", ["coupon"] = "coupon", ["couponcode"] = "coupon", ["discountcode"] = "coupon",
        ["gutschein"] = "coupon", ["gutscheincode"] = "coupon",
    };

    private static readonly Dictionary<string, string> Kinds = new(StringComparer.OrdinalIgnoreCase)
    {
        [""] = "order.paid", ["paid"] = "order.paid", ["complete"] = "order.paid", ["completed"] = "order.paid", ["renewed"] = "order.renewed",
        ["refunded"] = "order.refunded", ["refund"] = "order.refunded", ["cancelled"] = "order.cancelled", ["canceled"] = "order.cancelled",
        ["ended"] = "order.ended", ["failed"] = "order.failed", ["charged-back"] = "order.charged-back", ["chargeback"] = "order.charged-back",
    };

    private readonly SiteDates dates;
    private readonly DateTimeOffset now;
    private readonly Dictionary<(string Order, string Kind, string At), (int Line, OrderDraft Draft, List<OrderLineDraft> Lines, string Raw)> gathered = [];

    private OrderCsv(SiteDates dates, DateTimeOffset now) => (this.dates, this.now) = (dates, now);

    /// <summary>What each column was taken for.</summary>
    public Dictionary<string, string> Columns { get; } = new(StringComparer.Ordinal);

    /// <summary>How many rows there are.</summary>
    public int Rows { get; private set; }

    /// <summary>What is wrong with rows.</summary>
    public List<(int Line, Fault Fault)> Faults { get; } = [];

    /// <summary>What the rows say.</summary>
    public List<FiledEvent> Events { get; } = [];

    /// <summary>Reads a file; a problem where it is none of orders.</summary>
    public static Outcome<OrderCsv> Read(TextReader text, SiteDates dates, DateTimeOffset now)
    {
        var made = new OrderCsv(dates, now);
        var first = text.ReadLine() ?? "";
        using var csv = new CsvReader(new JoinedReader(first, text), new CsvConfiguration(CultureInfo.InvariantCulture)
        {
            Delimiter = CsvSign.Of(first), TrimOptions = TrimOptions.Trim, BadDataFound = null, MissingFieldFound = null, MaxFieldSize = LongestField,
        });
        try
        {
            return made.ReadHeader(csv) is { } missing ? missing : made.ReadRows(csv);
        }
        catch (CsvHelperException)
        {
            return Problem.In("file", "order-file", made.Rows + 2);
        }
    }

    private Problem? ReadHeader(CsvReader csv)
    {
        if (!csv.Read() || !csv.ReadHeader())
        {
            return Problem.In("file", "order-file-empty");
        }

        foreach (var column in csv.HeaderRecord!)
        {
            var name = new string([.. column.ToLowerInvariant().Where(char.IsLetterOrDigit)]);
            if (Synonyms.TryGetValue(name, out var field) && !Columns.ContainsValue(field))
            {
                Columns[column] = field;
            }
        }

        var missing = new[] { "order", "email", "code" }.Where(f => !Columns.ContainsValue(f)).ToList();
        return missing.Count == 0 ? null : Problem.In("file", "order-file-columns", string.Join(", ", missing));
    }

    private OrderCsv ReadRows(CsvReader csv)
    {
        var places = Columns.ToDictionary(c => c.Value, c => csv.HeaderRecord!.ToList().IndexOf(c.Key));
        while (csv.Read())
        {
            Rows++;
            string? Said(string field) => places.TryGetValue(field, out var at) && csv.TryGetField<string>(at, out var text) ? PlainText.OrNull(text) : null;
            Take(csv.Parser.RawRow, Said, csv.Parser.RawRecord.TrimEnd());
        }

        foreach (var (_, (line, draft, lines, raw)) in gathered)
        {
            Finish(line, draft with { Lines = lines.Count > 0 ? lines : null }, raw);
        }

        return this;
    }

    private void Take(int line, Func<string, string?> said, string raw)
    {
        var kind = Kinds.GetValueOrDefault(said("kind") ?? "") ?? (OrderEvent.Kinds.ContainsKey(said("kind") ?? "") ? said("kind")! : null);
        var at = said("at") is not { } text ? "" : dates.TryRead(text, false, out var moment) ? SiteDates.Write(moment) : null;
        foreach (var (bad, field, code) in new[] { (kind is null, "kind", "order-file-kind"), (at is null, "at", "time-form"),
            (said("order") is null, "order", "order-needed") }.Where(f => f.Item1))
        {
            Faults.Add((line, new Fault(field, Wording.Of("problem." + code, said(field) ?? field))));
        }

        if (kind is null || at is null || said("order") is not { } order)
        {
            return;
        }

        if (!gathered.TryGetValue((order, kind, at), out var there))
        {
            var draft = new OrderDraft
            {
                Order = order, Kind = kind, At = at.Length == 0 ? null : at, Email = said("email"), Name = said("name"), Language = said("language"),
                Coupon = said("coupon"), Currency = said("currency"), Amount = kind == "order.paid" ? null : said("amount")?.Replace(',', '.'),
            };
            gathered[(order, kind, at)] = there = (line, draft, [], raw);
        }

        if (kind == "order.paid")
        {
            var quantity = int.TryParse(said("quantity") ?? "1", NumberStyles.None, CultureInfo.InvariantCulture, out var many) ? many : 0;
            there.Lines.Add(new OrderLineDraft(said("code"), said("variant"), quantity, said("currency") is null ? null : said("amount")?.Replace(',', '.')));
        }
    }

    private void Finish(int line, OrderDraft draft, string raw)
    {
        var id = $"{draft.Order} {draft.Kind} {draft.At}".Trim();
        var named = id.Length <= EventReading.LongestName ? id
            : Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(id)));
        var read = (draft with { Id = named }).Read(draft.Order!, draft.Kind!, now);
        if (read.Problem is { } problem)
        {
            Faults.AddRange(problem.Faults.Select(f => (line, f)));
            return;
        }

        Events.Add(new FiledEvent(line, read.Value, raw));
    }
}
