using System.Collections.Concurrent;
using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using WarySentinel.Contract.Sweep;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Sweep;
using WarySentinel.Service.Access;
using WarySentinel.Service.Letters;
using WarySentinel.Service.Nodes;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Sweep;

/// <summary>Requests every guarded address as an outsider would and as chosen viewpoints, and compares with what the policy decides.</summary>
public sealed class SweepRunner(
    PolicyHolder policies, Viewpoints viewpoints, Sessions sessions, Store store, PeopleLane people, Leases leases, Envelopes envelopes, Outbound outbound,
    IHttpClientFactory clients, ServiceOptions options, TimeProvider time, ILogger<SweepRunner> log)
{
    /// <summary>How reports are kept and sent.</summary>
    public static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web) { DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };

    private const int UsualMost = 5000;
    private const int MostUnknown = 200;
    private const int MostTextBytes = 4 << 20;
    private const int AtOnce = 6;

    private sealed record Probe(SweepVia Via, Uri Base, SeenAs As, string? Cookie);

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
            if (plan.AlertTo is { } to)
            {
                var name = policies.Current.Settings.SiteName;
                var lines = report.Findings.Where(f => f.IsLeak).Take(20).Select(f => $"- {f.Address} ({f.As}): {f.What}");
                var page = options.AdminUrl.TrimEnd('/') + "/sweep";
                var more = report.Leaks > 20 ? PageWords.Of("mail.sweep-more", report.Leaks - 20, page) : PageWords.Of("mail.sweep-all", page);
                var message = envelopes.Queue(
                    to, PageWords.Of("mail.sweep-subject", name, report.Leaks),
                    string.Join('\n', [PageWords.Of("mail.sweep-lead", name), "", .. lines, "", more]));
                await people.ChangeAsync(
                    new Edit<int>(new Edit("sweep.alert", to, [message], null, report.Leaks.ToString(CultureInfo.InvariantCulture)), report.Leaks), "schedule");
            }
        }
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

        var seen = new List<(SeenAs As, string? Cookie)>();
        var begun = new List<Guid>();
        try
        {
            foreach (var key in new[] { "guest" }.Concat(draft.As ?? []).Distinct())
            {
                var found = await viewpoints.FindAsync(key, policy, false, stop);
                if (found.Problem is { } problem)
                {
                    return problem with { Faults = [new Fault("as", problem.Detail)] };
                }

                if (key == "guest")
                {
                    seen.Add((found.Value, null));
                    continue;
                }

                var (session, cookie) = await sessions.BeginViewAsync(key, stop);
                begun.Add(session);
                seen.Add((found.Value, cookie));
            }

            var probes = new List<Probe>();
            foreach (var (via, address) in new[] { (SweepVia.Public, site.Value), (SweepVia.Cache, cache?.Value) })
            {
                probes.AddRange(address is null ? [] : seen.Select(s => new Probe(via, address, s.As, s.Cookie)));
            }

            if (origin is { } around)
            {
                probes.Add(new Probe(SweepVia.Origin, around.Value, seen[0].As, null));
            }

            return await AskAllAsync(policy, draft, by, started, probes, [.. seen.Select(s => s.As.Key)], site.Value, tell, stop);
        }
        finally
        {
            foreach (var session in begun)
            {
                await sessions.EndAsync(session);
            }
        }
    }

    private async Task<SweepReport> AskAllAsync(
        Policy policy, SweepDraft draft, string by, DateTimeOffset started, List<Probe> probes, IReadOnlyList<string> names, Uri site,
        Action<SweepLine> tell, CancellationToken stop)
    {
        var now = time.GetUtcNow();
        var (targets, leftOut) = SweepRules.Targets(policy, now, Math.Clamp(draft.Most ?? UsualMost, 1, 200_000));
        var hosts = probes.Select(p => p.Base.Authority).Append(new Uri(options.SiteUrl).Authority).ToHashSet(StringComparer.OrdinalIgnoreCase);
        if (options.Origin.Length > 0)
        {
            hosts.Add(new Uri(options.Origin).Authority);
        }

        using var http = clients.CreateClient(OwnRequests.Sweep);
        var findings = new ConcurrentDictionary<(SweepKind, string, string, SweepVia), SweepFinding>();
        var unknown = new ConcurrentDictionary<string, bool>(StringComparer.Ordinal);
        var (done, requests) = (0, 0);
        async Task OneAsync(SweepTarget target, int total, CancellationToken cancel)
        {
            // Guest first and last: a shared cache that keeps what it was first given betrays itself in one order or the other.
            foreach (var probe in probes.Concat(probes.AsEnumerable().Reverse()))
            {
                var answer = await AskAsync(http, probe, target.Address, cancel);
                Interlocked.Increment(ref requests);
                foreach (var finding in SweepRules.Judge(policy, probe.As.Visitor, probe.As.Key, target, probe.Via, answer, hosts, options.Reserved, now))
                {
                    findings.TryAdd((finding.Kind, finding.Address, finding.As, finding.Via), finding);
                }

                if (probe.Via == SweepVia.Public && answer is { Status: 200, Text: { } text })
                {
                    SweepRules.Unknown(policy, text, target.Address, hosts, options.Reserved).Take(MostUnknown - unknown.Count).ToList()
                        .ForEach(address => unknown.TryAdd(address, true));
                }
            }

            tell(new SweepLine("asking", Interlocked.Increment(ref done), total, LeaksIn(findings.Values)));
        }

        async Task SpellAsync(SweepTarget target, CancellationToken cancel)
        {
            foreach (var probe in probes.Where(p => p.As.Key == "guest" && p.Via != SweepVia.Origin))
            {
                Interlocked.Add(ref requests, await SpellingsAsync(http, policy, probe, target, now, findings, cancel));
            }
        }

        var parallel = new ParallelOptions { MaxDegreeOfParallelism = AtOnce, CancellationToken = stop };
        await Parallel.ForEachAsync(targets, parallel, async (target, cancel) => await OneAsync(target, targets.Count, cancel));
        await Parallel.ForEachAsync(targets.Where(t => t.Guarded), parallel, async (target, cancel) => await SpellAsync(target, cancel));
        var beside = unknown.Keys.Where(a => targets.All(t => t.Address != a)).Order(StringComparer.Ordinal)
            .Select(a => new SweepTarget(a, null, RequestPath.TryNormalise(a, policy.Settings.Paths, out var path, out _)
            && policy.Judge(Visitor.Guest, path, now).Guarded)).ToList();
        await Parallel.ForEachAsync(beside, parallel, async (target, cancel) => await OneAsync(target, targets.Count + beside.Count, cancel));

        var counts = new SweepCounts(targets.Count + beside.Count, targets.Count(t => t.Guarded), requests, leftOut);
        var report = ReportOf(
            [.. findings.Values.Where(f => f.Kind != SweepKind.Missing || beside.All(b => b.Address != f.Address))], counts, started, by, probes, names, site,
            LeaksIn(findings.Values));
        await store.KeepSweepAsync(new StoredSweep(report.Id, report.StartedAt, report.EndedAt, by, report.Leaks, JsonSerializer.Serialize(report, Written)),
            stop);
        log.LogInformation("Swept {Addresses} addresses with {Requests} requests: {Leaks} leaks", report.Addresses, report.Requests, report.Leaks);
        return report;
    }

    /// <summary>Asks for a closed address in other spellings. What is given out for a made-up address too says nothing.</summary>
    private static async Task<int> SpellingsAsync(
        HttpClient http, Policy policy, Probe probe, SweepTarget target, DateTimeOffset now,
        ConcurrentDictionary<(SweepKind, string, string, SweepVia), SweepFinding> findings, CancellationToken stop)
    {
        if (!RequestPath.TryNormalise(target.Address, policy.Settings.Paths, out var path, out _) || policy.Allows(probe.As.Visitor, path, Acts.Open, now))
        {
            return 0;
        }

        var requests = 0;
        Sighting? madeUp = null;
        foreach (var spelling in SweepRules.Spellings(policy, target))
        {
            var answer = await AskAsync(http, probe, spelling, stop);
            requests++;
            if (answer.Status is < 200 or >= 300)
            {
                continue;
            }

            // Some sites answer everything with one and the same page.
            if (madeUp is null)
            {
                madeUp = await AskAsync(http, probe, $"{path.Sent.TrimEnd('/')}-{Guid.NewGuid():N}", stop);
                requests++;
            }

            if (madeUp.Status == answer.Status && madeUp.Text == answer.Text)
            {
                continue;
            }

            var finding = SweepRules.Spelled(policy, target, spelling, probe.As.Key, probe.Via, answer.Status, now);
            findings.TryAdd((finding.Kind, finding.Address, finding.As, finding.Via), finding);
        }

        return requests;
    }

    /// <summary>How many things leak: one that several viewpoints find is one.</summary>
    private static int LeaksIn(IEnumerable<SweepFinding> findings) => findings.Where(f => f.IsLeak).Select(f => (f.Kind, f.Address, f.Via)).Distinct().Count();

    private static async Task<Sighting> AskAsync(HttpClient http, Probe probe, string address, CancellationToken stop)
    {
        var url = new Uri(probe.Base.GetLeftPart(UriPartial.Authority) + address, new UriCreationOptions
        { DangerousDisablePathAndQueryCanonicalization = true });
        using var request = new HttpRequestMessage(HttpMethod.Get, url);
        request.Headers.TryAddWithoutValidation("Accept", "text/html,application/xhtml+xml,*/*;q=0.8");
        request.Headers.TryAddWithoutValidation("User-Agent", "wary-sweep");
        if (probe.Cookie is not null)
        {
            request.Headers.TryAddWithoutValidation("Cookie", probe.Cookie);
        }

        try
        {
            using var response = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop);
            var type = response.Content.Headers.ContentType?.MediaType ?? "";
            var isText = type.StartsWith("text/", StringComparison.Ordinal) || type.Contains("json", StringComparison.Ordinal)
                || type.Contains("xml", StringComparison.Ordinal) || type.Contains("javascript", StringComparison.Ordinal);
            var text = isText && response.IsSuccessStatusCode ? await ReadAsync(response.Content, stop) : null;
            var control = response.Headers.TryGetValues("Cache-Control", out var values) ? string.Join(", ", values) : "";
            return new Sighting((int)response.StatusCode, control, response.Headers.Location?.OriginalString, text);
        }
        catch (Exception fault) when (fault is HttpRequestException or IOException or InvalidDataException
            || (fault is OperationCanceledException && !stop.IsCancellationRequested))
        {
            return new Sighting(0);
        }
    }

    private static async Task<string> ReadAsync(HttpContent content, CancellationToken stop)
    {
        await using var stream = await content.ReadAsStreamAsync(stop);
        using var kept = new MemoryStream();
        var buffer = new byte[64 * 1024];
        int read;
        while (kept.Length < MostTextBytes && (read = await stream.ReadAsync(buffer, stop)) > 0)
        {
            kept.Write(buffer, 0, read);
        }

        return Encoding.UTF8.GetString(kept.GetBuffer(), 0, (int)kept.Length);
    }

    private Outcome<Uri> Address(string field, string text) =>
        !Uri.TryCreate(text.Trim(), UriKind.Absolute, out var url) || url.Scheme is not ("http" or "https") || url.AbsolutePath != "/"
            ? Problem.In(field, "sweep-address", text)
        : outbound.Refuses(url) is { } refused ? refused with { Faults = [new Fault(field, refused.Detail)] } : url;

    private sealed record SweepCounts(int Addresses, int Guarded, int Requests, int LeftOut);

    /// <summary>What was found, leaks first.</summary>
    private SweepReport ReportOf(
        IReadOnlyList<SweepFinding> found, SweepCounts counts, DateTimeOffset started, string by, List<Probe> probes, IReadOnlyList<string> names, Uri site,
        int leaks)
    {
        var sorted = found.OrderByDescending(f => f.IsLeak).ThenBy(f => f.Kind).ThenBy(f => f.Address, StringComparer.Ordinal).ThenBy(f => f.Via)
            .ThenBy(f => f.As, StringComparer.Ordinal).Select(ToWire).ToList();
        return new SweepReport(
            Guid.CreateVersion7(), started, time.GetUtcNow(), by, site.GetLeftPart(UriPartial.Authority),
            probes.Find(p => p.Via == SweepVia.Origin)?.Base.GetLeftPart(UriPartial.Authority),
            probes.Find(p => p.Via == SweepVia.Cache)?.Base.GetLeftPart(UriPartial.Authority), names, counts.Addresses, counts.Guarded, counts.Requests,
            counts.LeftOut, leaks, sorted.Count(f => f.Kind == "closed"), sorted.Count(f => f.Kind == "missing"), sorted);
    }

    private static SweepFindingView ToWire(SweepFinding finding) => new(
        finding.Kind.ToString().ToLowerInvariant(), finding.IsLeak, finding.Address, finding.Item, finding.As, finding.Via.ToString().ToLowerInvariant(),
        finding.Gate, finding.What, finding.Mend);
}
