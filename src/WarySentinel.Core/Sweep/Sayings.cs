namespace WarySentinel.Core.Sweep;

/// <summary>One thing that a page says: a paragraph, a line of a list, a cell.</summary>
/// <param name="Start">The number of its first two words.</param>
/// <param name="Mark">The number of all of its words.</param>
/// <param name="Words">How many words it has.</param>
public readonly record struct Saying(ulong Start, ulong Mark, int Words);

/// <summary>
/// What guarded pages say that are too short for <see cref="Phrases"/>: “The combination is 4711” is a secret too. A whole paragraph, line or cell
/// counts, as it stands; headings and what is a link are no secret of a page. Not for use by several threads while it learns.
/// </summary>
public sealed class Sayings
{
    private const int MostWords = 24;
    private const int LeastWords = 4;
    private const int LeastWithNumber = 3;
    private const int LeastSigns = 12;
    private const int MostOfPage = 60;
    private const int MostInAll = 1_000_000;
    private const double LeastShare = 0.5;
    private readonly Dictionary<ulong, (int Page, bool IsOwn)> pageOf = [];
    private readonly Dictionary<ulong, int> lengthsAt = [];
    private readonly Dictionary<int, IReadOnlyList<Saying>> saidBy = [];
    private readonly HashSet<ulong> open = [];

    /// <summary>What a page says.</summary>
    public static IReadOnlyList<Saying> Of(string page)
    {
        var all = new List<Saying>();
        foreach (var block in ReadText.Blocks(page))
        {
            using var words = WordRun.Of(block);
            var isEnough = words.Count >= LeastWords || (words.Count >= LeastWithNumber && block.Any(char.IsAsciiDigit));
            if (isEnough && words.Count <= MostWords && block.Count(char.IsLetterOrDigit) >= LeastSigns && all.Count < MostOfPage)
            {
                all.Add(new Saying(words.Join(0, 2), words.Join(0, words.Count), words.Count));
            }
        }

        return [.. all.DistinctBy(s => s.Mark)];
    }

    /// <summary>Learns what a guarded page says.</summary>
    /// <param name="page">The number of the page.</param>
    /// <param name="said">What <see cref="Of"/> makes of it.</param>
    public void Learn(int page, IReadOnlyList<Saying> said)
    {
        foreach (var saying in said.TakeWhile(_ => pageOf.Count < MostInAll))
        {
            // What two guarded pages say is what stands around them.
            pageOf[saying.Mark] = (page, !pageOf.ContainsKey(saying.Mark));
            lengthsAt[saying.Start] = lengthsAt.GetValueOrDefault(saying.Start) | (1 << saying.Words);
        }

        saidBy[page] = said;
    }

    /// <summary>Where it stands in a text, and how many words it has.</summary>
    public IEnumerable<(ulong Mark, int At, int Words)> In(WordRun text)
    {
        for (var at = 0; pageOf.Count > 0 && at + 1 < text.Count; at++)
        {
            if (!lengthsAt.TryGetValue(text.Join(at, 2), out var lengths))
            {
                continue;
            }

            for (var many = LeastWithNumber; many <= MostWords && at + many <= text.Count; many++)
            {
                if ((lengths & (1 << many)) != 0 && text.Join(at, many) is var mark && pageOf.ContainsKey(mark))
                {
                    yield return (mark, at, many);
                }
            }
        }
    }

    /// <summary>Notes what an open page says: it is no secret.</summary>
    public void Open(IEnumerable<ulong> known)
    {
        lock (open)
        {
            open.UnionWith(known.Where(pageOf.ContainsKey));
        }
    }

    /// <summary>Whether a page says anything of its own.</summary>
    public bool Knows(int page) => OwnOf(page) > 0;

    /// <summary>The pages of which at least half of what they say stands in what was found, with how many and with the share.</summary>
    /// <param name="found">What stands in a text.</param>
    /// <param name="isShort">Whether a page, by number, is too short to be known otherwise.</param>
    public IEnumerable<(int Page, int Count, double Share, string Words)> Of(IEnumerable<FoundMark> found, Func<int, bool> isShort) => found
        .Where(f => pageOf.TryGetValue(f.Mark, out var on) && on.IsOwn && !open.Contains(f.Mark) && isShort(on.Page)).GroupBy(f => pageOf[f.Mark].Page)
        .Select(g => (g.Key, g.Count(), g.Count() / (double)OwnOf(g.Key), g.First().Words)).Where(c => c.Item3 >= LeastShare);

    private int OwnOf(int page) => saidBy.GetValueOrDefault(page, []).Count(s => pageOf.TryGetValue(s.Mark, out var on) && on.IsOwn && !open.Contains(s.Mark));
}
