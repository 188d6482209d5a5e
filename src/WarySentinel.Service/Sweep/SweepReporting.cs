using WarySentinel.Contract.Sweep;
using WarySentinel.Core;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>What a sweep says in the end: what it found, leaks first, and where it proved less than it seems.</summary>
internal static class SweepReporting
{
    private const double MostMissing = 0.8;
    private const int MostHosts = 5;
    private const int MostUnread = 5;

    /// <summary>What was found.</summary>
    public static SweepReport ReportOf(
        SweepJournal journal, SweepSite site, SweepRound round, IReadOnlyList<SweepTarget> targets, int leftOut, DateTimeOffset now)
    {
        string? Asked(SweepVia via) => site.Probes.FirstOrDefault(p => p.Via == via)?.Base.GetLeftPart(UriPartial.Authority);
        var sorted = round.Findings.OrderByDescending(f => f.IsLeak).ThenBy(f => f.Kind).ThenBy(f => f.Address, StringComparer.Ordinal).ThenBy(f => f.Via)
            .ThenBy(f => f.As, StringComparer.Ordinal).Select(ToWire).ToList();
        return new SweepReport(
            journal.Sweep, journal.Begun.StartedAt, now, journal.Begun.By, Asked(SweepVia.Public)!, Asked(SweepVia.Origin), Asked(SweepVia.Cache),
            [.. site.Probes.Where(p => p.Via == SweepVia.Public).Select(p => p.As.Key)], targets.Count + round.Beside, targets.Count(t => t.Guarded),
            round.Requests, leftOut, round.Leaks, sorted.Count(f => f.Kind == "closed"), sorted.Count(f => f.Kind == "missing"), sorted)
        { Drawn = round.DrawnPages, Undrawn = round.WithScripts - round.DrawnPages };
    }

    /// <summary>Where it proved less than it seems, or nothing.</summary>
    /// <param name="site">What was swept.</param>
    /// <param name="round">The sweep.</param>
    /// <param name="report">What it found.</param>
    /// <param name="targets">The addresses of the catalogue.</param>
    /// <param name="pace">How it went about it.</param>
    /// <param name="browserFault">The browser that did not start, or null.</param>
    public static IReadOnlyList<string> Warnings(
        SweepSite site, SweepRound round, SweepReport report, IReadOnlyList<SweepTarget> targets, SweepPace pace, string? browserFault)
    {
        List<string> all = [];
        if (!round.HasAnswer)
        {
            all.Add(Words.Of("sweep.warn-answer", report.Site));
        }
        else if (report.Missing > targets.Count * MostMissing)
        {
            all.Add(Words.Of("sweep.warn-missing", report.Missing, targets.Count));
        }

        all.AddRange(report.Guarded == 0 ? [Words.Of("sweep.warn-none")] : []);
        all.AddRange(round.IsPart ? [] : SweepRules.Unseen(site.Policy, site.Now).Select(g => Words.Of("sweep.warn-gate", g.Title, g.Key)));
        all.AddRange(report.Guarded > 0 && round.Learned == 0 ? [Words.Of("sweep.warn-words")] : []);
        all.AddRange(round.LeftBeside > 0 ? [Words.Of("sweep.warn-left", round.LeftBeside, SweepTrail.Most)] : []);
        all.AddRange(round.Unread.OrderBy(u => u.Key).Select(Unread));
        all.AddRange(browserFault is not null ? [Words.Of("sweep.warn-browser", browserFault)]
            : round.IsPart || pace.Draws == 0 || round.WithScripts == 0 ? []
            : round.Browser is null ? [Words.Of("sweep.warn-no-browser", round.WithScripts)] : WarningsOfDrawing(round));
        return all;
    }

    private static string Unread(IGrouping<SweepUnread, string> of) => Words.Of(
        $"sweep.warn-unread-{of.Key.ToString().ToLowerInvariant()}", of.Count(),
        string.Join(", ", of.Take(MostUnread)) + (of.Count() > MostUnread ? ", …" : ""));

    private static IEnumerable<string> WarningsOfDrawing(SweepRound round)
    {
        if (round.NotDrawn > 0)
        {
            yield return Words.Of("sweep.warn-not-drawn", round.NotDrawn);
        }

        if (round.Elsewhere.Count > 0)
        {
            yield return Words.Of("sweep.warn-elsewhere", string.Join(", ", round.Elsewhere.Take(MostHosts)));
        }
    }

    private static SweepFindingView ToWire(SweepFinding finding) => new(
        finding.Kind.ToString().ToLowerInvariant(), finding.IsLeak, finding.Address, finding.Item, finding.As, finding.Via.ToString().ToLowerInvariant(),
        finding.Gate, finding.What, finding.Mend);
}
