using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>Words, and what parts links from one another in a menu: <c>|</c>, <c>·</c>, a comma, a line break.</summary>
internal static class Separators
{
    private const int Farthest = 200;

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

    /// <summary>How many words a text has, at most so many. Characters of scripts that part no words count each.</summary>
    /// <param name="text">The text, whose last reference and last sign are whole.</param>
    /// <param name="most">At most so many.</param>
    /// <param name="inside">Whether a word goes on from the text before, and to the next.</param>
    public static int WordsIn(ReadOnlySpan<byte> text, int most, ref bool inside)
    {
        var words = 0;
        for (var at = 0; at < text.Length && words < most; at++)
        {
            var letter = text[at];
            if (letter == '&')
            {
                // A reference stands for a sign far more often than for a letter.
                var end = text[at..Math.Min(text.Length, at + 12)].IndexOf((byte)';');
                at += Math.Max(0, end);
                inside = false;
                continue;
            }

            var isWord = char.IsAsciiLetterOrDigit((char)letter) || letter is >= 0x80 and not (0xC2 or 0xE2) || (inside && (letter >= 0x80 || letter == '\''));
            words += isWord && (!inside || letter is >= 0xE3 and <= 0xED) ? 1 : 0;
            inside = isWord;
            // What follows such a byte in UTF-8 belongs to the same sign.
            at += letter is 0xC2 ? 1 : letter is 0xE2 ? 2 : 0;
        }

        return words;
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
            var long_ = text[at] == '&' ? text[at..Math.Min(text.Length, at + 12)].IndexOf((byte)';') + 1
                : text[at] >= 0xF0 ? 4 : text[at] >= 0xE0 ? 3 : text[at] >= 0xC0 ? 2 : 1;
            long_ = Math.Clamp(long_, 1, text.Length - at);
            var sign = CharacterReferences.Decode(encoding.GetString(text.Slice(at, long_)));
            sorts.Add((Blanks.Contains(sign) ? Sort.Blank : Signs.Contains(sign) ? Sort.Sign : Sort.Word, at));
            at += long_;
        }

        return sorts;
    }
}
