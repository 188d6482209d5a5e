using System.Globalization;

namespace WarySentinel.Core.People.Forms;

/// <summary>The countries that can be chosen (ISO 3166-1 alpha-2, as of 2024).</summary>
public static class Countries
{
    private const string Codes =
        "AD AE AF AG AI AL AM AO AQ AR AS AT AU AW AX AZ BA BB BD BE BF BG BH BI BJ BL BM BN BO BQ BR BS BT BV BW BY BZ CA CC CD CF CG CH " +
        "CI CK CL CM CN CO CR CU CV CW CX CY CZ DE DJ DK DM DO DZ EC EE EG EH ER ES ET FI FJ FK FM FO FR GA GB GD GE GF GG GH GI GL GM GN " +
        "GP GQ GR GS GT GU GW GY HK HM HN HR HT HU ID IE IL IM IN IO IQ IR IS IT JE JM JO JP KE KG KH KI KM KN KP KR KW KY KZ LA LB LC LI " +
        "LK LR LS LT LU LV LY MA MC MD ME MF MG MH MK ML MM MN MO MP MQ MR MS MT MU MV MW MX MY MZ NA NC NE NF NG NI NL NO NP NR NU NZ OM " +
        "PA PE PF PG PH PK PL PM PN PR PS PT PW PY QA RE RO RS RU RW SA SB SC SD SE SG SH SI SJ SK SL SM SN SO SR SS ST SV SX SY SZ TC TD " +
        "TF TG TH TJ TK TL TM TN TO TR TT TV TW TZ UA UG UM US UY UZ VA VC VE VG VI VN VU WF WS YE YT ZA ZM ZW";

    /// <summary>Their codes in order.</summary>
    public static readonly IReadOnlyList<string> All = Codes.Split(' ');

    private static readonly HashSet<string> Known = [.. All];

    /// <summary>Whether there is such a country.</summary>
    public static bool IsKnown(string? code) => code is not null && Known.Contains(code);

    /// <summary>What a country is called in a language, and its code where the machine does not know.</summary>
    public static string NameOf(string code, CultureInfo language)
    {
        try
        {
            // As people there would call it who spoke that language; the framework's own way names each in the language of the country.
            return new RegionInfo($"{language.TwoLetterISOLanguageName}-{code}").NativeName;
        }
        catch (ArgumentException)
        {
            return code;
        }
    }
}
