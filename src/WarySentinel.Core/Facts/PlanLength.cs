using System.Globalization;
using System.Text.RegularExpressions;

namespace WarySentinel.Core.Facts;

/// <summary>
/// How long a plan lasts: years, months and days of the calendar (ISO 8601-1 §5.5.2, without times), such as <c>P30D</c>, <c>P1M</c>, <c>P1Y6M</c>. A month is
/// that of the calendar: from the 31st of January it lasts to the last day of February, and the one after that to the 31st of March.
/// </summary>
/// <param name="Months">Months, a year being twelve of them.</param>
/// <param name="Days">Days, a week being seven of them.</param>
public sealed partial record PlanLength(int Months, int Days)
{
    /// <summary>Longest, in months.</summary>
    public const int MostMonths = 1200;

    /// <summary>Longest, in days.</summary>
    public const int MostDays = 36_600;

    /// <summary>Reads a length; false where the text is none, or says nothing.</summary>
    public static bool TryParse(string? text, out PlanLength? length)
    {
        length = null;
        if (Form().Match(text?.Trim() ?? "") is not { Success: true } read)
        {
            return false;
        }

        long Number(int group) => read.Groups[group].Success ? long.Parse(read.Groups[group].ValueSpan, NumberStyles.None, CultureInfo.InvariantCulture) : 0;
        var (months, days) = ((Number(1) * 12) + Number(2), (Number(3) * 7) + Number(4));
        if (months + days == 0 || months > MostMonths || days > MostDays)
        {
            return false;
        }

        length = new PlanLength((int)months, (int)days);
        return true;
    }

    /// <inheritdoc/>
    public override string ToString() => string.Create(
        CultureInfo.InvariantCulture,
        $"P{(Months >= 12 ? $"{Months / 12}Y" : "")}{(Months % 12 > 0 ? $"{Months % 12}M" : "")}{(Days > 0 ? $"{Days}D" : "")}");

    [GeneratedRegex(@"^P(?:(\d{1,4})Y)?(?:(\d{1,4})M)?(?:(\d{1,4})W)?(?:(\d{1,5})D)?$", RegexOptions.CultureInvariant)]
    private static partial Regex Form();
}
