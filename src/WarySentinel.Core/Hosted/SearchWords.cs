using System.Globalization;
using System.Text;

namespace WarySentinel.Core.Hosted;

/// <summary>
/// The words by which a text is found, the same whichever database looks: small letters without accents (<see cref="Spelling.Folded"/>), and each two signs
/// that stand together where a script has no blanks between words (UAX #29 §4). Letters beyond ASCII are written by their numbers.
/// </summary>
public static class SearchWords
{
    /// <summary>Most words of one search; those behind them do not count.</summary>
    public const int MostTerms = 8;

    /// <summary>Longest search, in characters; what stands behind it does not count.</summary>
    public const int LongestSearch = 200;

    private const int Longest = 40;

    /// <summary>The words of a text, each once.</summary>
    public static IReadOnlyList<string> Of(string text)
    {
        var words = new HashSet<string>(StringComparer.Ordinal);
        foreach (var (run, joined) in Runs(Spelling.Folded(text)))
        {
            if (!joined)
            {
                words.Add(Written(run));
                continue;
            }

            for (var i = 0; i < run.Length; i++)
            {
                words.Add(Written(run.AsSpan(i, Math.Min(2, run.Length - i)).ToString()));
            }
        }

        return [.. words];
    }

    /// <summary>The words of a search, by the beginning of which is searched.</summary>
    public static IReadOnlyList<string> OfSearch(string asked)
    {
        var words = new List<string>();
        foreach (var (run, joined) in Runs(Spelling.Folded(asked.Length > LongestSearch ? asked[..LongestSearch] : asked)))
        {
            if (!joined || run.Length <= 2)
            {
                words.Add(Written(run));
                continue;
            }

            for (var i = 0; i + 2 <= run.Length; i++)
            {
                words.Add(Written(run.Substring(i, 2)));
            }
        }

        return [.. words.Distinct().Take(MostTerms)];
    }

    private static IEnumerable<(string Run, bool IsJoined)> Runs(string folded)
    {
        for (var at = 0; at < folded.Length;)
        {
            var (from, joined) = (at, IsJoined(folded[at]));
            while (at < folded.Length && IsWord(folded[at]) && IsJoined(folded[at]) == joined)
            {
                at++;
            }

            if (at > from)
            {
                yield return (folded[from..at], joined);
            }
            else
            {
                at++;
            }
        }
    }

    private static bool IsWord(char c) => char.IsLetterOrDigit(c) || char.IsSurrogate(c) || char.GetUnicodeCategory(c) is UnicodeCategory.SpacingCombiningMark;

    /// <summary>Han, Hiragana and Katakana, and Thai, Lao, Khmer and Burmese: scripts that have no blanks between words.</summary>
    private static bool IsJoined(char c) => c is >= '\u3040' and <= '\u30ff' or >= '\u3400' and <= '\u9fff' or >= '\uf900' and <= '\ufaff'
        or >= '\u0e00' and <= '\u0eff' or >= '\u1780' and <= '\u17ff' or >= '\u1000' and <= '\u109f';

    private static string Written(string word)
    {
        var written = new StringBuilder();
        foreach (var c in word.Length > Longest ? word[..Longest] : word)
        {
            _ = char.IsAsciiLetterOrDigit(c) ? written.Append(c) : written.Append('u').Append(((int)c).ToString("x4", CultureInfo.InvariantCulture));
        }

        return written.ToString();
    }
}
