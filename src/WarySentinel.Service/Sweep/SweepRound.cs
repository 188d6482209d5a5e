using System.Collections.Concurrent;
using System.Text;
using WarySentinel.Contract.Sweep;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>
/// One sweep while it asks: for every address of the catalogue, for those in other spellings, for copies of them, and for whatever an outsider comes to from
/// there.
/// </summary>
/// <param name="Policy">What decides.</param>
/// <param name="Now">When.</param>
/// <param name="Probes">The ways in which it asks.</param>
/// <param name="Hosts">The hosts under which the site is known.</param>
/// <param name="Reserved">Path prefixes of the service itself.</param>
/// <param name="Tell">Told how far it is.</param>
internal sealed record SweepRound(
    Policy Policy, DateTimeOffset Now, IReadOnlyList<SweepProbe> Probes, IReadOnlySet<string> Hosts, IReadOnlyList<string> Reserved, Action<SweepLine> Tell)
{
    private const int MostSteps = 6;
    private const int MostCopied = 200;
    private const int MostSearched = 5;
    private const int MostForms = 3;
    private const int MostLearned = 20_000;
    private readonly ConcurrentDictionary<(SweepKind, string, string, SweepVia), SweepFinding> findings = [];
    private readonly ConcurrentDictionary<string, bool> beside = new(StringComparer.Ordinal);
    private readonly SweepReading reading = new(Policy, Now);
    private SweepTrail trail = null!;
    private IReadOnlyList<string> hiddenTitles = [];
    private int done;
    private int total;
    private int requests;
    private int forms;
    private int answered;

    /// <summary>How the guarded site itself is asked, around the service; null where it is not known.</summary>
    public SweepProbe? Own { get; init; }

    /// <summary>How many requests are on their way at once.</summary>
    public int AtOnce { get; init; } = 8;

    /// <summary>Whether only a part of the site is looked at: then it goes on to nowhere from there.</summary>
    public bool IsPart { get; init; }

    /// <summary>How many requests it took so far.</summary>
    public int Requests => requests;

    /// <summary>How many addresses it met that the catalogue does not know.</summary>
    public int Beside => beside.Count;

    /// <summary>How many guarded pages it knows the words of.</summary>
    public int Learned => reading.Learned;

    /// <summary>Whether anything came back at all.</summary>
    public bool HasAnswer => answered > 0;

    /// <summary>How many addresses that it met it did not ask for.</summary>
    public int LeftBeside => trail.LeftOut;

    /// <summary>What was found. Addresses beside the catalogue may be missing as they like.</summary>
    public IReadOnlyList<SweepFinding> Findings =>
        [.. findings.Values.Where(f => f.Kind is not (SweepKind.Missing or SweepKind.Closed) || !beside.ContainsKey(f.Address))];

    /// <summary>How many things leak: one that several viewpoints find is one.</summary>
    public int Leaks => findings.Values.Where(f => f.IsLeak).Select(f => (f.Kind, f.Address, f.Via)).Distinct().Count();

    /// <summary>Asks for all of it.</summary>
    public async Task RunAsync(HttpClient http, IReadOnlyList<SweepTarget> targets, CancellationToken stop)
    {
        var parallel = new ParallelOptions { MaxDegreeOfParallelism = AtOnce, CancellationToken = stop };
        trail = new SweepTrail(Policy, Hosts, Reserved, targets.Select(t => t.Address));
        hiddenTitles = [.. targets.Where(t => t is { Guarded: true, Item: not null }).Select(t => Policy.Graph.Find(t.Item!.Value)?.Title).OfType<string>()
            .Distinct().Take(MostSearched)];
        var guarded = targets.Where(t => t.Guarded).ToList();
        await Parallel.ForEachAsync(guarded.Take(MostLearned), parallel, async (target, cancel) => await LearnAsync(http, target, cancel));
        total = targets.Count;
        await Parallel.ForEachAsync(targets, parallel, async (target, cancel) => await AskAsync(http, target, cancel));
        await Parallel.ForEachAsync(guarded, parallel, async (target, cancel) => await SpellAsync(http, target, cancel));
        for (var step = 0; step < MostSteps && !IsPart && trail.Take() is { Count: > 0 } more; step++)
        {
            await BesideAsync(http, more, parallel);
        }

        if (IsPart)
        {
            trail.Take();
        }

        // Last, so that what the site leads to by itself comes before what is guessed.
        foreach (var usual in (IsPart ? [] : SweepLinks.Usual).Concat(guarded.Take(MostCopied).SelectMany(t => SweepLinks.Copies(t.Address))))
        {
            trail.Guess(usual);
        }

        await BesideAsync(http, trail.Take(), parallel, true);
        for (var step = 0; step < MostSteps && !IsPart && trail.Take() is { Count: > 0 } more; step++)
        {
            await BesideAsync(http, more, parallel);
        }

        foreach (var finding in reading.Findings((address, via) => findings.Values.Any(f => f.IsLeak && f.Address == address && f.Via == via)).ToList())
        {
            Add(finding);
        }
    }

    private async Task BesideAsync(HttpClient http, IReadOnlyList<string> addresses, ParallelOptions parallel, bool isGuess = false)
    {
        total += addresses.Count;
        await Parallel.ForEachAsync(addresses, parallel, async (address, cancel) =>
        {
            beside.TryAdd(address, true);
            await AskAsync(http, new SweepTarget(address, null, IsGuarded(address)), cancel, isGuess);
        });
    }

    private bool IsGuarded(string address) =>
        RequestPath.TryNormalise(address, Policy.Settings.Paths, out var path, out _) && Policy.Judge(Visitor.Guest, path, Now).Guarded;

    /// <summary>Learns what a guarded page says: from the site itself, or else as somebody who may read it.</summary>
    private async Task LearnAsync(HttpClient http, SweepTarget target, CancellationToken stop)
    {
        foreach (var probe in Own is not null ? [Own] : Probes.Where(p => p.Via == SweepVia.Public && p.Cookie is not null))
        {
            if (await CountedAsync(probe, http, target.Address, stop) is { Status: 200, Text: { } text })
            {
                reading.Learn(target.Address, text);
                return;
            }
        }
    }

    private async Task AskAsync(HttpClient http, SweepTarget target, CancellationToken stop, bool isGuess = false)
    {
        var (given, read, own) = (new List<(SweepProbe Probe, string Text)>(), new HashSet<(SweepProbe, string)>(), (Whole: (string?)null, IsAsked: false));
        async Task<string?> WholeAsync()
        {
            // What the site itself says there is asked for once, whoever gets what of it.
            own = own.IsAsked || Own is null ? own : ((await CountedAsync(Own, http, target.Address, stop)).Text, true);
            return own.Whole;
        }

        foreach (var probe in isGuess ? Probes.Where(IsOutsider) : Order())
        {
            var answer = await CountedAsync(probe, http, target.Address, stop);
            if (answer is { Status: 200, Text: not null })
            {
                given.AddRange(probe.Via == SweepVia.Public && given.TrueForAll(g => g.Probe != probe) ? [(probe, answer.Text)] : []);
            }

            var found = SweepRules.Judge(Policy, probe.As.Visitor, probe.As.Key, target, probe.Via, answer, Hosts, Reserved, Now).ToList();
            found.ForEach(Add);
            if (IsOutsider(probe) && answer is { Status: 200, Text: { } text } && !found.Exists(f => f.Kind == SweepKind.Reachable)
                && read.Add((probe, text)))
            {
                Meet(target, answer.Headers + text);
                var whole = probe.Via == SweepVia.Public && (target.Item is not null || MayHaveEntries(target, text)) ? await WholeAsync() : null;
                reading.Read(target, probe.Via, text, whole);
                FindHusks(target, whole, [(probe, text)]);
            }
        }

        var others = given.Where(g => !IsOutsider(g.Probe)).ToList();
        if (others.Count > 0 && Own is not null)
        {
            FindHusks(target, await WholeAsync(), others);
        }

        Tell(new SweepLine("asking", Interlocked.Increment(ref done), total, Leaks));
    }

    /// <summary>
    /// Guest first and last: a shared cache that keeps what it was first given betrays itself in one order or the other. Who is alone is asked once.
    /// </summary>
    private IEnumerable<SweepProbe> Order() => Probes.Count == 1 ? Probes
        : Probes.Any(p => p.Via == SweepVia.Cache) ? Probes.Concat(Probes.Reverse()) : Probes.Append(Probes[0]);

    private static bool IsOutsider(SweepProbe probe) => probe.As.Key == "guest" && probe.Via != SweepVia.Origin;

    /// <summary>Notes where an outsider can go on to from there.</summary>
    private void Meet(SweepTarget target, string text)
    {
        Interlocked.Increment(ref answered);
        trail.Follow(text, target.Address);
        if (forms < MostForms && text.Contains("<form", StringComparison.OrdinalIgnoreCase) && hiddenTitles.Count > 0)
        {
            Interlocked.Increment(ref forms);
            foreach (var search in SweepLinks.Searches(text, target.Address, hiddenTitles))
            {
                trail.Add(search);
            }
        }
    }

    /// <summary>Whether something could be left out of it: an open page that has entries.</summary>
    private static bool MayHaveEntries(SweepTarget target, string text) => !target.Guarded && text.AsSpan().TrimStart() is ['<', ..];

    /// <summary>What a page tells of something hidden though it has no link to it: compared with what the origin says of it.</summary>
    private void FindHusks(SweepTarget target, string? whole, List<(SweepProbe Probe, string Text)> given)
    {
        RequestPath? PathOf(string href) => href.StartsWith('/') && !href.StartsWith("//", StringComparison.Ordinal)
            && RequestPath.TryNormalise(href.Split('#')[0], Policy.Settings.Paths, out var path, out _) ? path : null;
        bool IsItem(string href) => PathOf(href) is { } path && Policy.ItemsAt(path).Any(i => i.Id != ItemId.Site);
        bool IsHidden(SweepProbe probe, string href) => SweepRules.IsHidden(Policy, probe.As.Visitor, href, Reserved, Now);
        // A page that leads to nothing hidden has no husk, and reading it whole takes its time.
        var mayHave = whole?.TrimStart() is ['<', ..] && given.Exists(g => SweepLinks.From(whole, target.Address, Hosts).Any(a => IsHidden(g.Probe, a)));
        var husks = mayHave ? Husks.Of(whole!, IsItem, href => PathOf(href) is not null) : null;
        foreach (var (probe, text) in given)
        {
            var left = husks?.LeftIn(text, href => IsHidden(probe, href)) ?? NamedIn(text, probe.As.Visitor);
            if (left.Count > 0)
            {
                Add(SweepRules.Left(target, probe.As.Key, probe.Via, left));
            }
        }
    }

    /// <summary>Hidden items that data name by their keys.</summary>
    private IReadOnlyList<string> NamedIn(string text, Visitor visitor) => text.TrimStart('\uFEFF', ' ', '\n', '\r', '\t') is not ['{' or '[', ..] ? []
        : EntryFinder.NamedInData(Encoding.UTF8.GetBytes(text), key => Policy.Graph.WithKey(key)
            .Where(id => !Policy.Allows(visitor, id, Acts.List, Now)).Select(id => id.ToString()).FirstOrDefault());

    /// <summary>Asks for a closed address in other spellings. What is given out for a made-up address too says nothing.</summary>
    private async Task SpellAsync(HttpClient http, SweepTarget target, CancellationToken stop)
    {
        foreach (var probe in Probes.Where(IsOutsider))
        {
            if (RequestPath.TryNormalise(target.Address, Policy.Settings.Paths, out var path, out _)
                && !Policy.Allows(probe.As.Visitor, path, Acts.Open, Now))
            {
                await SpellAsync(probe, http, target, path, stop);
            }
        }
    }

    private async Task SpellAsync(SweepProbe probe, HttpClient http, SweepTarget target, RequestPath path, CancellationToken stop)
    {
        Sighting? madeUp = null;
        foreach (var spelling in SweepRules.Spellings(Policy, target))
        {
            var answer = await CountedAsync(probe, http, spelling, stop);
            if (answer.Status is < 200 or >= 300)
            {
                continue;
            }

            // Some sites answer everything with one and the same page.
            madeUp ??= await CountedAsync(probe, http, $"{path.Sent.TrimEnd('/')}-{Guid.NewGuid():N}", stop);
            if (madeUp.Status != answer.Status || madeUp.Text != answer.Text)
            {
                Add(SweepRules.Spelled(Policy, target, spelling, probe.As.Key, probe.Via, answer.Status, Now));
            }
        }
    }

    private Task<Sighting> CountedAsync(SweepProbe probe, HttpClient http, string address, CancellationToken stop)
    {
        Interlocked.Increment(ref requests);
        return probe.AskAsync(http, address, stop);
    }

    private void Add(SweepFinding finding) => findings.TryAdd((finding.Kind, finding.Address, finding.As, finding.Via), finding);
}
