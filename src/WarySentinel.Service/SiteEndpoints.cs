using System.Globalization;
using System.Reflection;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Gates;
using WarySentinel.Service.Access;
using WarySentinel.Service.Gates;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service;

/// <summary>How the service is.</summary>
public sealed record StatusView(
    string Version, string SiteName, string SiteUrl, string Origin, string Database, long Revision, int Items, int Gates, int GatesInForce, int Members,
    DateTimeOffset StartedAt, int LettersGivenUp,
    IReadOnlyList<FaultView> Faults);

/// <summary>Something stored that cannot be read; what it covered is closed until it is mended.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Key">Its name.</param>
/// <param name="Reason">What is wrong.</param>
/// <param name="Closed">What is closed for it.</param>
/// <param name="Mend">What to do.</param>
public sealed record FaultView(string Kind, string Key, string Reason, IReadOnlyList<string> Closed, string Mend);

/// <summary>Something unreadable that is to be dropped.</summary>
public sealed record MendDraft(string? Kind, string? Key);

/// <summary>How the origin reads paths.</summary>
public sealed record PathRulesView(
    bool IgnoreCase, bool IgnoreTrailingSlash, bool RefuseSemicolons, bool RefuseTrailingDots, IReadOnlyList<string>? IndexNames = null);

/// <summary>The settings of the site.</summary>
public sealed record SettingsView(
    string SiteName, bool StaffPasses, string Presence, PathRulesView Paths, SiteLook Look, PromptWords? Prompt, IReadOnlyList<WelcomeCrawler> Crawlers,
    SweepPlan Sweep,
    string TimeZone, int Version);

/// <summary>Settings to be stored; what is left out stays as it is.</summary>
public sealed record SettingsDraft(
    string? SiteName, bool? StaffPasses, string? Presence, PathRulesView? Paths, SiteLook? Look, PromptWords? Prompt,
    IReadOnlyList<WelcomeCrawler>? Crawlers, SweepPlan? Sweep,
    string? TimeZone);

/// <summary>An entry of the change history, field by field where that is on record.</summary>
public sealed record HistoryView(
    long Id, DateTimeOffset At, string By, string Action, string Subject, string? Before, string? After, IReadOnlyList<FieldChange> Changes);

/// <summary>The service itself: status, settings, the audit trail.</summary>
public static class SiteEndpoints
{
    /// <summary>The version of this build.</summary>
    public static readonly string Version =
        typeof(SiteEndpoints).Assembly.GetCustomAttribute<AssemblyInformationalVersionAttribute>()!.InformationalVersion.Split('+')[0];

    private static readonly DateTimeOffset Started = DateTimeOffset.UtcNow;

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapSite(this RouteGroupBuilder api)
    {
        api.MapGet("/status", Status).Requires("read").WithTags("Site");
        api.MapGet("/settings", Settings).Requires("read").WithTags("Site");
        api.MapPut("/settings", SetSettings).Requires("write").WithTags("Site");
        api.MapGet("/history", History).Requires("read").WithTags("Site");
        api.MapPost("/mend", Mend).Requires("write").WithTags("Site");
        return api;
    }

    private static async Task<Ok<StatusView>> Status(PolicyHolder policies, Store store, ServiceOptions options, TimeProvider time, CancellationToken stop)
    {
        var policy = policies.Current;
        return TypedResults.Ok(new StatusView(
            Version, policy.Settings.SiteName, options.SiteUrl, options.Origin, options.Provider, policies.Revision, policy.Graph.Items.Count,
            policy.Gates.Count,
            policy.Gates.Count(g => g.IsInForce(time.GetUtcNow())), await store.MemberCountAsync(stop), Started,
            await store.MessageCountAsync(LetterState.GivenUp, stop),
            [.. policies.Faults.Select(f => new FaultView(f.Kind, f.Key, f.Reason, [.. f.Covered.Select(c => c.ToString())], f.Mend))]));
    }

