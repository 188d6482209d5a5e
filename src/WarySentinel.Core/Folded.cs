using System.Globalization;
using System.Text;

namespace WarySentinel.Core;

/// <summary>Texts as they are searched: without case, and without the accents that a search may leave out.</summary>
public static class Folded
{
    /// <summary>The folded text: lower case, canonically decomposed (Unicode NFD), combining marks left out.</summary>
    public static string Of(string text)
    {
        if (Ascii.IsValid(text))
        {
            return text.ToLowerInvariant();
        }

        var folded = new StringBuilder(text.Length);
        foreach (var character in Decomposed(text.ToLowerInvariant()))
        {
            if (CharUnicodeInfo.GetUnicodeCategory(character) is not UnicodeCategory.NonSpacingMark)
            {
                folded.Append(character);
            }
        }

        return folded.ToString();
    }

    private static string Decomposed(string text)
    {
        try
        {
            return text.Normalize(NormalizationForm.FormD);
        }
        catch (ArgumentException)
        {
            // Half of a surrogate pair: no text, and found as it is.
            return text;
        }
    }
}
