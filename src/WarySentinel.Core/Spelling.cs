using System.Globalization;
using System.Text;

namespace WarySentinel.Core;

/// <summary>
/// One spelling of texts that are compared: what looks the same was typed by different keyboards in different code points, letters and accents in one
/// or apart (Unicode Normalization Forms, UAX #15).
/// </summary>
public static class Spelling
{
    /// <summary>Whether the runtime has ICU. Without it nothing but English letters has an order or a second spelling.</summary>
    public static bool IsKnown => CultureInfo.InvariantCulture.CompareInfo.Compare("a", "B") < 0;

    /// <summary>Letters and their accents in one, as far as they can be (form C). A text that is no Unicode stays as it is.</summary>
    public static string Composed(string text) => Ascii.IsValid(text) ? text : Formed(text, NormalizationForm.FormC);

    /// <summary>A password as it is hashed and compared: any blank is the blank, and letters stand composed (RFC 8265 §4.2, OpaqueString).</summary>
    public static string OfPassword(string typed) => Ascii.IsValid(typed) ? typed : Composed(string.Create(typed.Length, typed, static (to, from) =>
    {
        for (var i = 0; i < from.Length; i++)
        {
            to[i] = char.GetUnicodeCategory(from[i]) == UnicodeCategory.SpaceSeparator ? ' ' : from[i];
        }
    }));

    /// <summary>
    /// The text as it is searched: small letters, without the accents that a search may leave out, and letters of another width or shape as the usual ones
    /// (form KD without its marks).
    /// </summary>
    public static string Folded(string text)
    {
        if (Ascii.IsValid(text))
        {
            return text.ToLowerInvariant();
        }

        var folded = new StringBuilder(text.Length);
        foreach (var character in Formed(text, NormalizationForm.FormKD).ToLowerInvariant())
        {
            if (CharUnicodeInfo.GetUnicodeCategory(character) is not UnicodeCategory.NonSpacingMark)
            {
                folded.Append(character);
            }
        }

        return folded.ToString();
    }

    /// <summary>How a language sorts (Unicode Collation Algorithm, with the language's own order), without regard to case unless nothing else tells.</summary>
    /// <param name="language">Its tag (RFC 5646), such as <c>sv</c>.</param>
    public static StringComparer SortingOf(string language) => StringComparer.Create(CultureOf(language), CompareOptions.None);

    /// <summary>A key of a text whose bytes compare as a language sorts the texts; about 5 µs each.</summary>
    public static byte[] SortKeyOf(string text, string language) => CultureOf(language).CompareInfo.GetSortKey(text).KeyData;

    /// <summary>Whether a language is of a range: <c>de</c> covers <c>de</c> and <c>de-AT</c> (RFC 4647 §3.3.1).</summary>
    public static bool Covers(string range, string language) => language.StartsWith(range, StringComparison.OrdinalIgnoreCase)
        && (language.Length == range.Length || language[range.Length] == '-');

    /// <summary>Whether there is such a language here.</summary>
    public static bool IsLanguage(string tag)
    {
        try
        {
            return tag.Length is > 1 and <= 35 && CultureInfo.GetCultureInfo(tag, true).Name.Length > 0;
        }
        catch (CultureNotFoundException)
        {
            return false;
        }
    }

    /// <summary>What was stored on a machine that knows a language may be read on one that does not; then all sort alike.</summary>
    private static CultureInfo CultureOf(string language) => IsLanguage(language) ? CultureInfo.GetCultureInfo(language) : CultureInfo.InvariantCulture;

    private static string Formed(string text, NormalizationForm form)
    {
        try
        {
            return text.Normalize(form);
        }
        catch (ArgumentException)
        {
            // Half a surrogate pair: there is one spelling of it.
            return text;
        }
    }
}
