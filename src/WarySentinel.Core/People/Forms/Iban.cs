using System.Text.RegularExpressions;

namespace WarySentinel.Core.People.Forms;

/// <summary>Account numbers by their form and check digits (ISO 13616, ISO 7064 MOD 97-10). Whether there is such an account is asked of nobody.</summary>
public static partial class Iban
{
    private static readonly Dictionary<string, int> Lengths = (
        "AD24 AE23 AL28 AT20 AZ28 BA20 BE16 BG22 BH22 BR29 BY28 CH21 CR22 CY28 CZ24 DE22 DK18 DO28 EE20 EG29 ES24 FI18 FO18 FR27 GB22 GE22 GI23 GL18 GR27 "
        + "GT28 HR21 HU28 IE22 IL23 IQ23 IS26 IT27 JO30 KW30 KZ20 LB28 LC32 LI21 LT20 LU20 LV21 LY25 MC27 MD24 ME22 MK19 MR27 MT31 MU30 NL18 NO15 PK24 "
        + "PL28 PS29 PT25 QA29 RO24 RS22 SA24 SC31 SD18 SE24 SI19 SK24 SM27 ST25 SV28 TL23 TN24 TR26 UA29 VA22 VG24 XK20").Split(' ')
        .ToDictionary(c => c[..2], c => int.Parse(c[2..], System.Globalization.CultureInfo.InvariantCulture));

    /// <summary>The number without blanks, in capitals; null where it is none.</summary>
    public static string? Read(string typed)
    {
        var number = typed.Replace(" ", "", StringComparison.Ordinal).ToUpperInvariant();
        return Form().IsMatch(number) && Lengths.GetValueOrDefault(number[..2]) == number.Length && Remainder(number[4..] + number[..4]) == 1 ? number : null;
    }

    /// <summary>What is left of a number with letters in it (A is 10) by 97.</summary>
    internal static int Remainder(string number) => number.Aggregate(0, (rest, c) =>
        char.IsAsciiDigit(c) ? (rest * 10 + (c - '0')) % 97 : (rest * 100 + (c - 'A' + 10)) % 97);

    [GeneratedRegex(@"\A[A-Z]{2}[0-9]{2}[A-Z0-9]{10,30}\z")]
    private static partial Regex Form();
}
