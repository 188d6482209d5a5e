using System.Text.RegularExpressions;

namespace WarySentinel.Core.Entries;

/// <summary>What is written like an amount of money: a number with the sign of a currency (or its code, ISO 4217), or a number of that form alone.</summary>
public static partial class Amounts
{
    // Milliseconds after which a search in a strange text is given up (RegexMatchTimeoutException).
    private const int Longest = 10_000;

    /// <summary>The first amount in a text that has the sign of its currency, as it stands there; null where there is none.</summary>
    public static string? In(string text) => Signed().Match(text) is { Success: true } match ? match.Value.Trim() : null;

    /// <summary>Whether a text is an amount and nothing else, with its sign or without.</summary>
    public static bool IsOne(string text) => Bare().IsMatch(text.Trim());

    /// <summary>Whether an amount stands in a text, with its sign or with two digits behind the point.</summary>
    public static bool StandsIn(string text) => In(text) is not null || Pointed().IsMatch(text);

    [GeneratedRegex("""
        (?: [€$£¥] | \b(?:EUR|USD|GBP|CHF|JPY|PLN|CZK|SEK|NOK|DKK)\b ) \s? \d[\d.,'\u00A0]*
        | \d[\d.,'\u00A0]* \s? (?: [€$£¥] | (?:EUR|USD|GBP|CHF|JPY|PLN|CZK|SEK|NOK|DKK|kr)\b | zł )
        """, RegexOptions.CultureInvariant | RegexOptions.IgnorePatternWhitespace, Longest)]
    private static partial Regex Signed();

    [GeneratedRegex("""^\d{1,9}(?:[.,'\u00A0 ]\d{3})*(?:[.,]\d{1,2})?$""", RegexOptions.CultureInvariant, Longest)]
    private static partial Regex Bare();

    [GeneratedRegex("""\d[.,]\d{2}\b""", RegexOptions.CultureInvariant, Longest)]
    private static partial Regex Pointed();
}
