using System.Globalization;

namespace WarySentinel.Core.Orders;

/// <summary>An amount of a currency, in its smallest unit: cents where it has two decimals, whole yen where it has none.</summary>
/// <param name="Units">So many of the smallest unit.</param>
/// <param name="Currency">The alphabetic code of the currency (ISO 4217).</param>
public readonly record struct Money(long Units, string Currency)
{
    /// <summary>Most of the smallest unit that one amount is.</summary>
    public const long Most = 1_000_000_000_000;

    private static readonly HashSet<string> Whole = new(StringComparer.Ordinal)
    {
        "BIF", "CLP", "DJF", "GNF", "ISK", "JPY", "KMF", "KRW", "PYG", "RWF", "UGX", "UYI", "VND", "VUV", "XAF", "XOF", "XPF",
    };

    private static readonly HashSet<string> Thousandths = new(StringComparer.Ordinal) { "BHD", "IQD", "JOD", "KWD", "LYD", "OMR", "TND" };

    /// <summary>How many decimals a currency has (ISO 4217, table A.1): two, but for those that have none or three.</summary>
    public static int DecimalsOf(string currency) => Whole.Contains(currency) ? 0 : Thousandths.Contains(currency) ? 3 : 2;

    /// <summary>Whether a text is the code of a currency, as to its form: three capital letters.</summary>
    public static bool IsCurrency(string? text) => text is { Length: 3 } && text.All(char.IsAsciiLetterUpper);

    /// <summary>
    /// Reads an amount in decimals, such as <c>12.90</c>; false where it has more of them than the currency, is below nothing, or larger than is taken.
    /// </summary>
    public static bool TryParse(string? text, string currency, out Money money)
    {
        money = default;
        if (!IsCurrency(currency) || !decimal.TryParse(text, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var amount)
            || amount < 0 || amount > Most)
        {
            return false;
        }

        var units = amount * Power(DecimalsOf(currency));
        if (units != decimal.Truncate(units) || units > Most)
        {
            return false;
        }

        money = new Money((long)units, currency);
        return true;
    }

    /// <summary>Rounds an amount of the smallest unit to a whole multiple of a step, a half away from zero, as trade does.</summary>
    public static long Rounded(decimal units, int step = 1) => (long)Math.Round(units / step, MidpointRounding.AwayFromZero) * step;

    /// <summary>The amount in decimals, as it is written in data: <c>12.90</c>, <c>1200</c> of a currency that has none.</summary>
    public string Amount => (Units / Power(DecimalsOf(Currency))).ToString("F" + DecimalsOf(Currency), CultureInfo.InvariantCulture);

    /// <inheritdoc/>
    public override string ToString() => $"{Amount} {Currency}";

    /// <summary>The amount as people of a language write it, such as <c>12,90 €</c>; by its code where the sign of a currency stands for several.</summary>
    public string Told(CultureInfo language)
    {
        var form = (NumberFormatInfo)language.NumberFormat.Clone();
        (form.CurrencySymbol, form.CurrencyDecimalDigits) = (Signs.GetValueOrDefault(Currency, Currency), DecimalsOf(Currency));
        if (!Signs.ContainsKey(Currency) && form.CurrencyPositivePattern < 2)
        {
            // A code of letters does not touch the number.
            form.CurrencyPositivePattern += 2;
        }

        return (Units / Power(DecimalsOf(Currency))).ToString("C", form);
    }

    /// <summary>Signs that stand for one currency.</summary>
    private static readonly Dictionary<string, string> Signs = new(StringComparer.Ordinal)
    {
        ["EUR"] = "€", ["USD"] = "$", ["GBP"] = "£", ["JPY"] = "¥", ["INR"] = "₹", ["KRW"] = "₩", ["UAH"] = "₴", ["TRY"] = "₺", ["ILS"] = "₪",
        ["PLN"] = "zł", ["CZK"] = "Kč", ["VND"] = "₫",
    };

    private static decimal Power(int decimals) => decimals switch { 0 => 1m, 3 => 1000m, _ => 100m };
}
