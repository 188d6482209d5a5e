using System.Text.RegularExpressions;

namespace WarySentinel.Core.People.Forms;

/// <summary>Postal codes by their form (UPU S42 and the posts' own rules). Countries that are not listed have any code, or none.</summary>
public static partial class PostalCodes
{
    /// <summary>What stands for a digit is 9, for a letter A; all else stands for itself, and a blank may be missing.</summary>
    private static readonly Dictionary<string, string[]> Forms = (
        "AT9999 AU9999 BE9999 BG9999 BR99999-999 CAA9A_9A9 CH9999 CN999999 CY9999 CZ999_99 DE99999 DK9999 EE99999 ES99999 FI99999 FR99999 "
        + "GBA9_9AA|A99_9AA|AA9_9AA|AA99_9AA|A9A_9AA|AA9A_9AA GR999_99 HR99999 HU9999 "
        + "IEA99_AAAA|A99_AAA9|A99_AA99|A99_A999|A99_A99A|A99_A9A9|A99_A9AA|A99_AA9A|A9A_A9A9 "
        + "IL9999999 IN999999 IS999 IT99999 JP999-9999 KR99999 LI9999 LT99999 LU9999 LV9999 MC99999 MT"
        + "AAA_9999 MX99999 NL9999_AA NO9999 NZ9999 PL99-999 PT9999-999 RO999999 RS99999 RU999999 SE999_99 SG999999 SI9999 SK999_99 SM99999 TR99999 UA99999 "
        + "US99999|99999-9999 VA99999 ZA9999").Split(' ').ToDictionary(f => f[..2], f => f[2..].Split('|'));

    /// <summary>A code in the usual spelling of its country; null where it cannot be one there.</summary>
    /// <param name="typed">What was typed.</param>
    /// <param name="country">The country (ISO 3166-1); null for any.</param>
    public static string? Read(string typed, string? country)
    {
        var code = Blanks().Replace(Blank.Off(typed), " ").ToUpperInvariant();
        if (country is null || !Forms.TryGetValue(country, out var forms))
        {
            return Any().IsMatch(code) ? code : null;
        }

        var bare = Bare(code.StartsWith(country + "-", StringComparison.Ordinal) ? code[3..] : code);
        return forms.Where(f => Fits(bare, Bare(f.Replace('_', ' ')))).Select(f => Spelled(bare, f)).FirstOrDefault();
    }

    private static string Bare(string code) => code.Replace(" ", "", StringComparison.Ordinal).Replace("-", "", StringComparison.Ordinal);

    private static bool Fits(string bare, string form) => bare.Length == form.Length
        && bare.Zip(form).All(p => p.Second == '9' ? char.IsAsciiDigit(p.First) : char.IsAsciiLetterUpper(p.First));

    private static string Spelled(string bare, string form)
    {
        var at = 0;
        return string.Concat(form.Select(c => c is '_' ? ' ' : c is '-' ? '-' : bare[at++]));
    }

    [GeneratedRegex(@"\A[A-Z0-9][A-Z0-9 -]{1,11}\z")]
    private static partial Regex Any();

    [GeneratedRegex(@"\s+")]
    private static partial Regex Blanks();
}
