using System.Collections.Concurrent;
using System.Text;
using WarySentinel.Contract.Sweep;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>One sweep while it asks: for every address of the catalogue, for those in other spellings, and for what the pages name beside.</summary>
/// <param name="Policy">What decides.</param>
/// <param name="Now">When.</param>
/// <param name="Probes">The ways in which it asks.</param>
/// <param name="Hosts">The hosts under which the site is known.</param>
/// <param name="Reserved">Path prefixes of the service itself.</param>
/// <param name="Tell">Told how far it is.</param>
internal sealed record SweepRound(
    Policy Policy, DateTimeOffset Now, IReadOnlyList<SweepProbe> Probes, IReadOnlySet<string> Hosts, IReadOnlyList<string> Reserved, Action<SweepLine> Tell)
{
    private const int MostUnknown = 200;
    private const int AtOnce = 6;
    private readonly ConcurrentDictionary<(SweepKind, string, string, SweepVia), SweepFinding> findings = [];
    private readonly ConcurrentDictionary<string, bool> unknown = new(StringComparer.Ordinal);
    private List<SweepTarget> beside = [];
    private int done;
    private int requests;

    /// <summary>How the guarded site itself is asked, around the service; null where it is not known.</summary>
    public SweepProbe? Own { get; init; }

    /// <summary>How many requests it took so far.</summary>
    public int Requests => requests;

    /// <summary>How many addresses it met that the catalogue does not know.</summary>
    public int Beside => beside.Count;

    /// <summary>What was found. Addresses beside the catalogue may be missing as they like.</summary>
    public IReadOnlyList<SweepFinding> Findings =>
        [.. findings.Values.Where(f => f.Kind != SweepKind.Missing || beside.All(b => b.Address != f.Address))];

    /// <summary>How many things leak: one that several viewpoints find is one.</summary>
    public int Leaks => findings.Values.Where(f => f.IsLeak).Select(f => (f.Kind, f.Address, f.Via)).Distinct().Count();

    /// <summary>Asks for all of it.</summary>
    public async Task RunAsync(HttpClient http, IReadOnlyList<SweepTarget> targets, CancellationToken stop)
    {
        var parallel = new ParallelOptions { MaxDegreeOfParallelism = AtOnce, CancellationToken = stop };
        await Parallel.ForEachAsync(targets, parallel, async (target, cancel) => await AskAsync(http, target, targets.Count, cancel));
        await Parallel.ForEachAsync(targets.Where(t => t.Guarded), parallel, async (target, cancel) => await SpellAsync(http, target, cancel));
        var strange = unknown.Keys.Where(a => targets.All(t => t.Address != a)).Order(StringComparer.Ordinal);
        beside = [.. strange.Select(a => new SweepTarget(a, null, IsGuarded(a)))];
        await Parallel.ForEachAsync(beside, parallel, async (target, cancel) => await AskAsync(http, target, targets.Count + beside.Count, cancel));
    }

    private bool IsGuarded(string address) =>
        RequestPath.TryNormalise(address, Policy.Settings.Paths, out var path, out _) && Policy.Judge(Visitor.Guest, path, Now).Guarded;

    private async Task AskAsync(HttpClient http, SweepTarget target, int total, CancellationToken stop)
    {
        // Guest first and last: a shared cache that keeps what it was first given betrays itself in one order or the other.
        var given = new List<(SweepProbe Probe, string Text)>();
        foreach (var probe in Probes.Concat(Probes.Reverse()))
        {
            var answer = await probe.AskAsync(http, target.Address, stop);
            Interlocked.Increment(ref requests);
            if (answer is { Status: 200, Text: not null })
            {
                given.AddRange(probe.Via == SweepVia.Public && given.TrueForAll(g => g.Probe != probe) ? [(probe, answer.Text)] : []);
            }

            foreach (var finding in SweepRules.Judge(Policy, probe.As.Visitor, probe.As.Key, target, probe.Via, answer, Hosts, Reserved, Now))
            {
                Add(finding);
            }

            if (probe.Via == SweepVia.Public && answer is { Status: 200, Text: { } text })
            {
                SweepRules.Unknown(Policy, text, target.Address, Hosts, Reserved).Take(MostUnknown - unknown.Count).ToList()
                    .ForEach(address => unknown.TryAdd(address, true));
            }
        }

        var whole = given.Count == 0 || Own is null ? null : (await Own.AskAsync(http, target.Address, stop)).Text;
        FindHusks(target, whole, given);
        Tell(new SweepLine("asking", Interlocked.Increment(ref done), total, Leaks));
    }

    /// <summary>What a page tells of something hidden though it has no link to it: compared with what the origin says of it.</summary>
    private void FindHusks(SweepTarget target, string? whole, List<(SweepProbe Probe, string Text)> given)
    {
        if (given.Count == 0)
        {
            return;
        }

        RequestPath? PathOf(string href) => href.StartsWith('/') && !href.StartsWith("//", StringComparison.Ordinal)
            && RequestPath.TryNormalise(href.Split('#')[0], Policy.Settings.Paths, out var path, out _) ? path : null;
        bool IsItem(string href) => PathOf(href) is { } path && Policy.ItemsAt(path).Any(i => i.Id != ItemId.Site);
        var husks = whole?.TrimStart() is ['<', ..] ? Husks.Of(whole, IsItem, href => PathOf(href) is not null) : null;
        foreach (var (probe, text) in given)
        {
            var left = husks?.LeftIn(text, href => SweepRules.IsHidden(Policy, probe.As.Visitor, href, Reserved, Now)) ?? NamedIn(text, probe.As.Visitor);
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
        foreach (var probe in Probes.Where(p => p.As.Key == "guest" && p.Via != SweepVia.Origin))
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
