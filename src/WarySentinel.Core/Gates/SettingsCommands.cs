using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Gates;

/// <summary>Changes the settings of the site.</summary>
public static class SettingsCommands
{
    private static readonly System.Buffers.SearchValues<char> Quoting = System.Buffers.SearchValues.Create("\"'()\\<> \n");
    private const int MostDomains = 2000;
    private const int MostLinks = 12;
    private const int MostLanguages = 40;
    private const int MostCrawlers = 50;
    private const int MostHours = 24 * 90;

    /// <summary>Stores settings. A problem when they are not right, changed meanwhile, or would keep every owner out.</summary>
    public static Outcome<Edit<SiteSettings>> Set(Policy policy, SiteSettings wanted, int? version, GateSurroundings around)
    {
        if (version is not null && version != policy.Settings.Version)
        {
            return Problem.Of(ProblemKind.Stale, "stale", "settings");
        }

        var faults = new Faults();
        faults.Unless(IsTitle(wanted.SiteName, 120), "siteName", "title-length", 120);
        Look(wanted.Look, policy.Settings.Look, faults);
        if (wanted.Prompt?.Wrong() is { } wrong)
        {
            faults.Bad("prompt." + wrong, "prompt-length");
        }

        Crawlers(wanted.Crawlers, faults);
        Sweep(policy, wanted.Sweep, faults);
        faults.Unless(
            wanted.Letters.NoticesTo is null || EmailAddress.Normalise(wanted.Letters.NoticesTo) is not null, "letters.noticesTo", "email-form",
            wanted.Letters.NoticesTo);
        faults.Unless(Enum.IsDefined(wanted.Joining.Way), "joining.way", "not-one-of", "joining.way", string.Join(", ", JoinSettings.Ways));
        faults.Unless(
            Enum.IsDefined(wanted.HiddenWords), "hiddenWords", "not-one-of", "hiddenWords", string.Join(", ", HiddenWordsNames.All));
        if (wanted.Frame is { } frame)
        {
            faults.Unless(
                ReturnTo.IsOnThisSite(frame.Page) && !around.Reserved.Any(r => RequestPath.IsUnder(frame.Page, r)), "frame.page", "frame-page", frame.Page);
            faults.Unless(SitePlace.IsElement(frame.Element), "frame.element", "frame-element", frame.Element);
        }

        faults.Unless(
            wanted.OriginLearns.All(OriginFacts.All.Contains), "originLearns", "not-one-of",
            wanted.OriginLearns.FirstOrDefault(f => !OriginFacts.All.Contains(f)), string.Join(", ", OriginFacts.All));
        foreach (var (name, domains) in new[] { ("joining.blocked", wanted.Joining.Blocked), ("joining.trusted", wanted.Joining.Trusted) })
        {
            faults.Unless(domains.Count <= MostDomains, name, "form-approves-many", MostDomains);
            foreach (var bad in domains.Take(MostDomains).Where(d => EmailAddress.Normalise("a@" + d) is null).Take(10))
            {
                faults.Bad(name, "form-domain", bad);
            }
        }

        faults.Unless(SiteDates.IsZone(wanted.TimeZone), "timeZone", "time-zone", wanted.TimeZone);
        faults.Unless(Spelling.IsLanguage(wanted.Language), "language", "language", wanted.Language);
        faults.Unless(wanted.Languages.Count <= MostLanguages, "languages", "field-languages", MostLanguages);
        foreach (var odd in wanted.Languages.Where(l => !Spelling.IsLanguage(l)).Take(1))
        {
            faults.Bad("languages", "language", odd);
        }

        var names = wanted.Paths.IndexNames;
        faults.Unless(names.Count <= PathRules.MostIndexNames && names.All(IsFileName), "paths.indexNames", "index-names", PathRules.MostIndexNames);
        if (faults.Any)
        {
            return faults.ToProblem("settings-invalid");
        }

        var settings = wanted with { Prompt = PromptWords.Tidy(wanted.Prompt), Version = policy.Settings.Version + 1 };
        var edit = new Edit("settings.set", "settings", [new SettingsPut(settings)]) { Detail = Detail.Of(policy.Settings, settings) };
        var after = policy.TryAfter(edit);
        return after.Problem ?? GateCommands.LocksOut(policy, after.Value, around)
            ?? (Outcome<Edit<SiteSettings>>)new Edit<SiteSettings>(new CompiledEdit(edit, after.Value), settings);
    }

