using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using WarySentinel.Contract.Sweep;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Sweep;
using WarySentinel.Service.Access;
using WarySentinel.Service.Nodes;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Sweep;

/// <summary>Requests every guarded address as an outsider would and as chosen viewpoints, and compares with what the policy decides.</summary>
public sealed class SweepRunner(
    PolicyHolder policies, Viewpoints viewpoints, Sessions sessions, Store store, PeopleLane people, Leases leases, ILetters letters, Outbound outbound,
    IHttpClientFactory clients, ServiceOptions options, TimeProvider time, ILogger<SweepRunner> log)
{
    /// <summary>How reports are kept and sent.</summary>
    public static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web) { DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };

    private const string Turn = "sweep";
    private const int UsualMost = 5000;
    private const int UsualAtOnce = 8;
    private const int MostAtOnce = 64;
    private const int MostTold = 20;
    private const int UsualDraws = 100;
    private const int MostDraws = 5000;
    private const string Guest = "guest";

    /// <summary>Runs a sweep, tells how far it is, keeps the report.</summary>
    public async Task<Outcome<SweepReport>> RunAsync(SweepDraft draft, string by, Action<SweepLine> tell, CancellationToken stop)
    {
        await using var lease = await leases.TakeAsync("sweep", stop);
        return lease is null ? Problem.Of(ProblemKind.Conflict, "sweep-running") : await OnceAsync(draft, by, tell, lease.Stop);
    }

    /// <summary>The sweep that has not ended, or null.</summary>
    public async Task<SweepUnfinished?> UnfinishedAsync(CancellationToken stop)
    {
        if (await SweepJournal.FindAsync(store, time, stop) is not var (journal, notes))
        {
            return null;
        }

        var isRunning = await leases.IsTakenAsync("sweep", stop);
        return new SweepUnfinished(journal.Begun.StartedAt, journal.Begun.By, notes, isRunning, !isRunning && journal.Begun.Revision == policies.Revision);
    }

    /// <summary>Whether the time of the sweep of the settings has come.</summary>
    public async Task<bool> IsDueAsync(CancellationToken stop) =>
        policies.Current.Settings.Sweep.EveryHours is > 0 and var hours && await store.IsTurnFreeAsync(Turn, time.GetUtcNow().AddHours(-hours), stop);

    /// <summary>Runs the sweep of the settings when its time has come, and raises an alert when it finds leaks.</summary>
    public async Task RunDueAsync(CancellationToken stop)
    {
        var plan = policies.Current.Settings.Sweep;
        if (plan.EveryHours <= 0 || !await store.TakeTurnAsync(Turn, time.GetUtcNow().AddHours(-plan.EveryHours), stop))
        {
            return;
        }

        var outcome = await RunAsync(new SweepDraft(plan.As, null, null, null, null), "schedule", _ => { }, stop);
        if (outcome is { IsGood: true, Value: { Leaks: > 0 } report })
        {
            log.LogWarning("The sweep found {Leaks} leaks; the console lists them", report.Leaks);
            await (plan.AlertTo is { } to ? AlertAsync(to, report) : Task.CompletedTask);
        }
    }

    private async Task AlertAsync(string to, SweepReport report)
    {
        var lines = report.Findings.Where(f => f.IsLeak).Take(MostTold).Select(f => $"{f.Address} ({f.As}): {f.What}");
        var message = letters.Write(
            "notice-leak", new LetterReader(to), ("count", report.Leaks.ToString(CultureInfo.InvariantCulture)),
            ("list", string.Join('\n', lines) + (report.Leaks > MostTold ? "\n…" : "")), ("page", options.AdminUrl.TrimEnd('/') + "/sweep"));
        await people.ChangeAsync(
            new Edit<int>(new Edit("sweep.alert", to, [message], null, report.Leaks.ToString(CultureInfo.InvariantCulture)), report.Leaks), "schedule");
    }

    private async Task<Outcome<SweepReport>> OnceAsync(SweepDraft asked, string by, Action<SweepLine> tell, CancellationToken stop)
    {
        var (policy, revision) = (policies.Current, policies.Revision);
        // What it finds is kept, and read by many: it is worded as the site speaks, whoever began it.
        CultureInfo.CurrentUICulture = CultureInfo.GetCultureInfo(Words.In(policy.Settings.Language).Language);
        var left = asked.Resume ? (await SweepJournal.FindAsync(store, time, stop))?.Journal : null;
        if (asked.Resume && left?.Begun.Revision != revision)
        {
            return Problem.Of(ProblemKind.Conflict, left is null ? "sweep-none-left" : "sweep-moved");
        }

        var draft = left?.Begun.Draft ?? asked;
        var site = Address("site", draft.Site is { Length: > 0 } said ? said : options.SiteUrl);
        var origin = string.IsNullOrWhiteSpace(draft.Origin) ? null : (Outcome<Uri>?)Address("origin", draft.Origin);
        var cacheText = draft.Cache ?? options.SweepCache;
        var cache = cacheText.Length == 0 ? null : (Outcome<Uri>?)Address("cache", cacheText);
        if ((site.Problem ?? origin?.Problem ?? cache?.Problem) is { } bad)
        {
            return bad;
        }

        if (draft.Gate is { } gate && policy.FindGate(gate) is null)
        {
            return Problem.In("gate", "gate-unknown", gate);
        }

        var (seen, begun) = (new List<(SeenAs As, string? Cookie)>(), new List<Guid>());
        try
        {
            if (await SeeAsync(draft.As ?? [], policy, seen, begun, stop) is { } problem)
            {
                return problem;
            }

            var probes = Probes(site.Value, cache?.Value, origin?.Value, seen);
            var journal = left ?? await SweepJournal.BeginAsync(store, time, new SweepBegun(draft, revision, time.GetUtcNow(), by), stop);
            using var http = clients.CreateClient(OwnRequests.Sweep);
            var hosts = probes.Select(p => p.Base.Authority).Concat(options.Authorities).ToHashSet(StringComparer.OrdinalIgnoreCase);
            // What the site says of itself, to tell what is left of it: never judged, and only where the service may fetch from.
            var own = options.Origin.Length == 0 ? null : new SweepProbe(SweepVia.Origin, new Uri(options.Origin), probes[0].As, null);
            return await AskAllAsync(new SweepSite(policy, time.GetUtcNow(), probes, hosts, options.Reserved, own, http), journal, tell, stop);
        }
        finally
        {
            foreach (var session in begun)
            {
                await sessions.EndAsync(session);
            }
        }
    }

    /// <summary>As whom it is asked: a guest, and who is named beside, each with a session of their own.</summary>
    private async Task<Problem?> SeeAsync(
        IReadOnlyList<string> names, Policy policy, List<(SeenAs As, string? Cookie)> seen, List<Guid> begun, CancellationToken stop)
    {
        foreach (var key in names.Prepend(Guest).Distinct())
        {
            var found = await viewpoints.FindAsync(key, policy, false, stop);
            if (found.Problem is { } problem)
            {
                return problem with { Faults = [new Fault("as", problem.Detail)] };
            }

            if (key == Guest)
            {
                seen.Add((found.Value, null));
                continue;
            }

            var (session, cookie) = await sessions.BeginViewAsync(key, stop);
            begun.Add(session);
            seen.Add((found.Value, cookie));
        }

        return null;
    }

    private static List<SweepProbe> Probes(Uri site, Uri? cache, Uri? around, List<(SeenAs As, string? Cookie)> seen)
    {
        var probes = new List<SweepProbe>();
        foreach (var (via, address) in new[] { (SweepVia.Public, site), (SweepVia.Cache, cache) })
        {
            probes.AddRange(address is null ? [] : seen.Select(s => new SweepProbe(via, address, s.As, s.Cookie)));
        }

        return around is null ? probes : [.. probes, new SweepProbe(SweepVia.Origin, around, seen[0].As, null)];
    }

    private async Task<SweepReport> AskAllAsync(SweepSite site, SweepJournal journal, Action<SweepLine> tell, CancellationToken stop)
    {
        var draft = journal.Begun.Draft;
        var (targets, leftOut) = SweepRules.Targets(site.Policy, site.Now, Math.Clamp(draft.Most ?? UsualMost, 1, 200_000));
        targets = draft.Gate is null ? targets : [.. targets.Where(t => SweepRules.IsBy(site.Policy, t, draft.Gate, site.Now))];
        var pace = new SweepPace(
            Math.Clamp(draft.AtOnce ?? UsualAtOnce, 1, MostAtOnce), draft.Gate is not null, Math.Clamp(draft.Draw ?? UsualDraws, 0, MostDraws));
        var (browser, fault) = await BrowserAsync(site, pace);
        await using var closing = browser;
        var round = new SweepRound(site, pace, targets, note => journal.KeepAsync(note, stop), tell) { Browser = browser };
        await journal.ReplayAsync(round.Replay, stop);
        try
        {
            await round.RunAsync(stop);
        }
        finally
        {
            await journal.CloseAsync();
        }

        var report = SweepReporting.ReportOf(journal, site, round, targets, leftOut, time.GetUtcNow());
        report = report with { Warnings = SweepReporting.Warnings(site, round, report, targets, pace, fault) };
        await store.KeepSweepAsync(
            new StoredSweep(report.Id, report.StartedAt, report.EndedAt, report.By, report.Leaks, JsonSerializer.Serialize(report, Written)), stop);
        log.LogInformation("Swept {Addresses} addresses with {Requests} requests: {Leaks} leaks", report.Addresses, report.Requests, report.Leaks);
        return report;
    }

    /// <summary>A browser to draw pages in, or why there is none.</summary>
    private async Task<(SweepBrowser? Browser, string? Fault)> BrowserAsync(SweepSite site, SweepPace pace)
    {
        if (pace.IsPart || pace.Draws == 0 || SweepBrowser.Find(options.SweepBrowser) is not { } path)
        {
            return (null, null);
        }

        try
        {
            return (await SweepBrowser.OpenAsync(path, site.Http, url => outbound.Refuses(url) is null), null);
        }
        catch (Exception fault)
        {
            // Not there, no right to run it, no sandbox to be had: whatever it is, the sweep does without.
            log.LogWarning(fault, "The browser {Path} does not start: no page is drawn", path);
            return (null, path);
        }
    }

    private Outcome<Uri> Address(string field, string text) =>
        !Uri.TryCreate(text.Trim(), UriKind.Absolute, out var url) || url.Scheme is not ("http" or "https") || url.AbsolutePath != "/"
            ? Problem.In(field, "sweep-address", text)
        : outbound.Refuses(url) is { } refused ? refused with { Faults = [new Fault(field, refused.Detail)] } : url;
}
