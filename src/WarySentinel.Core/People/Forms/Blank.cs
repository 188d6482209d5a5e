namespace WarySentinel.Core.People.Forms;

/// <summary>
/// What is typed into a form, without the blanks around it. The set of blanks is written down here and in the browser's script, since the two worlds know
/// different ones.
/// </summary>
internal static class Blank
{
    private static readonly char[] All =
    [
        '\t', '\n', '\v', '\f', '\r', ' ', '\u0085', '\u00a0', '\u1680', '\u2000', '\u2001', '\u2002', '\u2003', '\u2004', '\u2005', '\u2006', '\u2007',
        '\u2008', '\u2009', '\u200a', '\u2028', '\u2029', '\u202f', '\u205f', '\u3000', '\ufeff',
    ];

    /// <summary>The text without them; empty for null.</summary>
    public static string Off(string? text) => text?.Trim(All) ?? "";

    /// <summary>Capitals of the English alphabet as small letters, all else as it is: alike in every language and on every machine.</summary>
    public static string Small(string text) => string.Create(text.Length, text, static (to, from) =>
    {
        for (var i = 0; i < from.Length; i++)
        {
            to[i] = char.IsAsciiLetterUpper(from[i]) ? (char)(from[i] | 0x20) : from[i];
        }
    });
}
