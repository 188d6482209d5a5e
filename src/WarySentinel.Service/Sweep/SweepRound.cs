using System.Collections.Concurrent;
using WarySentinel.Contract.Sweep;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>How a sweep goes about it.</summary>
/// <param name="AtOnce">How many requests are on their way at once.</param>
/// <param name="IsPart">Whether only a part of the site is looked at: then it goes on to nowhere from there.</param>
/// <param name="Draws">How many pages are drawn in a browser at most.</param>
internal sealed record SweepPace(int AtOnce, bool IsPart, int Draws);

/// <summary>
/// One sweep while it asks: for every address of the catalogue, for those in other spellings, for copies of them, and for whatever an outsider comes to from
/// there. All it knows are its notes.
/// </summary>
internal sealed class SweepRound
{
    private const int MostSteps = 6;
    private const int MostCopied = 200;
    private const int MostSearched = 5;
    private const int MostTurned = 60;
    private const int MostLearned = 20_000;
    private readonly ConcurrentDictionary<(SweepKind, string, string, SweepVia), SweepFinding> findings = [];
    private readonly ConcurrentDictionary<string, bool> beside = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<(Type, string), bool> noted = [];
    private readonly PagesToDraw toDraw = new();
    private readonly SortedSet<string> elsewhere = new(StringComparer.Ordinal);
    private readonly ConcurrentDictionary<string, SweepUnread> unread = new(StringComparer.Ordinal);
    private readonly SweepSite site;
    private readonly SweepPace pace;
    private readonly Func<SweepNote, Task> keep;
    private readonly Action<SweepLine> tell;
    private readonly IReadOnlyList<SweepTarget> targets;
    private readonly SweepReading reading;
    private readonly SweepPrices prices;
    private readonly SweepTrail trail;
    private readonly SweepAsker asker;
    private readonly SweepTurner turner;
    private int done;
    private int total;
    private int requests;
    private int answered;

    // For telling: not sorted out what is told twice.
    private int leaksSoFar;

    /// <summary>Sets one up.</summary>
    /// <param name="site">What is swept.</param>
    /// <param name="pace">How.</param>
    /// <param name="targets">The addresses of the catalogue.</param>
    /// <param name="keep">Keeps a note, for when it is broken off.</param>
    /// <param name="tell">Told how far it is.</param>
    public SweepRound(SweepSite site, SweepPace pace, IReadOnlyList<SweepTarget> targets, Func<SweepNote, Task> keep, Action<SweepLine> tell)
    {
        (this.site, this.pace, this.targets, this.keep, this.tell) = (site, pace, targets, keep, tell);
        (reading, prices) = (new SweepReading(site.Policy, site.Now), new SweepPrices(site));
        trail = new SweepTrail(site, targets.Select(t => t.Address));
        asker = new SweepAsker(site, reading, prices, trail, [.. targets.Where(t => t is { Guarded: true, Item: not null })
            .Select(t => site.Policy.Graph.Find(t.Item!.Value)?.Title).OfType<string>().Distinct().Take(MostSearched)]);
        turner = new SweepTurner(site, reading);
        total = targets.Count;
    }

    /// <summary>What draws pages; null where nothing does.</summary>
    public SweepBrowser? Browser { get; init; }

    /// <summary>How many requests it took so far.</summary>
    public int Requests => requests;

    /// <summary>How many addresses it met that the catalogue does not know.</summary>
    public int Beside => beside.Count;

    /// <summary>How many guarded pages it knows the words of.</summary>
    public int Learned => reading.Learned;

    /// <summary>Whether only a part of the site was looked at.</summary>
    public bool IsPart => pace.IsPart;

    /// <summary>Whether anything came back at all.</summary>
    public bool HasAnswer => answered > 0;

    /// <summary>How many addresses that it met it did not ask for.</summary>
    public int LeftBeside => trail.LeftOut;

    /// <summary>How many pages have scripts.</summary>
    public int WithScripts => toDraw.Count;

    /// <summary>How many pages were drawn.</summary>
    public int DrawnPages { get; private set; }

    /// <summary>How many could not be drawn.</summary>
    public int NotDrawn { get; private set; }

    /// <summary>Hosts that pages wanted something of while they were drawn, and that were not asked.</summary>
    public IReadOnlyCollection<string> Elsewhere => elsewhere;

    /// <summary>What outsiders got and the sweep could not read, or not to its end.</summary>
    public ILookup<SweepUnread, string> Unread => unread.OrderBy(u => u.Key, StringComparer.Ordinal).ToLookup(u => u.Value, u => u.Key);

    /// <summary>
    /// What was found. Addresses beside the catalogue may be missing as they like; what a page says by itself is not told again of what was drawn.
    /// </summary>
    public IReadOnlyList<SweepFinding> Findings => [.. findings.Values
        .Where(f => f.Kind is not (SweepKind.Missing or SweepKind.Closed) || !beside.ContainsKey(f.Address))
        .Where(f => f.Via != SweepVia.Browser || !findings.ContainsKey((f.Kind, f.Address, f.As, SweepVia.Public)))];

    /// <summary>How many things leak: one that several viewpoints find is one.</summary>
    public int Leaks => Findings.Where(f => f.IsLeak).Select(f => (f.Kind, f.Address, f.Via)).Distinct().Count();

    /// <summary>Takes in what was noted before it was broken off.</summary>
    public void Replay(SweepNote note)
    {
        Apply(note);
        if (note is SweepNote.Asked { IsBeside: true } or SweepNote.Drawn)
        {
            total++;
        }
    }

