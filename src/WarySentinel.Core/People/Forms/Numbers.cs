using System.Globalization;
using System.Text.RegularExpressions;

namespace WarySentinel.Core.People.Forms;

/// <summary>
/// Numbers as people type them and as they are stored. At most fifteen digits, so that the browser's arithmetic tells any two of them apart as ours does.
/// </summary>
internal static partial class Numbers
{
    private const int MostDigits = 15;

    /// <summary>A number in its one spelling, such as <c>-0.5</c>; null where the text is none.</summary>
    public static string? Read(string text)
    {
        var match = Typed().Match(Blank.Off(text));
        if (!match.Success)
        {
            return null;
        }

        var (whole, part) = (match.Groups[2].Value.TrimStart('0'), match.Groups[3].Value.TrimEnd('0'));
        if (whole.Length + part.Length > MostDigits)
        {
            return null;
        }

        var shown = (whole.Length == 0 ? "0" : whole) + (part.Length == 0 ? "" : "." + part);
        return match.Groups[1].Value == "-" && shown != "0" ? "-" + shown : shown;
    }

    /// <summary>The value of a number in its one spelling.</summary>
    public static decimal ValueOf(string number) => decimal.Parse(number, NumberStyles.Number, CultureInfo.InvariantCulture);

    /// <summary>Compares two bounds of a field of that kind.</summary>
    public static int Compare(FieldKind kind, string one, string other) => kind == FieldKind.Date ? string.CompareOrdinal(one, other)
        : ValueOf(Read(one)!).CompareTo(ValueOf(Read(other)!));

    [GeneratedRegex(@"\A([+-]?)([0-9]{1,30})(?:[.,]([0-9]{1,30}))?\z")]
    private static partial Regex Typed();
}
