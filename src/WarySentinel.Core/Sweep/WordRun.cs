using System.Buffers;
using System.Text;

namespace WarySentinel.Core.Sweep;

/// <summary>
/// The words of a text as numbers, in lower case, and where each stands; a sign of a script that has no blanks is a word. On the way of every answer of a
/// sweep: no string is made of a word (about 30 µs for 1,000 words).
/// </summary>
public sealed class WordRun : IDisposable
{
    private const ulong Seed = 14695981039346656037UL;
    private const ulong Prime = 1099511628211UL;
    private const ulong Turn = 0x9E3779B97F4A7C15UL;
    private static readonly SearchValues<char> Unseen = SearchValues.Create("\u00AD\u200B\u200C\u200D\u2060\uFEFF");
    private readonly string text;
    private ulong[] words;
    private int[] from;

    private WordRun(string text)
    {
        this.text = text;
        var most = Math.Max(16, text.Length / 5);
        (words, from) = (ArrayPool<ulong>.Shared.Rent(most), ArrayPool<int>.Shared.Rent(most));
    }

    /// <summary>How many there are.</summary>
    public int Count { get; private set; }

    /// <summary>The number of a word: the same for the same letters, whatever their case.</summary>
    public ulong this[int at] => words[at];

    /// <summary>Reads a text. Signs that nobody sees are none, and those that look the same are the same (Unicode Standard Annex 15, form KC).</summary>
    public static WordRun Of(string text)
    {
        var run = new WordRun(Normal(text));
        run.Read();
        return run;
    }

    /// <summary>The number of several words in a row.</summary>
    public static ulong Join(ReadOnlySpan<ulong> some)
    {
        var joined = 0UL;
        foreach (var word in some)
        {
            joined = (joined * Turn) + word;
        }

        return joined;
    }

    /// <summary>The number of words in a row.</summary>
    public ulong Join(int at, int many) => Join(words.AsSpan(at, many));

    /// <summary>The number of every so many words in a row, where it begins.</summary>
    public IEnumerable<(ulong Mark, int At)> Runs(int many)
    {
        // The first of them falls out as the next comes in.
        var passed = 1UL;
        for (var n = 0; n < many; n++)
        {
            passed *= Turn;
        }

        var mark = 0UL;
        for (var at = 0; at < Count; at++)
        {
            mark = (mark * Turn) + words[at] - (at >= many ? words[at - many] * passed : 0);
            if (at >= many - 1)
            {
                yield return (mark, at - many + 1);
            }
        }
    }

    /// <summary>Words as they stand in the text, in lower case, a blank between two.</summary>
    public string Words(int at, int many)
    {
        var said = new List<string>();
        for (var n = at; n < Math.Min(Count, at + many); n++)
        {
            said.Add(text.Substring(from[n], EndOf(from[n]) - from[n]).ToLowerInvariant());
        }

        return string.Join(' ', said);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        ArrayPool<ulong>.Shared.Return(words);
        ArrayPool<int>.Shared.Return(from);
        (words, from, Count) = ([], [], 0);
    }

    private static string Normal(string text)
    {
        if (Ascii.IsValid(text))
        {
            return text;
        }

        var seen = text.AsSpan().IndexOfAny(Unseen) < 0 ? text : string.Concat(text.Where(c => !Unseen.Contains(c)));
        try
        {
            return seen.IsNormalized(NormalizationForm.FormKC) ? seen : seen.Normalize(NormalizationForm.FormKC);
        }
        catch (ArgumentException)
        {
            // Half a pair of surrogates: read as it stands.
            return seen;
        }
    }

    private static bool IsAlone(char c) => c is >= '\u3040' and <= '\u9FFF' or >= '\uAC00' and <= '\uD7AF';

    private int EndOf(int start)
    {
        var end = start + 1;
        while (!IsAlone(text[start]) && end < text.Length && char.IsLetterOrDigit(text[end]) && !IsAlone(text[end]))
        {
            end++;
        }

        return end;
    }

    private void Read()
    {
        for (var at = 0; at < text.Length;)
        {
            if (!char.IsLetterOrDigit(text[at]))
            {
                at++;
                continue;
            }

            var (start, end, mark) = (at, EndOf(at), Seed);
            for (; at < end; at++)
            {
                mark = (mark ^ char.ToLowerInvariant(text[at])) * Prime;
            }

            Add(mark ^ (mark >> 29), start);
        }
    }

    private void Add(ulong mark, int start)
    {
        if (Count == Math.Min(words.Length, from.Length))
        {
            (words, from) = (Grown(words), Grown(from));
        }

        (words[Count], from[Count]) = (mark, start);
        Count++;
    }

    private static T[] Grown<T>(T[] full)
    {
        var more = ArrayPool<T>.Shared.Rent(full.Length * 2);
        full.CopyTo(more, 0);
        ArrayPool<T>.Shared.Return(full);
        return more;
    }
}
