using System.Globalization;
using System.Text.RegularExpressions;
using CsvHelper;
using CsvHelper.Configuration;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Prices;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Prices;

/// <summary>
/// Price lists as CSV (RFC 4180) with comma, semicolon or tab: columns item, quantity, price, off in any order, named as shops name them. Decimals may have a
/// comma where no comma parts the fields.
/// </summary>
public static partial class PriceCsv
{
    /// <summary>The largest file taken, in bytes.</summary>
    public const int MostBytes = 8 << 20;

    private const int LongestField = 2000;

    private static readonly Dictionary<string, string> Synonyms = new(StringComparer.Ordinal)
    {
        ["item"] = "item", ["product"] = "item", ["sku"] = "item", ["code"] = "item", ["artikel"] = "item", ["artikelnummer"] = "item",
        ["quantity"] = "quantity", ["qty"] = "quantity", ["from"] = "quantity", ["menge"] = "quantity", ["ab"] = "quantity", ["price"] = "price",
        ["amount"] = "price", ["preis"] = "price", ["off"] = "off", ["percent"] = "off", ["discount"] = "off", ["rabatt"] = "off",
    };

    /// <summary>Reads a file; gives its lines with the line of the file where each stands.</summary>
    public static Outcome<IReadOnlyList<(int Line, PriceLineDraft Draft)>> Read(TextReader text)
    {
        var first = text.ReadLine() ?? "";
        var sign = CsvSign.Of(first);
        using var csv = new CsvReader(new JoinedReader(first, text), new CsvConfiguration(CultureInfo.InvariantCulture)
        { Delimiter = sign, TrimOptions = TrimOptions.Trim, BadDataFound = null, MissingFieldFound = null, MaxFieldSize = LongestField });
        var rows = new List<(int, PriceLineDraft)>();
        try
        {
            if (!csv.Read() || !csv.ReadHeader())
            {
                return Problem.In("file", "price-file-columns", "item, price");
            }

            var places = new Dictionary<string, int>(StringComparer.Ordinal);
            foreach (var (column, at) in csv.HeaderRecord!.Select((c, at) => (c, at)))
            {
                if (Synonyms.TryGetValue(new string([.. column.ToLowerInvariant().Where(char.IsLetter)]), out var field))
                {
                    places.TryAdd(field, at);
                }
            }

            if (!places.ContainsKey("item") || !(places.ContainsKey("price") || places.ContainsKey("off")))
            {
                return Problem.In("file", "price-file-columns", "item, price");
            }

            while (csv.Read() && rows.Count <= PriceDraft.MostLines)
            {
                string? Said(string field) =>
                    places.TryGetValue(field, out var at) && csv.TryGetField<string>(at, out var said) ? PlainText.OrNull(said) : null;
                int? quantity = Said("quantity") is not { } many ? null
                    : int.TryParse(many, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : 0;
                rows.Add((csv.Parser.RawRow, new PriceLineDraft(NameOf(Said("item")), quantity, Decimal(Said("price"), sign), Decimal(Said("off"), sign))));
            }

            return rows;
        }
        catch (CsvHelperException)
        {
            return Problem.In("file", "order-file", rows.Count + 2);
        }
    }

    /// <summary>The problem of a draft, told by the lines of the file that it was read from.</summary>
    public static Problem Located(Problem problem, IReadOnlyList<(int Line, PriceLineDraft Draft)> rows) => problem with
    {
        Faults = [.. problem.Faults.Select(f => Place().Match(f.Field) is { Success: true } place
            && int.Parse(place.Groups[1].ValueSpan, CultureInfo.InvariantCulture) is var at && at < rows.Count
                ? f with { Field = place.Groups[2].Value, Line = rows[at].Line } : f)],
    };

    /// <summary>Writes the lines of a list.</summary>
    public static string Write(PriceList list)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using var csv = new CsvWriter(text, new CsvConfiguration(CultureInfo.InvariantCulture) { NewLine = "\r\n" });
        string[] columns = ["item", "quantity", "price", "off"];
        WriteRow(csv, columns);
        foreach (var line in PriceDraft.Of(list).Lines!)
        {
            WriteRow(csv, [line.Item, line.Quantity?.ToString(CultureInfo.InvariantCulture) ?? "1", line.Price, line.Off]);
        }

        csv.Flush();
        return text.ToString();
    }

    private static void WriteRow(CsvWriter csv, IEnumerable<string?> fields)
    {
        foreach (var field in fields)
        {
            csv.WriteField(field);
        }

        csv.NextRecord();
    }

    /// <summary>A code alone is a product's.</summary>
    private static string? NameOf(string? item) =>
        item is null || item.Contains(':', StringComparison.Ordinal) || ItemId.TryParse(item, out _) ? item : "product:" + item.ToLowerInvariant();

    private static string? Decimal(string? text, string sign) =>
        text is not null && sign != "," && !text.Contains('.', StringComparison.Ordinal) ? text.Replace(',', '.') : text;

    [GeneratedRegex(@"^lines\[(\d{1,6})\]\.?(\w*)$", RegexOptions.CultureInvariant)]
    private static partial Regex Place();
}
