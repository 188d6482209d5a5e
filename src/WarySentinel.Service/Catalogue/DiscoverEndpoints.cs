using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.Catalogue;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Access;
using WarySentinel.Service.Nodes;
using WarySentinel.Service.Web;
using Rules = WarySentinel.Core.Catalogue;
using Wire = WarySentinel.Contract;

namespace WarySentinel.Service.Catalogue;

/// <summary>Lets the catalogue come in by itself: from sitemap, feed, or the site's own pages.</summary>
public sealed class DiscoverEndpoints(
    PolicyHolder policies, Outbound outbound, IHttpClientFactory clients, Leases leases, ServiceOptions options, TimeProvider time)
{
    private const int MostChanges = 500;
    private const int MostFinds = 8;
    private const int MostAsked = 20_000;
    private const int TellEvery = 100_000;
    private static readonly TimeSpan FindLasts = TimeSpan.FromMinutes(30);
    private readonly ConcurrentDictionary<Guid, (IReadOnlyList<Rules.ItemDraft> Rows, DateTimeOffset Until)> finds = new();

    /// <summary>Maps the endpoints.</summary>
    public void Map(RouteGroupBuilder api)
    {
        var items = api.MapGroup("/items/discover").WithTags("Items");
        items.MapPost("/", Discover).Requires("write").Accepts<DiscoverDraft>("application/json").Produces<DiscoverLine>(200, "application/x-ndjson");
        items.MapPost("/file", DiscoverFile).Requires("write").Takes(long.MaxValue).Accepts<string>("application/xml", "text/plain")
            .Produces<DiscoverLine>(200, "application/x-ndjson");
        items.MapPost("/{find:guid}/store", StoreAsync).Requires("write");
    }

    private Task Discover(DiscoverDraft draft, HttpContext http) => Lines.StreamAsync<DiscoverLine>(
        http,
        async (tell, stop) =>
        {
            var faults = new List<Fault>();
            var rules = (draft.Map ?? []).Select(m => KindRule.Read(m, faults)).OfType<KindRule>().ToList();
            var start = StartOf(draft, faults);
            if (start is null || faults.Count > 0)
            {
                tell(new DiscoverLine("failed", 0, 0, Detail: faults[0].Message.ToReader()));
                return;
            }

            try
            {
                using var fetcher = new Fetcher(outbound, clients, TimeSpan.FromSeconds(options.FetchSeconds));
                var hosts = new SiteHosts(options, start, draft.SameAs);
                tell(draft.Source == "walk" ? await WalkAsync(draft, fetcher, start, hosts, rules, tell, stop)
                    : Told(await ReadAsync(fetcher, start, hosts, (done, total) => tell(new DiscoverLine("reading", done, total)), stop), rules, true, hosts));
            }
            catch (SourceException fault)
            {
                tell(new DiscoverLine("failed", 0, 0, Detail: fault.Said.ToReader()));
            }
        },
        detail => new DiscoverLine("failed", 0, 0, Detail: detail));

    /// <summary>Where it begins; faults go to the list.</summary>
    private Uri? StartOf(DiscoverDraft draft, List<Fault> faults)
    {
        var begin = draft.Url is { Length: > 0 } said ? said : options.Origin.Length > 0
            ? options.Origin.TrimEnd('/') + (draft.Source == "sitemap" ? "/sitemap.xml" : "/") : "";
        if (!Uri.TryCreate(begin, UriKind.Absolute, out var start) || start.Scheme is not ("http" or "https"))
        {
            faults.Add(new Fault("url", Wording.Of("discover.url", begin)));
        }
        else if (outbound.Refuses(start) is { } foreign)
        {
            faults.AddRange(foreign.Faults);
        }

        if (draft.Source is not ("sitemap" or "feed" or "walk"))
        {
            faults.Add(new Fault("source", Wording.Of("problem.not-one-of", draft.Source, "sitemap, feed, walk")));
        }

        return start;
    }

    /// <summary>What a sitemap or a feed names, by the titles that its pages have.</summary>
    private async Task<IReadOnlyList<DiscoveredItem>> ReadAsync(Fetcher fetcher, Uri start, SiteHosts hosts, Action<int, int> tell, CancellationToken stop)
    {
        var (policy, found) = (policies.Current, await XmlSources.FetchAsync(fetcher, start, hosts.PathOf, tell, stop));
        bool IsKnown(string address) => RequestPath.TryNormalise(address, policy.Settings.Paths, out var path, out _)
            && policy.ItemsAt(path).Any(i => i.Addresses.Any(a => !a.IsPattern && a.Text == address));
        return await new SitemapTitles(fetcher, start).ReadAsync(found, IsKnown, tell, stop);
    }

    private async Task<DiscoverLine> WalkAsync(
        DiscoverDraft draft, Fetcher fetcher, Uri start, SiteHosts hosts, List<KindRule> rules, Action<DiscoverLine> tell, CancellationToken stop)
    {
        var bounds = new WalkBounds(
            Math.Clamp(draft.MostPages ?? 2000, 1, 100_000), TimeSpan.FromMilliseconds(Math.Clamp(draft.PauseMilliseconds ?? 200, 0, 60_000)),
            draft.Pages == true);
        await using var lease = await leases.TakeAsync("walk:" + start.Authority, stop) ?? throw new SourceException(Wording.Of("discover.walking"));
        var (state, whole) = await new SiteWalk(fetcher, start, hosts.PathOf, WalkFile(start))
            .RunAsync(bounds, draft.Resume == true, (done, total) => tell(new DiscoverLine("walking", done, total)), lease.Stop);
        return Told(PageTitles.WithoutSiteName(state.Found), rules, whole, null, state.Answered);
    }

    private Task DiscoverFile(
        HttpContext http, [Microsoft.AspNetCore.Mvc.FromQuery] string[]? map = null, [Microsoft.AspNetCore.Mvc.FromQuery] string[]? sameAs = null,
        string? source = null, int? least = null) => Lines.StreamAsync<DiscoverLine>(
        http,
        async (tell, stop) =>
        {
            var faults = new List<Fault>();
            var rules = (map ?? []).Select(m => KindRule.Read(m, faults)).OfType<KindRule>().ToList();
            if (source is not (null or "xml" or "log"))
            {
                faults.Add(new Fault("source", Wording.Of("problem.not-one-of", source, "xml, log")));
            }

            if (faults.Count > 0)
            {
                tell(new DiscoverLine("failed", 0, 0, Detail: faults[0].Message.ToReader()));
                return;
            }

            try
            {
                await using var body = await Spool.ReadAsync(http, options.Data, options.ImportMaxBytes) ?? throw new SourceException(
                    Wording.Of("discover.too-large", options.ImportMaxBytes >> 20));
                await using var plain = await Fetcher.UnpackAsync(body, stop);
                if (source == "log")
                {
                    tell(await LogAsync(plain, rules, Math.Clamp(least ?? 2, 1, 1_000_000), tell, stop));
                    return;
                }

                var hosts = new SiteHosts(options, null, sameAs);
                var (found, further) = XmlSources.Read(plain, hosts.PathOf);
                tell(further.Count > 0 ? new DiscoverLine("failed", 0, 0, Detail: Wording.Of("discover.index-file").ToReader())
                    : Told(found, rules, true, hosts));
            }
            catch (SourceException fault)
            {
                tell(new DiscoverLine("failed", 0, 0, Detail: fault.Said.ToReader()));
            }
        },
        detail => new DiscoverLine("failed", 0, 0, Detail: detail));

    /// <summary>What people ask for by a web server's log, and the catalogue lacks.</summary>
    private async Task<DiscoverLine> LogAsync(Stream plain, List<KindRule> rules, int least, Action<DiscoverLine> tell, CancellationToken stop)
    {
        var asked = new AskedAddresses(policies.Current.Graph, options.Reserved);
        using var reader = new StreamReader(plain, Encoding.UTF8);
        while (await reader.ReadLineAsync(stop) is { } line)
        {
            asked.Add(line);
            if (asked.Lines % TellEvery == 0)
            {
                tell(new DiscoverLine("reading", asked.Lines, asked.Lines));
            }
        }

        if (asked.Unreadable * 2 > asked.Lines)
        {
            throw new SourceException(Wording.Of("discover.log-form", asked.Unreadable, asked.Lines));
        }

        var lacking = asked.Lacking(least);
        var told = Told([.. lacking.Take(MostAsked).Select(a => new DiscoveredItem(a.Address, null, null))], rules, false);
        return told with
        {
            Result = told.Result! with
            {
                Whole = true,
                Asked = [.. lacking.Take(MostChanges).Select(a => new Wire.Catalogue.AskedAddress(a.Address, a.Times))],
                Lines = asked.Lines,
                Requests = asked.Counted,
            },
        };
    }

    private async Task<Results<Ok<Wire.Catalogue.ImportResult>, ProblemHttpResult>> StoreAsync(Guid find, HttpContext http, CancellationToken stop)
    {
        if (!finds.TryGetValue(find, out var kept) || kept.Until < time.GetUtcNow())
        {
            return Problem.Of(ProblemKind.NotFound, "find-unknown").ToHttp();
        }

        var stored = await policies.ChangeAsync<Rules.ImportResult>(
            policy =>
            {
                var (result, edit) = ItemCommands.Import(policy.Graph, kept.Rows, [], true, options.Reserved);
                return Task.FromResult<Outcome<Edit<Rules.ImportResult>>>(new Edit<Rules.ImportResult>(edit ?? new Edit("item.import", "", []), result));
            },
            Caller.Of(http).Name, stop);
        finds.TryRemove(find, out _);
        return stored.Match<Results<Ok<Wire.Catalogue.ImportResult>, ProblemHttpResult>>(
            result => TypedResults.Ok(result.ToWire()), problem => problem.ToHttp());
    }

    private DiscoverLine Told(
        IReadOnlyList<DiscoveredItem> found, IReadOnlyList<KindRule> rules, bool whole, SiteHosts? hosts = null, IReadOnlyList<string>? seen = null)
    {
        if (found.Count == 0 && hosts?.Elsewhere is { Count: > 0 } elsewhere)
        {
            throw new SourceException(Wording.Of("discover.other-host", elsewhere.Sum(e => e.Addresses), elsewhere[0].Host));
        }

        var policy = policies.Current;
        var (rows, vanished) = Discovery.Run(
            policy.Graph, [.. found.Where(f => f.Address is null || !options.Reserved.Any(r => RequestPath.IsUnder(f.Address.Split('?')[0], r)))], rules,
            whole, seen);
        var (result, edit) = ItemCommands.Import(policy.Graph, rows, [], true, options.Reserved);
        var changes = (edit?.Changes.OfType<ItemsPut>().SelectMany(p => p.Items) ?? []).Select(item =>
        {
            var old = policy.Graph.Find(item.Id);
            return new Wire.SiteChange("items", item.Id.ToString(), old is null ? "added" : "changed", old is null ? []
                : Detail.ChangesOf(Detail.Of(Rules.ItemDraft.Of(old), Rules.ItemDraft.Of(item))).ToWire());
        });
        var find = Guid.NewGuid();
        foreach (var old in finds.OrderBy(p => p.Value.Until).Take(Math.Max(0, finds.Count - MostFinds + 1)).ToList())
        {
            finds.TryRemove(old.Key, out _);
        }

        finds[find] = (rows, time.GetUtcNow() + FindLasts);
        var total = result.Added + result.Changed;
        return new DiscoverLine("done", found.Count, found.Count, new DiscoverResult(
            find, found.Count, whole, result.ToWire() with { Stored = false }, [.. changes.Take(MostChanges)], Math.Max(0, total - MostChanges),
            [.. vanished.Take(MostChanges).Select(id => policy.Graph.Find(id)!.ToName())])
        { Elsewhere = [.. hosts?.Elsewhere ?? []] });
    }

    private string WalkFile(Uri start) =>
        Path.Combine(options.Data, "walks",
            Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(start.GetLeftPart(UriPartial.Authority))).AsSpan(0, 8)) + ".json");
}
