using System.Globalization;
using System.Text.RegularExpressions;

namespace WarySentinel.Core.People.Forms;

/// <summary>
/// Numbers for value added tax by their form, and by their check digits where a country's rule is public (European Commission, VIES, "algorithms" of each
/// state). Whether somebody has the number is asked of nobody.
/// </summary>
public static class VatNumber
{
    private static readonly Dictionary<string, Rule> Rules = new(StringComparer.Ordinal)
    {
        ["AT"] = new("U[0-9]{8}", n => VatChecks.Austria(n[1..])),
        ["BE"] = new("[01][0-9]{9}", n => 97 - Number(n[..8]) % 97 == Number(n[8..])),
        ["BG"] = new("[0-9]{9,10}", _ => true),
        ["CH"] = new("E?[0-9]{9}(MWST|TVA|IVA)?", n => VatChecks.Switzerland(n)),
        ["CY"] = new("[0-9]{8}[A-Z]", VatChecks.Cyprus),
        ["CZ"] = new("[0-9]{8,10}", n => n.Length != 8 || VatChecks.Czechia(n)),
        ["DE"] = new("[1-9][0-9]{8}", VatChecks.Mod11By10),
        ["DK"] = new("[1-9][0-9]{7}", n => VatChecks.Weighted(n, [2, 7, 6, 5, 4, 3, 2, 1]) % 11 == 0),
        ["EE"] = new("[0-9]{9}", n => VatChecks.Weighted(n, [3, 7, 1, 3, 7, 1, 3, 7, 1]) % 10 == 0),
        ["EL"] = new("[0-9]{9}", VatChecks.Greece),
        ["ES"] = new("[A-Z0-9][0-9]{7}[A-Z0-9]", VatChecks.Spain),
        ["FI"] = new("[0-9]{8}", n => VatChecks.Weighted(n, [7, 9, 10, 5, 8, 4, 2, 1]) % 11 == 0),
        ["FR"] = new("[A-HJ-NP-Z0-9]{2}[0-9]{9}", VatChecks.France),
        ["GB"] = new("[0-9]{9}([0-9]{3})?|(GD|HA)[0-9]{3}", VatChecks.Britain),
        ["HR"] = new("[0-9]{11}", VatChecks.Mod11By10),
        ["HU"] = new("[0-9]{8}", n => VatChecks.Weighted(n, [9, 7, 3, 1, 9, 7, 3, 1]) % 10 == 0),
        ["IE"] = new("[0-9]{7}[A-W][A-I]?", VatChecks.Ireland),
        ["IT"] = new("[0-9]{11}", VatChecks.Luhn),
        ["LT"] = new("[0-9]{9}|[0-9]{12}", VatChecks.Lithuania),
        ["LU"] = new("[0-9]{8}", n => Number(n[..6]) % 89 == Number(n[6..])),
        ["LV"] = new("[0-9]{11}", n => n[0] <= '3' || VatChecks.Weighted(n, [9, 1, 4, 8, 3, 10, 2, 5, 7, 6, 1]) % 11 == 3),
        ["MT"] = new("[0-9]{8}", n => VatChecks.Weighted(n[..6], [3, 4, 6, 7, 8, 9]) is var s && 37 - s % 37 == Number(n[6..])),
        ["NL"] = new("[0-9]{9}B[0-9]{2}", VatChecks.Netherlands),
        ["NO"] = new("[0-9]{9}(MVA)?", n => VatChecks.Weighted(n[..9], [3, 2, 7, 6, 5, 4, 3, 2, 1]) % 11 == 0),
        ["PL"] = new("[0-9]{10}", n => VatChecks.Weighted(n[..9], [6, 5, 7, 2, 3, 4, 5, 6, 7]) % 11 == n[9] - '0'),
        ["PT"] = new("[1-9][0-9]{8}", n => (11 - VatChecks.Weighted(n[..8], [9, 8, 7, 6, 5, 4, 3, 2]) % 11) is var d && (d > 9 ? 0 : d) == n[8] - '0'),
        ["RO"] = new("[1-9][0-9]{1,9}", n => VatChecks.Romania(n)),
        ["SE"] = new("[0-9]{10}[0-9]{2}", n => VatChecks.Luhn(n[..10])),
        ["SI"] = new("[1-9][0-9]{7}", n => (11 - VatChecks.Weighted(n[..7], [8, 7, 6, 5, 4, 3, 2]) % 11) is var d && d != 11 && d % 10 == n[7] - '0'),
        ["SK"] = new("[1-9][0-9]{9}", n => Number(n) % 11 == 0),
        ["XI"] = new("[0-9]{9}([0-9]{3})?|(GD|HA)[0-9]{3}", VatChecks.Britain),
    };

    /// <summary>A number in capitals, with its country and without blanks, dots and hyphens; null where it cannot be one.</summary>
    /// <param name="typed">What was typed.</param>
    /// <param name="country">The country (ISO 3166-1) of a number that says none.</param>
    public static string? Read(string typed, string? country)
    {
        var bare = Regex.Replace(Blank.Off(typed), @"[\s.\-]", "").ToUpperInvariant();
        if (Numbered(bare) is { } whole)
        {
            return whole;
        }

        return country is not null && Numbered((country == "GR" ? "EL" : country) + bare) is { } with ? with : null;
    }

    private static long Number(string digits) => long.Parse(digits, CultureInfo.InvariantCulture);

    private static string? Numbered(string bare)
    {
        var at = bare.StartsWith("GR", StringComparison.Ordinal) ? "EL" + bare[2..] : bare;
        return at.Length > 4 && at.Length <= 20 && Rules.TryGetValue(at[..2], out var rule) && rule.Form.IsMatch(at[2..]) && rule.Check(at[2..]) ? at : null;
    }

    private sealed class Rule(string form, Func<string, bool> check)
    {
        public Regex Form { get; } = new($"\\A(?:{form})\\z", RegexOptions.NonBacktracking);

        public Func<string, bool> Check => check;
    }
}
