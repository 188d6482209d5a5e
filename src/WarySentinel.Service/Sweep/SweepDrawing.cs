using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>Has pages drawn in a browser, as a guest meets them, and reads what their scripts add.</summary>
internal sealed class SweepDrawing(SweepSite site, SweepPrices prices, SweepBrowser browser)
{
    /// <summary>How many pages are drawn at once.</summary>
    public const int AtOnce = 3;

    private readonly SweepProbe guest = site.Probes.First(p => SweepSite.IsOutsider(p) && p.Via == SweepVia.Public);

    /// <summary>Draws a page.</summary>
    public async Task<SweepNote.Drawn> DrawAsync(SweepTarget target, SweepReading reading, SweepTrail trail, CancellationToken stop)
    {
        var raw = await guest.AskAsync(site.Http, target.Address, stop);
        var drawn = raw is { Status: 200, Text: not null } ? await browser.DrawAsync(guest.UrlOf(target.Address), stop) : null;
        if (drawn is null)
        {
            return new SweepNote.Drawn(target.Address, false, []) { Requests = 1 };
        }

        var (findings, read, leads) = (new List<SweepFinding>(), new List<SweepRead>(), new List<string>());
        findings.AddRange(Judge(target, drawn.Text));
        read.Add(reading.ReadDrawn(target, raw.Text!, drawn.Text));
        leads.AddRange(trail.New(drawn.Text, target.Address));
        foreach (var answer in drawn.Answers.Where(a => site.Hosts.Contains(a.Url.Authority)))
        {
            var asked = new SweepTarget(answer.Url.PathAndQuery, null, site.IsGuarded(answer.Url.PathAndQuery));
            leads.AddRange(answer.Method == "GET" ? [asked.Address] : []);
            if (answer.Seen is { Status: 200, Text: { } text })
            {
                var found = site.PathOf(asked.Address) is null ? []
                    : site.Judge(guest, asked, SweepVia.Browser, answer.Seen with { CacheControl = "no-store" }).ToList();
                findings.AddRange(found);
                read.AddRange(found.Exists(f => f.Kind == SweepKind.Reachable) ? []
                    : [reading.Read(asked, SweepVia.Browser, text, null) with { OpenTitles = [] }]);
            }
        }

        return new SweepNote.Drawn(target.Address, true, drawn.Elsewhere)
        {
            Findings = findings, Read = read, Leads = [.. leads.Distinct(StringComparer.Ordinal)],
            Prices = prices.In(guest, target, SweepVia.Browser, drawn.Text, null), Requests = 2 + drawn.Answers.Count,
        };
    }

    /// <summary>What is wrong with a page as it stands when its scripts are done. Its headers were judged when it was got.</summary>
    private IEnumerable<SweepFinding> Judge(SweepTarget target, string text) =>
        site.Judge(guest, target, SweepVia.Browser, new Sighting(200, "no-store", null, text)).Where(f => f.IsLeak);
}
