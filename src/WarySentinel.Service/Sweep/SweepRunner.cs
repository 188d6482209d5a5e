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

    private const int UsualMost = 5000;
    private const int UsualAtOnce = 8;
    private const int MostAtOnce = 64;
    private const int MostTold = 20;
    private const double MostMissing = 0.8;
    private const string Guest = "guest";

    /// <summary>Runs a sweep, tells how far it is, keeps the report.</summary>
    public async Task<Outcome<SweepReport>> RunAsync(SweepDraft draft, string by, Action<SweepLine> tell, CancellationToken stop)
    {
        await using var lease = await leases.TakeAsync("sweep", stop);
        return lease is null ? Problem.Of(ProblemKind.Conflict, "sweep-running") : await OnceAsync(draft, by, tell, lease.Stop);
    }

    /// <summary>Runs the sweep of the settings when its time has come, and raises an alert when it finds leaks.</summary>
    public async Task RunDueAsync(CancellationToken stop)
    {
        var plan = policies.Current.Settings.Sweep;
        if (plan.EveryHours <= 0 || !await store.TakeTurnAsync("sweep", time.GetUtcNow().AddHours(-plan.EveryHours), stop))
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

    private async Task<Outcome<SweepReport>> OnceAsync(SweepDraft draft, string by, Action<SweepLine> tell, CancellationToken stop)
    {
        var (policy, started) = (policies.Current, time.GetUtcNow());
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

            return await AskAllAsync(policy, draft, by, started, Probes(site.Value, cache?.Value, origin?.Value, seen), tell, stop);
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

    private async Task<SweepReport> AskAllAsync(
        Policy policy, SweepDraft draft, string by, DateTimeOffset started, List<SweepProbe> probes, Action<SweepLine> tell, CancellationToken stop)
    {
        var now = time.GetUtcNow();
        var (targets, leftOut) = SweepRules.Targets(policy, now, Math.Clamp(draft.Most ?? UsualMost, 1, 200_000));
        targets = draft.Gate is null ? targets : [.. targets.Where(t => SweepRules.IsBy(policy, t, draft.Gate, now))];
        var hosts = probes.Select(p => p.Base.Authority).Concat(options.Authorities).ToHashSet(StringComparer.OrdinalIgnoreCase);
        var round = new SweepRound(policy, now, probes, hosts, options.Reserved, tell)
        {
            // What the site says of itself, to tell what is left of it: never judged, and only where the service may fetch from.
            AtOnce = Math.Clamp(draft.AtOnce ?? UsualAtOnce, 1, MostAtOnce), IsPart = draft.Gate is not null,
            Own = options.Origin.Length == 0 ? null : new SweepProbe(SweepVia.Origin, new Uri(options.Origin), probes[0].As, null),
        };
        using var http = clients.CreateClient(OwnRequests.Sweep);
        await round.RunAsync(http, targets, stop);
        var counts = new SweepCounts(targets.Count + round.Beside, targets.Count(t => t.Guarded), round.Requests, leftOut);
        var report = ReportOf(round.Findings, counts, started, by, probes, round.Leaks);
        report = report with { Warnings = Warnings(policy, now, round, report, targets) };
        await store.KeepSweepAsync(
            new StoredSweep(report.Id, report.StartedAt, report.EndedAt, by, report.Leaks, JsonSerializer.Serialize(report, Written)), stop);
        log.LogInformation("Swept {Addresses} addresses with {Requests} requests: {Leaks} leaks", report.Addresses, report.Requests, report.Leaks);
        return report;
    }

    /// <summary>Where it proved less than it seems, or nothing.</summary>
    private static List<string> Warnings(Policy policy, DateTimeOffset now, SweepRound round, SweepReport report, IReadOnlyList<SweepTarget> targets)
    {
        List<string> all = [.. SweepRules.Unseen(policy, now).Where(_ => !round.IsPart).Select(g => Words.Of("sweep.warn-gate", g.Title, g.Key))];
        if (report.Guarded == 0)
        {
            all.Insert(0, Words.Of("sweep.warn-none"));
        }

        if (!round.HasAnswer)
        {
            all.Insert(0, Words.Of("sweep.warn-answer", report.Site));
        }
        else if (report.Missing > targets.Count * MostMissing)
        {
            all.Insert(0, Words.Of("sweep.warn-missing", report.Missing, targets.Count));
        }

        all.AddRange(report.Guarded > 0 && round.Learned == 0 ? [Words.Of("sweep.warn-words")] : []);
        all.AddRange(round.LeftBeside > 0 ? [Words.Of("sweep.warn-left", round.LeftBeside, SweepTrail.Most)] : []);
        return all;
    }

    private Outcome<Uri> Address(string field, string text) =>
        !Uri.TryCreate(text.Trim(), UriKind.Absolute, out var url) || url.Scheme is not ("http" or "https") || url.AbsolutePath != "/"
            ? Problem.In(field, "sweep-address", text)
        : outbound.Refuses(url) is { } refused ? refused with { Faults = [new Fault(field, refused.Detail)] } : url;

    private sealed record SweepCounts(int Addresses, int Guarded, int Requests, int LeftOut);

    /// <summary>What was found, leaks first.</summary>
    private SweepReport ReportOf(
        IReadOnlyList<SweepFinding> found, SweepCounts counts, DateTimeOffset started, string by, List<SweepProbe> probes, int leaks)
    {
        string? Asked(SweepVia via) => probes.Find(p => p.Via == via)?.Base.GetLeftPart(UriPartial.Authority);
        var sorted = found.OrderByDescending(f => f.IsLeak).ThenBy(f => f.Kind).ThenBy(f => f.Address, StringComparer.Ordinal).ThenBy(f => f.Via)
            .ThenBy(f => f.As, StringComparer.Ordinal).Select(ToWire).ToList();
        return new SweepReport(
            Guid.CreateVersion7(), started, time.GetUtcNow(), by, Asked(SweepVia.Public)!, Asked(SweepVia.Origin), Asked(SweepVia.Cache),
            [.. probes.Where(p => p.Via == SweepVia.Public).Select(p => p.As.Key)], counts.Addresses, counts.Guarded, counts.Requests, counts.LeftOut, leaks,
            sorted.Count(f => f.Kind == "closed"), sorted.Count(f => f.Kind == "missing"), sorted);
    }

    private static SweepFindingView ToWire(SweepFinding finding) => new(
        finding.Kind.ToString().ToLowerInvariant(), finding.IsLeak, finding.Address, finding.Item, finding.As, finding.Via.ToString().ToLowerInvariant(),
        finding.Gate, finding.What, finding.Mend);
}
