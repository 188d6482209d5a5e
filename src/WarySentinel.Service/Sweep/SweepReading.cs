using System.Collections.Concurrent;
using System.Text.RegularExpressions;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>
/// Reads what outsiders get for what guarded pages say: their words and the titles of hidden items, whatever sort of text it is and under whatever address.
/// What is a quotation, a menu or said in the open anyway is told apart at the end, when all of it is known.
/// </summary>
internal sealed partial class SweepReading(Policy policy, DateTimeOffset now)
{
    /// <summary>Of a page of the catalogue that is open to all: so much of a guarded page is no quotation any more.</summary>
    private const int LeastOnOpenPages = int.MaxValue;
    private const double ShareOnOpenPages = 0.6;

    /// <summary>Of anything else: so many marks are no accident, about twenty words.</summary>
    private const int Least = 7;
    private const double Share = 0.5;

    /// <summary>Of what somebody is refused, the refusal may say a sentence or two, not so much.</summary>
    private const int LeastRefused = 30;
    private const double ShareRefused = 0.4;
    private const int LeastAnswered = 3;

    private const int MostTitles = 20_000;
    private const int HeadOfPage = 2000;
    private const int LongestHeading = 80;
    private readonly Phrases phrases = new();
    private readonly Dictionary<ulong, string> prints = [];
    private readonly ConcurrentQueue<SweepRead> all = [];
    private readonly ConcurrentDictionary<ulong, bool> openPrints = [];
    private readonly HiddenTitles titles = TitlesOf(policy, now);

    /// <summary>How many guarded pages it knows the words of.</summary>
    public int Learned => phrases.Count;

    /// <summary>Learns the words of a guarded page, as somebody reads it who may, or its bytes where it is no text.</summary>
    public void Learn(SweepNote.Learned page)
    {
        lock (phrases)
        {
            phrases.Learn(page.Address, page.Marks, page.Sayings, page.IsData);
            if (page.Print != 0)
            {
                prints.TryAdd(page.Print, page.Address);
            }
        }
    }

    /// <summary>Reads what an outsider got. What is closed to them is no matter of words: that they got it is told as such.</summary>
    /// <param name="target">What they asked for.</param>
    /// <param name="via">The way.</param>
    /// <param name="text">What they got.</param>
    /// <param name="whole">What the site itself says there, where it was asked.</param>
    public SweepRead Read(SweepTarget target, SweepVia via, string text, string? whole)
    {
        var isPage = IsPage(text);
        var isOpenPage = isPage && target is { Guarded: false, Item: not null };
        var packed = PackedText.In(text);
        return new SweepRead(
            target.Address, target.Item?.ToString(), via, isOpenPage, phrases.In(text + packed),
            titles.In((isPage ? ScriptsOf(text) : IsProse(text) ? HeadingsOf(text) : text) + "\n" + packed))
        {
            Open = isOpenPage && phrases.Count > 0 ? phrases.KnownIn(whole ?? text) : [], OpenTitles = isPage ? titles.In(ReadText.Plain(text)) : [],
        };
    }

    /// <summary>Reads a file that is no text: its bytes, and words that stand in it.</summary>
    public SweepRead ReadFile(SweepTarget target, SweepVia via, Sighting seen) => new(
        target.Address, target.Item?.ToString(), via, target is { Guarded: false, Item: not null }, phrases.In(seen.Within ?? ""), titles.In(seen.Within ?? ""),
        seen.Print);

    /// <summary>Reads what somebody got who was refused, or to whom it was said that nothing is there.</summary>
    public SweepRead ReadRefusal(SweepTarget target, SweepVia via, int status, string text) =>
        new(target.Address, target.Item?.ToString(), via, false, phrases.In(text + PackedText.In(text)), []) { Refused = status };

    /// <summary>Whether an answer says what a guarded page says, as far as that is known; null where it is not.</summary>
    public bool? Says(SweepTarget page, Sighting seen)
    {
        if (seen.Print != 0 && prints.GetValueOrDefault(seen.Print) == page.Address)
        {
            return true;
        }

        return !phrases.Knows(page.Address) ? null : seen.Text is { } text && phrases.In(text) is var found
            && phrases.Of(found, LeastAnswered, 1).Concat(phrases.ShortOf(found)).Any(c => c.Of == page.Address);
    }

    /// <summary>Reads what scripts made of a page: what they added to it.</summary>
    /// <param name="target">The page.</param>
    /// <param name="raw">The page as it was got.</param>
    /// <param name="drawn">What became of it.</param>
    public SweepRead ReadDrawn(SweepTarget target, string raw, string drawn)
    {
        var (marks, said) = (phrases.In(raw).Select(m => m.Mark).ToHashSet(), titles.In(ReadText.Plain(raw)));
        return new SweepRead(
            target.Address, target.Item?.ToString(), SweepVia.Browser, target is { Guarded: false, Item: not null },
            [.. phrases.In(drawn).Where(m => !marks.Contains(m.Mark))], [.. titles.In(ReadText.Plain(drawn)).Except(said)]);
    }

