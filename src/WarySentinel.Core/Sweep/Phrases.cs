namespace WarySentinel.Core.Sweep;

/// <summary>A mark of a guarded page that stands in a text.</summary>
/// <param name="Mark">Its number.</param>
/// <param name="Words">The words where it stands.</param>
public readonly record struct FoundMark(ulong Mark, string Words);

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
    private const int MenuOnPages = 3;
    private const double MenuShare = 0.3;
    private const int FewMarks = 8;
    private const int SeenShift = 42;
    private const int CollectedOfPages = 3;
    private const double CollectedShare = 0.1;
    private readonly Dictionary<ulong, (int Page, int On)> pageOf = [];

    // Most marks of most answers belong to no guarded page: this tells so without looking far (4 MB).
    private readonly bool[] seen = new bool[1 << (64 - SeenShift)];
    private readonly Dictionary<ulong, int> open = [];
    private readonly List<string> pages = [];

    // Guarded data, such as a search index, and of how many open pages each bears words.
    private readonly Dictionary<int, int> collected = [];
    private readonly Sayings sayings = new();
    private int[]? own;

    /// <summary>How many pages it has learned.</summary>
    public int Count => pages.Count;

    /// <summary>Whether there was more to learn than it holds.</summary>
    public bool IsFull => pageOf.Count >= MostMarks;

    /// <summary>The marks of what a guarded page says, as its owner reads it.</summary>
    public static IReadOnlyList<ulong> MarksOf(string text)
    {
        using var words = WordRun.Of(ReadText.Plain(text));
        return [.. Marks(words).Distinct()];
    }

    /// <summary>Learns what a guarded page says.</summary>
    /// <param name="address">Its address.</param>
    /// <param name="said">Its marks.</param>
    /// <param name="sayings">What it says, singly: for where it is too short to have marks.</param>
    /// <param name="isData">Whether it is no page but data, which may be collected from open pages.</param>
    public void Learn(string address, IReadOnlyList<ulong> said, IReadOnlyList<Saying>? sayings = null, bool isData = false)
    {
        this.sayings.Learn(pages.Count, sayings ?? []);
        if (isData)
        {
            collected[pages.Count] = 0;
        }

        foreach (var mark in said.TakeWhile(_ => !IsFull))
        {
            // Of several guarded pages that say the same, the first stands for all.
            var (page, on) = pageOf.GetValueOrDefault(mark, (pages.Count, 0));
            pageOf[mark] = (page, on + 1);
            seen[mark >> SeenShift] = true;
        }

        own = null;

        pages.Add(address);
    }

    /// <summary>The marks of guarded pages that stand in an open page as it is read.</summary>
    public IReadOnlyList<ulong> KnownIn(string text)
    {
        using var words = WordRun.Of(ReadText.Plain(text));
        return [.. words.Runs(Run).Select(r => r.Mark).Where(IsKnown).Concat(sayings.In(words).Select(s => s.Mark)).Distinct()];
    }

    /// <summary>Notes what an open page of the catalogue says: what several of them say, such as a menu, tells nobody anything.</summary>
    public void Open(IReadOnlyList<ulong> known)
    {
        sayings.Open(known);
        lock (open)
        {
            foreach (var mark in known.Where(IsKnown))
            {
                open[mark] = open.GetValueOrDefault(mark) + 1;
            }

            foreach (var page in known.Where(IsKnown).Select(m => pageOf[m].Page).Distinct().Where(collected.ContainsKey))
            {
                collected[page]++;
            }
        }
    }

    /// <summary>The marks of guarded pages that stand in a text of any sort, each once, with the words where it stands.</summary>
    public IReadOnlyList<FoundMark> In(string text)
    {
        if (pages.Count == 0)
        {
            return [];
        }

        var found = new Dictionary<ulong, string>();
        // As people read it, without its tags; and as programs do, with whatever stands in attributes and scripts.
        foreach (var read in (IEnumerable<string>)[ReadText.Unescaped(ReadText.Plain(text, scripts: true)), ReadText.Unescaped(ReadText.Named(text))])
        {
            using var words = WordRun.Of(read);
            foreach (var (mark, at) in words.Runs(Run))
            {
                if (IsKnown(mark) && !found.ContainsKey(mark))
                {
                    found[mark] = words.Words(at, Run);
                }
            }

            foreach (var (mark, at, many) in sayings.In(words))
            {
                found.TryAdd(mark, words.Words(at, many));
            }
        }

        return [.. found.Select(f => new FoundMark(f.Key, f.Value))];
    }

    /// <summary>Whether it learned words of the page at an address that are its own.</summary>
    public bool Knows(string address) => pages.IndexOf(address) is >= 0 and var at && (!IsShort(at) || sayings.Knows(at));

    /// <summary>Which guarded pages stand in what was found: those of which that is more than a quotation.</summary>
    /// <param name="found">What <see cref="In"/> found in a text.</param>
    /// <param name="least">How many marks of one page are no accident.</param>
    /// <param name="share">Or how much of a page.</param>
    public IEnumerable<Copied> Of(IReadOnlyList<FoundMark> found, int least, double share) =>
        found.Where(f => pageOf.TryGetValue(f.Mark, out var on) && open.GetValueOrDefault(f.Mark) < UsualOnPages && !IsMenu(on.On))
            .GroupBy(f => pageOf[f.Mark].Page)
            .Select(g => (Page: g.Key, Copy: new Copied(pages[g.Key], g.Count(), g.Count() / (double)Math.Max(1, OwnOf(g.Key)), g.First().Words)))
            .Where(c => !IsCollected(c.Page, c.Copy.Share)).Select(c => c.Copy)
            .Where(c => c.Count >= least || (c.Count > 2 && c.Share >= share) || (c.Count == 2 && c.Share > 0.99));

    /// <summary>Which guarded pages that are too short for that stand in what was found, at least half of what they say.</summary>
    public IEnumerable<Copied> ShortOf(IReadOnlyList<FoundMark> found) =>
        sayings.Of(found, IsShort).Select(s => new Copied(pages[s.Page], s.Count, s.Share, s.Words));

    /// <summary>Whether a page has too few marks of its own to be told by them.</summary>
    private bool IsShort(int page) => OwnOf(page) <= FewMarks;

    /// <summary>Whether so little of guarded data is the open page's own, from which they were collected as from others.</summary>
    private bool IsCollected(int page, double share) => collected.GetValueOrDefault(page) >= CollectedOfPages && share < CollectedShare;

    /// <summary>Whether so many guarded pages say it that it is what stands around them, such as a menu.</summary>
    private bool IsMenu(int on) => on >= MenuOnPages && on >= pages.Count * MenuShare;

    /// <summary>How many marks of a page are its own.</summary>
    private int OwnOf(int page)
    {
        lock (pages)
        {
            if (own is null)
            {
                own = new int[pages.Count];
                foreach (var (at, on) in pageOf.Values.Where(m => !IsMenu(m.On)))
                {
                    own[at]++;
                }
            }

            return own[page];
        }
    }

    private bool IsKnown(ulong mark) => seen[mark >> SeenShift] && pageOf.ContainsKey(mark);

    /// <summary>The marks of words, where each begins: the least of every so many runs.</summary>
    private static IEnumerable<ulong> Marks(WordRun words)
    {
        var runs = words.Runs(Run).ToList();
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
                yield return runs[least].Mark;
            }
        }
    }
}
