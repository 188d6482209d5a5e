using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Gates;

/// <summary>Changes the settings of the site.</summary>
public static class SettingsCommands
{
    /// <summary>Stores settings. A problem when they are not right, changed meanwhile, or would keep every owner out.</summary>
    public static Outcome<Edit<SiteSettings>> Set(Policy policy, SiteSettings wanted, int? version, GateSurroundings around)
    {
        if (version is not null && version != policy.Settings.Version)
        {
            return Problem.Of(ProblemKind.Stale, "stale", "settings");
        }

        var faults = new List<Fault>();
        void Bad(string field, string code, params object?[] values) => faults.Add(new Fault(field, Words.Of("problem." + code, values)));
        if (string.IsNullOrWhiteSpace(wanted.SiteName) || wanted.SiteName.Length > 120 || !PlainText.IsClean(wanted.SiteName))
        {
            Bad("siteName", "title-length", 120);
        }

        foreach (var (field, colour) in new[] { ("look.accent", wanted.Look.Accent), ("look.background", wanted.Look.Background),
            ("look.sky", wanted.Look.Sky) })
        {
            if (!(colour is null && field == "look.sky") && !IsColour(colour))
            {
                Bad(field, "colour-form", colour);
            }
        }

        if (wanted.Look.Logo is not null && !ReturnTo.IsOnThisSite(wanted.Look.Logo))
        {
            Bad("look.logo", "redirect-form");
        }

        if (wanted.Look.Links.Count > 12
            || wanted.Look.Links.Any(l => !ReturnTo.IsOnThisSite(l.Address) || string.IsNullOrWhiteSpace(l.Words) || l.Words.Length > 60
            || !PlainText.IsClean(l.Words)))
        {
            Bad("look.links", "links-form");
        }

        if (wanted.Prompt?.Wrong() is { } wrong)
        {
            Bad("prompt." + wrong, "prompt-length");
        }

        foreach (var crawler in wanted.Crawlers)
        {
            if (string.IsNullOrWhiteSpace(crawler.Name) || crawler.Name.Length > 80 || !PlainText.IsClean(crawler.Name)
                || crawler.Hosts.Count + crawler.Ranges.Count == 0)
            {
                Bad("crawlers", "crawler-form");
            }

            foreach (var host in crawler.Hosts.Where(h => h.Trim('.').Split('.').Length < 2 || Uri.CheckHostName(h.Trim('.')) != UriHostNameType.Dns))
            {
                Bad("crawlers", "crawler-host", host);
            }

            foreach (var range in crawler.Ranges.Where(r => !System.Net.IPNetwork.TryParse(r, out _)))
            {
                Bad("crawlers", "crawler-range", range);
            }
        }

        if (wanted.Crawlers.Count > 50)
        {
            Bad("crawlers", "crawler-many", 50);
        }

        if (wanted.Sweep.EveryHours is < 0 or > 24 * 90)
        {
            Bad("sweep.everyHours", "sweep-hours", 24 * 90);
        }

        if (wanted.Sweep.AlertTo is { } mail && EmailAddress.Normalise(mail) is null)
        {
            Bad("sweep.alertTo", "email-form", mail);
        }

        foreach (var viewpoint in wanted.Sweep.As ?? [])
        {
            if (!viewpoint.Contains('@', StringComparison.Ordinal) && Viewpoint.Find(policy, viewpoint).Problem is { } unknown)
            {
                faults.Add(new Fault("sweep.as", unknown.Detail));
            }
        }

        if (!SiteDates.IsZone(wanted.TimeZone))
        {
            Bad("timeZone", "time-zone", wanted.TimeZone);
        }

        if (wanted.Paths.IndexNames.Count > PathRules.MostIndexNames || wanted.Paths.IndexNames.FirstOrDefault(n => !IsFileName(n)) is not null)
        {
            Bad("paths.indexNames", "index-names", PathRules.MostIndexNames);
        }

        if (faults.Count > 0)
        {
            return new Problem(ProblemKind.Invalid, "settings-invalid", faults[0].Message, faults);
        }

        var settings = wanted with { Prompt = PromptWords.Tidy(wanted.Prompt), Version = policy.Settings.Version + 1 };
        var edit = new Edit("settings.set", "settings", [new SettingsPut(settings)]) { Detail = Detail.Of(policy.Settings, settings) };
        var after = policy.TryAfter(edit);
        return after.Problem ?? GateCommands.LocksOut(policy, after.Value, around)
            ?? (Outcome<Edit<SiteSettings>>)new Edit<SiteSettings>(new CompiledEdit(edit, after.Value), settings);
    }

    private static bool IsFileName(string name) =>
        name.Length is > 0 and <= 60 && name.All(c => char.IsAsciiLetterOrDigit(c) || c is '.' or '_' or '-') && name.Any(char.IsAsciiLetterOrDigit);

    private static bool IsColour(string? text) => text is { Length: 7 } && text[0] == '#' && text.Skip(1).All(char.IsAsciiHexDigit);
}