    private static void Look(SiteLook look, SiteLook old, Faults faults)
    {
        var isWritten = new[] { look.Accent, look.Background, look.Sky ?? look.Background, look.Night ?? look.Background }.All(IsColour);
        faults.Unless(IsColour(look.Accent), "look.accent", "colour-form", look.Accent);
        faults.Unless(IsColour(look.Background), "look.background", "colour-form", look.Background);
        faults.Unless(look.Sky is null || IsColour(look.Sky), "look.sky", "colour-form", look.Sky);
        faults.Unless(look.Night is null || IsColour(look.Night), "look.night", "colour-form", look.Night);
        faults.Unless(Enum.IsDefined(look.Theme), "look.theme", "not-one-of", "look.theme", "light, dark, auto");
        faults.Unless(Enum.IsDefined(look.Place), "look.place", "not-one-of", "look.place", "middle, start, end");
        faults.Unless(Enum.IsDefined(look.Type), "look.type", "not-one-of", "look.type", "serif, sans, device, site");
        faults.Unless(look.Font is null || (IsFile(look.Font) && SiteLook.IsFont(look.Font)), "look.font", "font-form");
        faults.Unless(look.Type != PageType.Site || look.Font is not null, "look.font", "font-missing");
        foreach (var (field, css, scope) in new[] { ("look.css", look.Css, StyleScope.Panel), ("look.hostedCss", look.HostedCss, StyleScope.Hosted) })
        {
            if (css is not null && OwnStyle.FaultOf(css, scope) is { } odd)
            {
                faults.Bad(field, odd.Key["problem.".Length..], [.. odd.Values]);
            }
        }

        faults.Unless(look.Film is null || (IsFile(look.Film) && SiteLook.IsFilm(look.Film)), "look.film", "film-form");
        faults.Unless(look.Film is null || look.Picture is not null, "look.picture", "film-still");
        faults.Unless(look.Picture is null || IsFile(look.Picture), "look.picture", "redirect-form");
        // What was stored by an earlier version stays until somebody changes it.
        foreach (var (field, colour, nearest) in look == old || !isWritten ? [] : PageColours.Unreadable(look))
        {
            faults.Bad(field, "colour-contrast", colour, nearest);
        }

        faults.Unless(look.Logo is null || IsFile(look.Logo), "look.logo", "redirect-form");
        faults.Unless(
            look.Links.Count <= MostLinks && look.Links.All(l => ReturnTo.IsOnThisSite(l.Address) && IsTitle(l.Words, 60)), "look.links", "links-form");
    }

    private static void Crawlers(IReadOnlyList<WelcomeCrawler> crawlers, Faults faults)
    {
        foreach (var crawler in crawlers)
        {
            faults.Unless(IsTitle(crawler.Name, 80) && crawler.Hosts.Count + crawler.Ranges.Count > 0, "crawlers", "crawler-form");
            foreach (var host in crawler.Hosts)
            {
                var name = host.Trim('.');
                faults.Unless(name.Split('.').Length > 1 && Uri.CheckHostName(name) == UriHostNameType.Dns, "crawlers", "crawler-host", host);
            }

            foreach (var range in crawler.Ranges)
            {
                faults.Unless(System.Net.IPNetwork.TryParse(range, out _), "crawlers", "crawler-range", range);
            }
        }

        faults.Unless(crawlers.Count <= MostCrawlers, "crawlers", "crawler-many", MostCrawlers);
    }

    private static void Sweep(Policy policy, SweepSchedule sweep, Faults faults)
    {
        faults.Unless(sweep.EveryHours is >= 0 and <= MostHours, "sweep.everyHours", "sweep-hours", MostHours);
        faults.Unless(sweep.AlertTo is null || EmailAddress.Normalise(sweep.AlertTo) is not null, "sweep.alertTo", "email-form", sweep.AlertTo);
        foreach (var viewpoint in sweep.As ?? [])
        {
            if (!viewpoint.Contains('@', StringComparison.Ordinal) && Viewpoint.Find(policy, viewpoint).Problem is { } unknown)
            {
                faults.Take("sweep.as", unknown);
            }
        }
    }

    private static bool IsTitle(string? text, int longest) => !string.IsNullOrWhiteSpace(text) && text.Length <= longest && PlainText.IsClean(text);

    private static bool IsFileName(string name) =>
        name.Length is > 0 and <= 60 && name.All(c => char.IsAsciiLetterOrDigit(c) || c is '.' or '_' or '-') && name.Any(char.IsAsciiLetterOrDigit);

    /// <summary>Whether it is an address on this site that can stand in a style sheet as it is.</summary>
    private static bool IsFile(string address) =>
        ReturnTo.IsOnThisSite(address) && address.Length <= 500 && !address.AsSpan().ContainsAny(Quoting);

    private static bool IsColour(string? text) => text is { Length: 7 } && text[0] == '#' && text.Skip(1).All(char.IsAsciiHexDigit);
}
