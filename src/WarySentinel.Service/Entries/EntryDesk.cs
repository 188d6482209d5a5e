using System.Text;
using WarySentinel.Contract.Entries;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Entries;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Markup;
using WarySentinel.Service.Access;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using EntryDraft = WarySentinel.Core.Entries.EntryDraft;

namespace WarySentinel.Service.Entries;

/// <summary>Looks at pages of the site for whoever says what an entry is: what looks like one, and what a rule would do.</summary>
public sealed class EntryDesk(
    PolicyHolder policies, Viewpoints viewpoints, Outbound outbound, IHttpClientFactory clients, ServiceOptions options, TimeProvider time)
{
    private const int MostSeen = 200;
    private const int MostStyleBytes = 500_000;

    /// <summary>Rules that could be made for an address.</summary>
    public async Task<Outcome<List<FoundEntries>>> ProposeAsync(string address, CancellationToken stop)
    {
        var policy = policies.Current;
        var fetched = await FetchAsync(address, stop);
        if (fetched.Problem is { } problem)
        {
            return problem;
        }

        var decider = DeciderFor(policy, Visitor.Guest, address);
        var (text, isPage) = (Encoding.UTF8.GetString(fetched.Value.Body), IsPage(fetched.Value));
        bool Leads(string href) => decider.PathOf(href) is not null;
        bool IsItem(string href) => href.IndexOfAny(['/', '?', '.']) >= 0 && decider.PathOf(href) is { } path
            && policy.ItemsAt(path).Any(i => i.Id != ItemId.Site && i.Id.Kind != ItemKind.Section);
        string? ItemOf(string key) => policy.Graph.WithKey(key).Select(id => id.ToString()).FirstOrDefault();
        if (isPage)
        {
            return new List<FoundEntries>([.. EntryFinder.OnPage(text, IsItem, Leads), .. EntryFinder.InScript(text, IsItem, ItemOf)]);
        }

        var data = EntryFinder.InData(fetched.Value.Body, IsItem, ItemOf);
        return new List<FoundEntries>(data.Count > 0 ? data : EntryFinder.InScript(text, IsItem, ItemOf));
    }

    /// <summary>What a rule would do at an address, for a viewpoint or a member.</summary>
    public async Task<Outcome<EntryTried>> TryAsync(EntryDraft draft, string address, string seenAs, CancellationToken stop)
    {
        var policy = policies.Current;
        // Where it will be for is no matter yet.
        var rule = (draft with { Key = draft.Key ?? "trial", At = draft.At is { Count: > 0 } ? draft.At : ["/"] }).Read();
        if (rule.Problem is { } fault)
        {
            return fault;
        }

        var who = await viewpoints.FindAsync(seenAs, policy, true, stop);
        if (who.Problem is { } unknown)
        {
            return unknown;
        }

        var fetched = await FetchAsync(address, stop);
        if (fetched.Problem is { } problem)
        {
            return problem;
        }

        var trial = new EntryTrying(policy, DeciderFor(policy, who.Value.Visitor, address));
        var seen = rule.Value.Card is { } card ? await trial.OnPageAsync(Encoding.UTF8.GetString(fetched.Value.Body), card, href => StylesAsync(href, stop))
            : trial.InData(fetched.Value.Body, rule.Value.Data!);
        if (seen is not (var entries, var page))
        {
            return Problem.In("address", "entry-no-data", address);
        }

        return new EntryTried(
            who.Value.Title, entries.Count(e => e.Fate == "goes"), entries.Count(e => e.Fate != "goes"), [.. entries.Take(MostSeen)], page);
    }

    private static bool IsPage(Fetched fetched) => fetched.Type is "text/html" or "application/xhtml+xml" or ""
        && !(Encoding.UTF8.GetString(fetched.Body.AsSpan(0, Math.Min(64, fetched.Body.Length))).TrimStart('\uFEFF', ' ', '\n', '\r', '\t') is ['{' or '[', ..]);

    private PageDecider DeciderFor(Policy policy, Visitor visitor, string address)
    {
        var site = new Uri(options.SiteUrl.Length > 0 ? options.SiteUrl : options.Origin);
        var http = new DefaultHttpContext { Request = { Scheme = site.Scheme, Host = new HostString(site.Authority) } };
        RequestPath.TryNormalise(address, policy.Settings.Paths, out var path, out _);
        return new PageDecider(new PageRequest(policy, new RequestIdentity(visitor, null), path!), http.Request, options, time.GetUtcNow(), true);
    }

    /// <summary>A style sheet of the site; empty where it cannot be had.</summary>
    private async Task<string> StylesAsync(string address, CancellationToken stop)
    {
        var fetched = await FetchAsync(address, stop);
        return fetched.IsGood && fetched.Value.Body.Length < MostStyleBytes ? Encoding.UTF8.GetString(fetched.Value.Body) : "";
    }

    private async Task<Outcome<Fetched>> FetchAsync(string address, CancellationToken stop)
    {
        var plain = address.Split('#')[0];
        if (!ReturnTo.IsOnThisSite(plain) || !RequestPath.TryNormalise(plain, policies.Current.Settings.Paths, out _, out _))
        {
            return Problem.In("address", "site-address", address);
        }

        try
        {
            using var fetcher = new Fetcher(outbound, clients, TimeSpan.FromSeconds(options.FetchSeconds));
            var fetched = await fetcher.GetAsync(new Uri(new Uri(options.Origin.Length > 0 ? options.Origin : options.SiteUrl), plain), stop);
            return fetched.Status == StatusCodes.Status200OK ? fetched : Problem.In("address", "redirect-dead", plain, fetched.Status);
        }
        catch (SourceException fault)
        {
            return Problem.In("address", "entry-unreachable", fault.Said);
        }
    }
}
