using System.Net;

namespace WarySentinel.Core.Sweep;

/// <summary>Text of a guarded page that stands somewhere else.</summary>
/// <param name="Of">The address of the guarded page.</param>
/// <param name="Count">How many of its marks stand there.</param>
/// <param name="Share">How much of it that is, from 0 to 1.</param>
/// <param name="Sample">Some of its words, as they stand there.</param>
public sealed record Copied(string Of, int Count, double Share, string Sample);

/// <summary>
/// What guarded pages say, so that a copy is found wherever it stands, under whatever address and in whatever sort of text: marks made of runs of eight words
/// by winnowing (Schleimer, Wilkerson, Aiken, 2003), which every shared run of eleven words bears. Not for use by several threads while it learns.
/// </summary>
public sealed class Phrases
{
    private const int Run = 8;
    private const int Window = 4;
    private const int MostMarks = 4_000_000;
    private const int UsualOnPages = 3;
    private readonly Dictionary<ulong, int> pageOf = [];
    private readonly Dictionary<ulong, int> open = [];
    private readonly List<(string Address, int Marks)> pages = [];

    /// <summary>How many pages it has learned.</summary>
    public int Count => pages.Count;

    /// <summary>Whether there was more to learn than it holds.</summary>
    public bool IsFull => pageOf.Count >= MostMarks;

    /// <summary>Learns what a guarded page says, as its owner reads it.</summary>
    public void Learn(string address, string text)
    {
        var marks = 0;
        foreach (var (mark, _) in Marks(WordsOf(Plain(text))))
        {
            if (IsFull)
            {
                break;
            }

            // Of several guarded pages that say the same, the first stands for all.
            marks += pageOf.TryAdd(mark, pages.Count) ? 1 : 0;
        }

        pages.Add((address, marks));
    }

    /// <summary>Notes what an open page of the catalogue says: what several of them say, such as a menu, tells nobody anything.</summary>
    public void Open(string text)
    {
        var mine = new HashSet<ulong>();
        foreach (var (mark, _) in Shingles(WordsOf(Plain(text))))
        {
            if (pageOf.ContainsKey(mark) && mine.Add(mark))
            {
                lock (open)
                {
                    open[mark] = open.GetValueOrDefault(mark) + 1;
                }
            }
        }
    }

    /// <summary>The marks of guarded pages that stand in a text of any sort, each once, with the words where it stands.</summary>
    public IReadOnlyList<(ulong Mark, string Words)> In(string text)
    {
        if (pageOf.Count == 0)
        {
            return [];
        }

        var found = new Dictionary<ulong, string>();
        // As people read it, without its tags; and as programs do, with whatever stands in attributes and scripts.
        foreach (var words in new[] { WordsOf(Unescaped(Plain(text, scripts: true))), WordsOf(Unescaped(text)) })
        {
            foreach (var (mark, at) in Shingles(words))
            {
                if (pageOf.ContainsKey(mark) && !found.ContainsKey(mark))
                {
                    found[mark] = string.Join(' ', words.Skip(at).Take(Run));
                }
            }
        }

        return [.. found.Select(f => (f.Key, f.Value))];
    }

    /// <summary>Which guarded pages stand in what was found: those of which that is more than a quotation.</summary>
    /// <param name="found">What <see cref="In"/> found in a text.</param>
    /// <param name="least">How many marks of one page are no accident.</param>
    /// <param name="share">Or how much of a page.</param>
    public IEnumerable<Copied> Of(IReadOnlyList<(ulong Mark, string Words)> found, int least, double share) =>
        found.Where(f => open.GetValueOrDefault(f.Mark) < UsualOnPages).GroupBy(f => pageOf[f.Mark])
            .Select(g => new Copied(pages[g.Key].Address, g.Count(), pages[g.Key].Marks == 0 ? 0 : g.Count() / (double)pages[g.Key].Marks, g.First().Words))
            .Where(c => c.Count >= least || (c.Count > 2 && c.Share >= share) || (c.Count == 2 && c.Share > 0.99));

    /// <summary>The marks of words, where each begins: the least of every so many runs.</summary>
    private static IEnumerable<(ulong Mark, int At)> Marks(IReadOnlyList<string> words)
    {
        var runs = Shingles(words).ToList();
        var last = -1;
        for (var end = 0; end < runs.Count; end++)
        {
            if (end < Window - 1 && end < runs.Count - 1)
            {
                continue;
            }

            var least = Math.Max(0, end - Window + 1);
            for (var n = least + 1; n <= end; n++)
            {
                least = runs[n].Mark <= runs[least].Mark ? n : least;
            }

            if (least != last)
            {
                last = least;
                yield return runs[least];
            }
        }
    }

