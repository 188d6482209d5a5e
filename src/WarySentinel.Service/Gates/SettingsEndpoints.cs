using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract.Gates;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Gates;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Service.Web;
using Rules = WarySentinel.Core.Access;
using Wire = WarySentinel.Contract;

namespace WarySentinel.Service.Gates;

/// <summary>The settings of the site.</summary>
public static class SettingsEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapSettings(this RouteGroupBuilder api)
    {
        api.MapGet("/settings", Show).Requires("read").WithTags("Site");
        api.MapPut("/settings", Set).Requires("write").WithTags("Site");
        api.MapPost("/settings/look/preview", PreviewAsync).Requires("read").WithTags("Site");
        api.MapPost("/settings/look/take", LookTaking.TakeAsync).Requires("write").WithTags("Site");
        return api;
    }

    private static Ok<SettingsView> Show(HttpContext http, PolicyHolder policies)
    {
        http.Response.Headers.ETag = Paging.TagOf(policies.Current.Settings.Version);
        return TypedResults.Ok(ToWire(policies.Current.Settings));
    }

    private static async Task<Results<Ok<SettingsView>, ProblemHttpResult>> Set(
        SettingsDraft draft, HttpContext http, PolicyHolder policies, SurroundingsReader surroundings, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        var changed = version.Problem is { } missing ? missing
            : draft.Presence is not (null or "listed" or "hidden") ? Problem.In("presence", "not-one-of", draft.Presence, "listed, hidden")
            : await policies.ChangeAsync(
                async policy => SettingsCommands.Set(
                    policy, Merge(policy.Settings, draft), version.Value, await surroundings.ReadAsync(policy, [], stop)),
                Caller.Of(http).Name, stop);
        if (changed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(changed.Value.Version);
        return TypedResults.Ok(ToWire(changed.Value));
    }

    /// <summary>The sign-in page in a look that is not stored; the address is known to nobody else, and is good for half an hour.</summary>
    private static async Task<Results<Ok<Wire.People.PreviewView>, ProblemHttpResult>> PreviewAsync(
        Wire.Gates.SiteLook look, PolicyHolder policies, SurroundingsReader surroundings, Previews previews, ServiceOptions options, CancellationToken stop)
    {
        var (policy, tried) = (policies.Current, ToCore(look));
        return SettingsCommands.Set(policy, policy.Settings with { Look = tried }, null, await surroundings.ReadAsync(policy, [], stop)).Problem is { } problem
            ? problem.ToHttp()
            : TypedResults.Ok(new Wire.People.PreviewView($"{options.SiteUrl.TrimEnd('/')}{options.AccountPrefix}/sign-in?look={previews.Keep(tried)}"));
    }

    /// <summary>The settings as they stand, and what was sent over them.</summary>
    private static SiteSettings Merge(SiteSettings old, SettingsDraft draft) => old with
    {
        SiteName = draft.SiteName?.Trim() ?? old.SiteName,
        StaffPasses = draft.StaffPasses ?? old.StaffPasses,
        Look = draft.Look is { } look ? ToCore(look) : old.Look,
        Presence = draft.Presence is null ? old.Presence : draft.Presence == "hidden" ? Presence.Hidden : Presence.Listed,
        Prompt = draft.Prompt.ToCore() ?? old.Prompt,
        Crawlers = draft.Crawlers is { } crawlers ? [.. crawlers.Select(c => new Rules.WelcomeCrawler(c.Name, c.Hosts, c.Ranges))] : old.Crawlers,
        Sweep = draft.Sweep is { } sweep ? new Rules.SweepSchedule(sweep.EveryHours, sweep.As, sweep.AlertTo) : old.Sweep,
        Letters = draft.Letters is { } letters
            ? new Rules.LetterSettings(letters.SignIn, letters.Codes, string.IsNullOrWhiteSpace(letters.NoticesTo) ? null
                : letters.NoticesTo.Trim(), letters.Hold)
            : old.Letters,
        Joining = draft.Joining is { } joining
            ? new JoiningDraft(joining.Way, joining.Confirm, joining.Blocked, joining.Trusted, joining.First).Over(old.Joining) : old.Joining,
        HiddenWords = draft.HiddenWords is { } words ? HiddenWordsNames.Of(words) : old.HiddenWords,
        Frame = draft.Frame is null ? old.Frame : string.IsNullOrWhiteSpace(draft.Frame.Page) ? null
            : new Rules.SitePlace(draft.Frame.Page.Trim(), string.IsNullOrWhiteSpace(draft.Frame.Element) ? "main" : draft.Frame.Element.Trim()),
        OriginLearns = draft.OriginLearns is { } learns ? [.. learns.Distinct()] : old.OriginLearns,
        Language = draft.Language?.Trim() ?? old.Language,
        Languages = draft.Languages is { } tags ? [.. tags.Select(t => t.Trim()).Distinct(StringComparer.OrdinalIgnoreCase)] : old.Languages,
        TimeZone = draft.TimeZone?.Trim() ?? old.TimeZone,
        Paths = draft.Paths is { } p
            ? new PathRules(p.IgnoreCase, p.IgnoreTrailingSlash, p.RefuseSemicolons, p.RefuseTrailingDots)
            { IndexNames = [.. p.IndexNames ?? old.Paths.IndexNames] } : old.Paths,
    };

    private static SettingsView ToWire(SiteSettings settings) => new(
        settings.SiteName, settings.StaffPasses, settings.Presence.ToString().ToLowerInvariant(),
        new PathRulesView(
            settings.Paths.IgnoreCase, settings.Paths.IgnoreTrailingSlash, settings.Paths.RefuseSemicolons, settings.Paths.RefuseTrailingDots,
            settings.Paths.IndexNames),
        ToWire(settings.Look), settings.Prompt.ToWire(), [.. settings.Crawlers.Select(c => new Wire.Gates.WelcomeCrawler(c.Name, c.Hosts, c.Ranges))],
        new Wire.Gates.SweepSchedule(settings.Sweep.EveryHours, settings.Sweep.As, settings.Sweep.AlertTo), settings.TimeZone,
        settings.Language, new Wire.Gates.LetterSettings(settings.Letters.SignIn, settings.Letters.Codes, settings.Letters.NoticesTo, settings.Letters.Hold),
        new Wire.Gates.JoinSettings(Rules.JoinSettings.NameOf(settings.Joining.Way), settings.Joining.Confirm, settings.Joining.Blocked,
            settings.Joining.Trusted, settings.Joining.First),
        settings.Version, HiddenWordsNames.NameOf(settings.HiddenWords))
    {
        OriginLearns = settings.OriginLearns, Languages = settings.Languages,
        Frame = settings.Frame is { } place ? new Wire.Gates.SitePlace(place.Page, place.Element) : null,
    };

    internal static Wire.Gates.SiteLook ToWire(Rules.SiteLook look) => new()
    {
        Accent = look.Accent,
        Background = look.Background,
        Sky = look.Sky,
        Links = [.. look.Links.Select(l => l.ToWire())],
        Logo = look.Logo,
        Theme = look.Theme.ToString().ToLowerInvariant(),
        Night = look.Night,
        Place = look.Place.ToString().ToLowerInvariant(),
        Type = look.Type.ToString().ToLowerInvariant(),
        Picture = look.Picture,
        Font = look.Font,
        Film = look.Film,
        Css = look.Css,
        HostedCss = look.HostedCss,
    };

    internal static Rules.SiteLook ToCore(Wire.Gates.SiteLook look) => new()
    {
        Accent = look.Accent,
        Background = look.Background,
        Sky = look.Sky,
        Links = [.. look.Links.Select(l => l.ToCore())],
        Logo = string.IsNullOrWhiteSpace(look.Logo) ? null : look.Logo.Trim(),
        Theme = LookDraft.Named<PageTheme>(look.Theme),
        Night = look.Night,
        Place = LookDraft.Named<PanelPlace>(look.Place),
        Type = LookDraft.Named<PageType>(look.Type),
        Picture = string.IsNullOrWhiteSpace(look.Picture) ? null : look.Picture.Trim(),
        Film = string.IsNullOrWhiteSpace(look.Film) ? null : look.Film.Trim(),
        Font = string.IsNullOrWhiteSpace(look.Font) ? null : look.Font.Trim(),
        Css = string.IsNullOrWhiteSpace(look.Css) ? null : look.Css.ReplaceLineEndings("\n"),
        HostedCss = string.IsNullOrWhiteSpace(look.HostedCss) ? null : look.HostedCss.ReplaceLineEndings("\n"),
    };
}