    /// <summary>Drops what is stored of something that cannot be read. What it closed is open again, unless other gates cover it.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> Mend(MendDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        policies.Faults.FirstOrDefault(f => f.Kind == draft.Kind && f.Key == draft.Key) is { } fault
            && await policies.DropUnreadableAsync(fault, Caller.Of(http).Name, stop)
            ? TypedResults.NoContent()
            : Problem.Of(ProblemKind.NotFound, "fault-unknown").ToHttp();

    private static Ok<SettingsView> Settings(HttpContext http, PolicyHolder policies)
    {
        http.Response.Headers.ETag = Paging.TagOf(policies.Current.Settings.Version);
        return TypedResults.Ok(ViewOf(policies.Current.Settings));
    }

    private static async Task<Results<Ok<SettingsView>, ProblemHttpResult>> SetSettings(
        SettingsDraft draft, HttpContext http, PolicyHolder policies, SurroundingsReader surroundings, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        var changed = version.Problem is { } missing ? missing : await policies.ChangeAsync(
            async policy =>
            {
                var old = policy.Settings;
                if (draft.Presence is not (null or "listed" or "hidden"))
                {
                    return Problem.In("presence", "not-one-of", draft.Presence, "listed, hidden");
                }

                var wanted = old with
                {
                    SiteName = draft.SiteName?.Trim() ?? old.SiteName,
                    StaffPasses = draft.StaffPasses ?? old.StaffPasses,
                    Look = draft.Look ?? old.Look,
                    Presence = draft.Presence is null ? old.Presence : draft.Presence == "hidden" ? Presence.Hidden : Presence.Listed,
                    Prompt = draft.Prompt ?? old.Prompt,
                    Crawlers = draft.Crawlers ?? old.Crawlers,
                    Sweep = draft.Sweep ?? old.Sweep,
                    TimeZone = draft.TimeZone?.Trim() ?? old.TimeZone,
                    Paths = draft.Paths is { } p
                        ? new PathRules(p.IgnoreCase, p.IgnoreTrailingSlash, p.RefuseSemicolons, p.RefuseTrailingDots)
                        { IndexNames = [.. p.IndexNames ?? old.Paths.IndexNames] } : old.Paths,
                };
                return SettingsCommands.Set(policy, wanted, version.Value, await surroundings.ReadAsync(policy, [], stop));
            },
            Caller.Of(http).Name, stop);
        if (changed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(changed.Value.Version);
        return TypedResults.Ok(ViewOf(changed.Value));
    }

    private static async Task<Results<Ok<PageOf<HistoryView>>, ProblemHttpResult>> History(
        string? cursor, int? limit, string? subject, string? action, Store store, CancellationToken stop)
    {
        var after = Paging.Read(cursor);
        if (after.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var size = Paging.SizeOf(limit);
        long? before = long.TryParse(after.Value, NumberStyles.None, CultureInfo.InvariantCulture, out var id) ? id : null;
        var found = await store.AuditAsync(before, size + 1, subject, action, stop);
        var views = found.Select(a => new HistoryView(
            a.Id, a.At, a.By, a.Action, a.Subject, a.Before, a.After, a is { Before: not null, After: not null } or { Before: null, After: null }
            ? Detail.ChangesOf(a.Detail) : [])).ToList();
        return TypedResults.Ok(Paging.Cut(views, size, a => a.Id.ToString(CultureInfo.InvariantCulture)));
    }

    private static SettingsView ViewOf(SiteSettings settings) => new(
        settings.SiteName, settings.StaffPasses, settings.Presence.ToString().ToLowerInvariant(),
        new PathRulesView(settings.Paths.IgnoreCase, settings.Paths.IgnoreTrailingSlash, settings.Paths.RefuseSemicolons, settings.Paths.RefuseTrailingDots,
        settings.Paths.IndexNames), settings.Look,
        settings.Prompt, settings.Crawlers, settings.Sweep, settings.TimeZone, settings.Version);
}