    private static IEnumerable<(ulong Mark, int At)> Shingles(IReadOnlyList<string> words)
    {
        for (var at = 0; at + Run <= words.Count; at++)
        {
            var mark = 14695981039346656037UL;
            for (var n = 0; n < Run; n++)
            {
                foreach (var c in words[at + n])
                {
                    mark = (mark ^ c) * 1099511628211UL;
                }

                mark = (mark ^ ' ') * 1099511628211UL;
            }

            yield return (mark, at);
        }
    }

    /// <summary>The words of a text, in lower case; a sign of a script that has no blanks is a word.</summary>
    public static IReadOnlyList<string> WordsOf(string text)
    {
        var words = new List<string>();
        var from = -1;
        for (var at = 0; at <= text.Length; at++)
        {
            var isWord = at < text.Length && char.IsLetterOrDigit(text[at]);
            var isAlone = isWord && text[at] is >= '\u3040' and <= '\u9FFF' or >= '\uAC00' and <= '\uD7AF';
            if (from >= 0 && (!isWord || isAlone))
            {
                words.Add(text[from..at].ToLowerInvariant());
                from = -1;
            }

            if (isAlone)
            {
                words.Add(text[at].ToString());
            }
            else if (isWord && from < 0)
            {
                from = at;
            }
        }

        return words;
    }

    /// <summary>A page without its tags and comments, and unless said without what scripts and styles hold.</summary>
    public static string Plain(string text, bool scripts = false)
    {
        if (!text.Contains('<', StringComparison.Ordinal))
        {
            return text;
        }

        var kept = new System.Text.StringBuilder(text.Length);
        for (var at = 0; at < text.Length;)
        {
            var tag = text.IndexOf('<', at);
            if (tag < 0 || tag + 1 >= text.Length)
            {
                kept.Append(text, at, text.Length - at);
                break;
            }

            kept.Append(text, at, tag - at);
            if (!char.IsAsciiLetter(text[tag + 1]) && text[tag + 1] is not ('/' or '!' or '?'))
            {
                kept.Append('<');
                at = tag + 1;
                continue;
            }

            // What a comment says is read too: only its signs go.
            var isComment = text.AsSpan(tag).StartsWith("<!--", StringComparison.Ordinal);
            var end = isComment ? tag + 3 : text.IndexOf('>', tag);
            at = end < 0 ? text.Length : end + 1;
            if (!scripts)
            {
                foreach (var raw in (ReadOnlySpan<string>)["script", "style", "nav", "header", "footer"])
                {
                    if (text.AsSpan(tag + 1).StartsWith(raw, StringComparison.OrdinalIgnoreCase) && tag + 1 + raw.Length < text.Length
                        && !char.IsAsciiLetterOrDigit(text[tag + 1 + raw.Length]))
                    {
                        var over = text.IndexOf("</" + raw, at, StringComparison.OrdinalIgnoreCase);
                        at = over < 0 ? at : over;
                        break;
                    }
                }
            }

            // A tag parts words, unless it formats some letters of one; the words of a page are not that fine.
            kept.Append(' ');
        }

        return WebUtility.HtmlDecode(kept.ToString());
    }

    /// <summary>A text as it is meant where strings of scripts and JSON escape some of it.</summary>
    private static string Unescaped(string text)
    {
        if (!text.Contains('\\', StringComparison.Ordinal))
        {
            return text;
        }

        var kept = new System.Text.StringBuilder(text.Length);
        for (var at = 0; at < text.Length; at++)
        {
            if (text[at] != '\\' || at + 1 >= text.Length)
            {
                kept.Append(text[at]);
                continue;
            }

            var next = text[++at];
            if (next == 'u' && at + 4 < text.Length
                && ushort.TryParse(text.AsSpan(at + 1, 4), System.Globalization.NumberStyles.AllowHexSpecifier, null, out var sign))
            {
                kept.Append((char)sign);
                at += 4;
                continue;
            }

            kept.Append(next is 'n' or 'r' or 't' or 'b' or 'f' ? ' ' : next);
        }

        var plain = kept.ToString();
        // Strings hold pages at times.
        return plain.Contains('<', StringComparison.Ordinal) ? Plain(plain, true) : plain;
    }
}