    /// <summary>Takes in what was read.</summary>
    public void Note(SweepRead read)
    {
        phrases.Open(read.Open);
        titles.Open(read.OpenTitles);
        if (read.Print != 0 && read.IsOpenPage)
        {
            openPrints[read.Print] = true;
        }

        if (read.Marks.Count + read.Titles.Count > 0 || (read.Print != 0 && prints.ContainsKey(read.Print)))
        {
            all.Enqueue(read);
        }
    }

    /// <summary>What it found. What an address that is told of anyway names again is not told twice.</summary>
    /// <param name="isToldOf">Whether something else is told of an address already.</param>
    public IEnumerable<SweepFinding> Findings(Func<string, SweepVia, bool> isToldOf)
    {
        foreach (var one in all)
        {
            var target = new SweepTarget(one.Address, one.Item is { } item && ItemId.TryParse(item, out var id) ? id : null, false);
            if (one.Refused > 0)
            {
                var said = phrases.Of(one.Marks, LeastRefused, ShareRefused).MaxBy(c => c.Count);
                if (said is not null)
                {
                    yield return said.Of == one.Address ? SweepRules.SaidInRefusal(policy, target, one.Via, one.Refused, said, now)
                        : SweepRules.Copied(policy, target, one.Via, [said], now);
                }

                continue;
            }

            var copies = phrases.Of(one.Marks, one.IsOpenPage ? LeastOnOpenPages : Least, one.IsOpenPage ? ShareOnOpenPages : Share)
                .Concat(phrases.ShortOf(one.Marks)).Where(c => c.Of != one.Address).OrderByDescending(c => c.Count).ToList();
            if (copies.Count > 0)
            {
                yield return SweepRules.Copied(policy, target, one.Via, copies, now);
            }
            else if (one.Print != 0 && !openPrints.ContainsKey(one.Print) && prints.GetValueOrDefault(one.Print) is { } of && of != one.Address)
            {
                yield return SweepRules.SameFile(policy, target, one.Via, of, now);
            }

            var told = titles.Of(one.Titles);
            if (copies.Count == 0 && told.Count > 0 && !isToldOf(one.Address, one.Via))
            {
                yield return SweepRules.Told(target, one.Via, [.. told.Select(t => t.Item)]);
            }
        }
    }

    /// <summary>Whether a text is a page.</summary>
    public static bool IsPage(string text) => text.AsSpan().TrimStart() is ['<', ..]
        && text.AsSpan(0, Math.Min(text.Length, HeadOfPage)).Contains("<html", StringComparison.OrdinalIgnoreCase);

    /// <summary>Whether a text is data or a program as a whole, such as a search index.</summary>
    public static bool IsData(string text) => text.AsSpan().Trim() is ['{' or '[', ..] or [not '<', .., '}' or ']' or ')' or ';'];

    /// <summary>Whether a text is written for people: no data, no program.</summary>
    private static bool IsProse(string text) => text.AsSpan().TrimStart() is not (['{' or '[' or '<', ..] or []) && text.AsSpan().IndexOfAny("{};\t") < 0;

    /// <summary>Lines that may be headings or entries: in the others a title is a mention.</summary>
    private static string HeadingsOf(string text) => string.Join(
        '\n', text.Split('\n').Where(l => l.Length < LongestHeading && !l.TrimEnd().EndsWith(',') && !l.Contains('[', StringComparison.Ordinal)));

    private static string ScriptsOf(string page) => string.Join('\n', Script().In(page).Select(m => m.Groups[1].Value));

    private static HiddenTitles TitlesOf(Policy policy, DateTimeOffset now)
    {
        var (hidden, open) = (new List<(string, string)>(), new List<string>());
        for (var place = 0; place < policy.Graph.Items.Count; place++)
        {
            var item = policy.Graph.Items[place];
            if (item.Id == ItemId.Site || policy.Allows(Visitor.Guest, place, Acts.List, now))
            {
                open.Add(item.Title);
            }
            else if (hidden.Count < MostTitles)
            {
                hidden.Add((item.Id.ToString(), item.Title));
            }
        }

        return new HiddenTitles(hidden, open);
    }

    [GeneratedRegex("""<script[^>]*>(.*?)</script""", RegexOptions.IgnoreCase | RegexOptions.Singleline | RegexOptions.CultureInvariant,
        PatientMatches.Longest)]
    private static partial Regex Script();
}