    /// <summary>Asks for all of it.</summary>
    public async Task RunAsync(CancellationToken stop)
    {
        var guarded = targets.Where(t => t.Guarded).ToList();
        await EachAsync<SweepNote.Learned>(guarded.Take(MostLearned), asker.LearnAsync, stop);
        await EachAsync<SweepNote.Asked>(targets, async (t, s) => await asker.AskAsync(t, false, false, s), stop);
        await EachAsync<SweepNote.Spelled>(guarded, asker.SpellAsync, stop);
        await EachAsync<SweepNote.Turned>(guarded.Where((_, at) => at % ((guarded.Count / MostTurned) + 1) == 0), turner.TurnAsync, stop);
        await GoOnAsync(stop);
        if (!pace.IsPart && Browser is not null)
        {
            await DrawAsync(new SweepDrawing(site, prices, Browser), stop);
            await GoOnAsync(stop);
        }

        // Last, so that what the site leads to by itself comes before what is guessed.
        foreach (var usual in (pace.IsPart ? [] : SweepLinks.Usual).Concat(guarded.Take(MostCopied).SelectMany(t => SweepLinks.Copies(t.Address)))
            .Concat(SweepLinks.FolderCopies(guarded.Select(t => t.Address)).Take(MostCopied)))
        {
            trail.Guess(usual);
        }

        await BesideAsync(trail.Take(), true, stop);
        await GoOnAsync(stop);
        bool IsToldOf(string address, SweepVia via) => findings.Values.Any(f => f.IsLeak && f.Address == address && f.Via == via);
        foreach (var finding in reading.Findings(IsToldOf).Concat(prices.Findings()).ToList())
        {
            Add(finding);
        }
    }

    /// <summary>On to where what was got leads, some steps far.</summary>
    private async Task GoOnAsync(CancellationToken stop)
    {
        for (var step = 0; step < MostSteps && trail.Take() is { Count: > 0 } more && !pace.IsPart; step++)
        {
            await BesideAsync(more, false, stop);
        }
    }

    private async Task BesideAsync(IReadOnlyList<string> addresses, bool isGuess, CancellationToken stop)
    {
        Interlocked.Add(ref total, addresses.Count(a => !noted.ContainsKey((typeof(SweepNote.Asked), a))));
        await EachAsync<SweepNote.Asked>(
            addresses.Select(a => new SweepTarget(a, null, site.IsGuarded(a))), async (t, s) => await asker.AskAsync(t, true, isGuess, s), stop);
    }

    private async Task DrawAsync(SweepDrawing drawing, CancellationToken stop)
    {
        var pages = toDraw.Take(pace.Draws).Select(a => targets.FirstOrDefault(t => t.Address == a) ?? new SweepTarget(a, null, site.IsGuarded(a))).ToList();
        Interlocked.Add(ref total, pages.Count(t => !noted.ContainsKey((typeof(SweepNote.Drawn), t.Address))));
        await EachAsync<SweepNote.Drawn>(pages, async (t, s) => await drawing.DrawAsync(t, reading, trail, s), stop, SweepDrawing.AtOnce);
    }

    /// <summary>A step for each address that has none yet.</summary>
    private async Task EachAsync<TNote>(
        IEnumerable<SweepTarget> of, Func<SweepTarget, CancellationToken, Task<TNote>> step, CancellationToken stop, int most = int.MaxValue)
        where TNote : SweepNote
    {
        var parallel = new ParallelOptions { MaxDegreeOfParallelism = Math.Min(pace.AtOnce, most), CancellationToken = stop };
        await Parallel.ForEachAsync(of.Where(t => !noted.ContainsKey((typeof(TNote), t.Address))).ToList(), parallel, async (target, cancel) =>
        {
            var note = await step(target, cancel);
            Apply(note);
            await keep(note);
            tell(new SweepLine(note is SweepNote.Drawn ? "drawing" : "asking", done, total, leaksSoFar));
        });
    }

    private void Apply(SweepNote note)
    {
        if (!noted.TryAdd((note.GetType(), note.Address), true))
        {
            return;
        }

        Interlocked.Add(ref requests, note.Requests);
        foreach (var finding in note.Findings)
        {
            Add(finding);
        }

        foreach (var read in note.Read)
        {
            reading.Note(read);
        }

        foreach (var shown in note.Prices)
        {
            prices.Note(shown);
        }

        switch (note)
        {
            case SweepNote.Learned learned:
                reading.Learn(learned);
                break;
            case SweepNote.Asked asked:
                Note(asked);
                break;
            case SweepNote.Drawn drawn:
                Note(drawn);
                break;
        }

        trail.Add(note.Leads);
    }

    private void Note(SweepNote.Asked asked)
    {
        Interlocked.Increment(ref done);
        Interlocked.Add(ref answered, asked.IsAnswered ? 1 : 0);
        if (asked.IsBeside)
        {
            beside.TryAdd(asked.Address, true);
        }

        if (asked.Unread != SweepUnread.None)
        {
            unread[asked.Address] = asked.Unread;
        }

        trail.Search(asked.Searches);
        if (asked.Scripts is { } scripts)
        {
            lock (toDraw)
            {
                toDraw.Add(asked.Address, scripts);
            }
        }
    }

    private void Note(SweepNote.Drawn drawn)
    {
        lock (toDraw)
        {
            done++;
            DrawnPages += drawn.IsDrawn ? 1 : 0;
            NotDrawn += drawn.IsDrawn ? 0 : 1;
            elsewhere.UnionWith(drawn.Elsewhere);
        }
    }

    private void Add(SweepFinding finding)
    {
        if (findings.TryAdd((finding.Kind, finding.Address, finding.As, finding.Via), finding) && finding.IsLeak)
        {
            Interlocked.Increment(ref leaksSoFar);
        }
    }
}
