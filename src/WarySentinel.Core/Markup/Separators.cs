using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>Words, and what parts links from one another in a menu: <c>|</c>, <c>·</c>, a comma, a line break.</summary>
internal static class Separators
{
    private const int Farthest = 200;
    private const int LongestReference = 12;

    /// <summary>From here on stand the scripts of East Asia.</summary>
    private const int FirstWithoutSpaces = 0x2E80;

    private static readonly HashSet<string> Signs =
    [
        .. "| · • ● ‧ ∙ , ; / \\ » › > « ‹ < → ⇒ ▸ ► – — - : ~ * + ¦".Split(' '),
    ];

    private static readonly string[] Blanks = [" ", "\t", "\r", "\n", "\f", "\u00a0", "\u2002", "\u2003", "\u2009", "\u200b"];

    /// <summary>What a piece of text between two tags is.</summary>
    private enum Sort
    {
        Blank,
        Sign,
        Word,
    }

    /// <summary>
    /// How many words a text has, at most so many: letters and digits in a row, an apostrophe between them. Characters of scripts that part no words
    /// count each.
    /// </summary>
    /// <param name="text">The text, whose last reference and last sign are whole.</param>
    /// <param name="encoding">Its encoding.</param>
    /// <param name="most">At most so many.</param>
    /// <param name="inside">Whether a word goes on from the text before, and to the next.</param>
    public static int WordsIn(ReadOnlySpan<byte> text, Encoding encoding, int most, ref bool inside)
    {
        var (words, at) = (0, 0);
        while (at < text.Length && words < most)
        {
            if (text[at] is < 0x80 and not (byte)'&')
            {
                var isWord = char.IsAsciiLetterOrDigit((char)text[at]);
                words += isWord && !inside ? 1 : 0;
                inside = isWord || (inside && text[at] == '\'');
                at++;
                continue;
            }

            var sign = SignAt(text[at..], encoding, out var used);
            at += used;
            if (!Rune.IsLetterOrDigit(sign))
            {
                inside &= sign.Value is '\'' or 0x2019;
                continue;
            }

            words += !inside || sign.Value >= FirstWithoutSpaces ? 1 : 0;
            inside = true;
        }

        return words;
    }

    /// <summary>The sign that begins a text, and how many bytes stand for it.</summary>
    private static Rune SignAt(ReadOnlySpan<byte> text, Encoding encoding, out int used)
    {
        used = 1;
        if (text[0] == '&')
        {
            var end = text[..Math.Min(text.Length, LongestReference)].IndexOf((byte)';');
            used = Math.Max(1, end + 1);
            return Rune.GetRuneAt(CharacterReferences.Decode(Encoding.Latin1.GetString(text[..used])), 0);
        }

        if (text[0] < 0x80)
        {
            return new Rune(text[0]);
        }

        if (encoding.CodePage != Encoding.UTF8.CodePage)
        {
            return new Rune(text[0] == 0xA0 ? ' ' : 'x');
        }

        Rune.DecodeFromUtf8(text, out var sign, out used);
        return sign;
    }

    /// <summary>How much of the end of a text parts links, with blanks around it; 0 where it ends in words, or in blanks alone.</summary>
    public static int AtEnd(ReadOnlySpan<byte> text, Encoding encoding)
    {
        var from = Math.Max(0, text.Length - Farthest);
        var sorts = SortsOf(text[from..], encoding);
        var at = sorts.Count;
        while (at > 0 && sorts[at - 1].Sort != Sort.Word)
        {
            at--;
        }

        return sorts.Skip(at).Any(s => s.Sort == Sort.Sign) ? text.Length - from - sorts[at].At : 0;
    }

    /// <summary>How much of the beginning of a text parts links; 0 where it begins with words, or with blanks alone.</summary>
    public static int AtBegin(ReadOnlySpan<byte> text, Encoding encoding)
    {
        var sorts = SortsOf(text[..Math.Min(text.Length, Farthest)], encoding);
        var many = sorts.TakeWhile(s => s.Sort != Sort.Word).Count();
        return !sorts.Take(many).Any(s => s.Sort == Sort.Sign) ? 0 : many < sorts.Count ? sorts[many].At : Math.Min(text.Length, Farthest);
    }

    /// <summary>Whether a text is blank.</summary>
    public static bool IsBlank(ReadOnlySpan<byte> text, Encoding encoding) =>
        text.IndexOfAnyExcept(" \t\r\n\f"u8) < 0 || SortsOf(text, encoding).TrueForAll(s => s.Sort == Sort.Blank);

    private static List<(Sort Sort, int At)> SortsOf(ReadOnlySpan<byte> text, Encoding encoding)
    {
        var (sorts, at) = (new List<(Sort, int)>(), 0);
        while (at < text.Length)
        {
            var length = text[at] == '&' ? text[at..Math.Min(text.Length, at + 12)].IndexOf((byte)';') + 1
                : text[at] >= 0xF0 ? 4 : text[at] >= 0xE0 ? 3 : text[at] >= 0xC0 ? 2 : 1;
            length = Math.Clamp(length, 1, text.Length - at);
            var sign = CharacterReferences.Decode(encoding.GetString(text.Slice(at, length)));
            sorts.Add((Blanks.Contains(sign) ? Sort.Blank : Signs.Contains(sign) ? Sort.Sign : Sort.Word, at));
            at += length;
        }

        return sorts;
    }
}
