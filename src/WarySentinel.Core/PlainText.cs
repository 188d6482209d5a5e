namespace WarySentinel.Core;

/// <summary>
/// Words that people type and others read. Control characters, and those that turn the reading direction of what stands around them
/// (Unicode bidirectional embeddings, overrides and isolates, UAX #9 §2), are no part of them: they make one thing look like another.
/// </summary>
public static class PlainText
{
    /// <summary>A text without blanks around it; null where nothing is left.</summary>
    public static string? OrNull(string? text) => string.IsNullOrWhiteSpace(text) ? null : text.Trim();

    /// <summary>Whether a text holds none of them.</summary>
    /// <param name="text">The text; null is clean.</param>
    /// <param name="lines">Whether line breaks and tabs may stand in it.</param>
    public static bool IsClean(string? text, bool lines = false)
    {
        for (var i = 0; i < text?.Length; i++)
        {
            var c = text[i];
            if (char.IsHighSurrogate(c) && i + 1 < text.Length && char.IsLowSurrogate(text[i + 1]))
            {
                i++;
            }
            else if (char.IsSurrogate(c) || IsTurn(c) || (char.IsControl(c) && !(lines && c is '\n' or '\r' or '\t')))
            {
                return false;
            }
        }

        return true;
    }

    private static bool IsTurn(char c) => c is (>= '\u202a' and <= '\u202e') or (>= '\u2066' and <= '\u2069') or '\u2028' or '\u2029';
}
