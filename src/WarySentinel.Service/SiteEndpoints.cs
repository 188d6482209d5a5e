using System.Globalization;
using System.Reflection;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Service.Access;
using WarySentinel.Service.People;
using WarySentinel.Storage;

namespace WarySentinel.Service;

/// <summary>How the service is.</summary>
public sealed record StatusView(
    string Version, string SiteName, string SiteUrl, string Origin, string Database, long Revision, int Items, int Gates, int GatesInForce, int Members, DateTimeOffset StartedAt);

/// <summary>How the origin reads paths.</summary>
public sealed record PathRulesView(bool IgnoreCase, bool IgnoreTrailingSlash, bool RefuseSemicolons, bool RefuseTrailingDots);

/// <summary>The settings of the site.</summary>
public sealed record SettingsView(string SiteName, bool StaffPasses, PathRulesView Paths, SiteLook Look, int Version);

/// <summary>Settings to be stored; what is left out stays as it is.</summary>
public sealed record SettingsDraft(string? SiteName, bool? StaffPasses, PathRulesView? Paths, SiteLook? Look);

/// <summary>The service itself: status, settings, the audit trail.</summary>
public static class SiteEndpoints
{
    /// <summary>The version of this build.</summary>
    public static readonly string Version = typeof(SiteEndpoints).Assembly.GetCustomAttribute<AssemblyInformationalVersionAttribute>()!.InformationalVersion.Split('+')[0];

    private static readonly DateTimeOffset Started = DateTimeOffset.UtcNow;

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapSite(this RouteGroupBuilder api)
    {
        api.MapGet("/status", Status).Requires("read").WithTags("Site");
        api.MapGet("/settings", Settings).Requires("read").WithTags("Site");
        api.MapPut("/settings", SetSettings).Requires("write").WithTags("Site");
        api.MapGet("/audit", Audit).Requires("read").WithTags("Site");
        return api;
    }

    private static async Task<Ok<StatusView>> Status(PolicyHolder policies, Store store, ServiceOptions options, TimeProvider time, CancellationToken stop)
    {
        var policy = policies.Current;
        return TypedResults.Ok(new StatusView(
            Version, policy.Settings.SiteName, options.SiteUrl, options.Origin, options.Provider, policies.Revision, policy.Graph.Items.Count, policy.Gates.Count,
            policy.Gates.Count(g => g.IsInForce(time.GetUtcNow())), await store.MemberCountAsync(stop), Started));
    }

    private static Ok<SettingsView> Settings(HttpContext http, PolicyHolder policies)
    {
        http.Response.Headers.ETag = Paging.TagOf(policies.Current.Settings.Version);
        return TypedResults.Ok(ViewOf(policies.Current.Settings));
    }

    private static async Task<Results<Ok<SettingsView>, ProblemHttpResult>> SetSettings(SettingsDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        var changed = version.Problem is { } missing ? missing : await policies.ChangeAsync(
            async policy =>
            {
                var old = policy.Settings;
                var wanted = old with
                {
                    SiteName = draft.SiteName?.Trim() ?? old.SiteName,
                    StaffPasses = draft.StaffPasses ?? old.StaffPasses,
                    Look = draft.Look ?? old.Look,
                    Paths = draft.Paths is { } p ? new PathRules(p.IgnoreCase, p.IgnoreTrailingSlash, p.RefuseSemicolons, p.RefuseTrailingDots) : old.Paths,
                };
                return SettingsCommands.Set(policy, wanted, version.Value, await policies.SurroundingsAsync(policy, [], stop));
            },
            Caller.Of(http).Name, stop);
        if (changed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(changed.Value.Version);
        return TypedResults.Ok(ViewOf(changed.Value));
    }

    private static async Task<Results<Ok<PageOf<AuditEntry>>, ProblemHttpResult>> Audit(string? cursor, int? limit, string? subject, Store store, CancellationToken stop)
    {
        var after = Paging.Read(cursor);
        if (after.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var size = Paging.SizeOf(limit);
        long? before = long.TryParse(after.Value, NumberStyles.None, CultureInfo.InvariantCulture, out var id) ? id : null;
        return TypedResults.Ok(Paging.Cut(await store.AuditAsync(before, size + 1, subject, stop), size, a => a.Id.ToString(CultureInfo.InvariantCulture)));
    }

    private static SettingsView ViewOf(SiteSettings settings) => new(
        settings.SiteName, settings.StaffPasses,
        new PathRulesView(settings.Paths.IgnoreCase, settings.Paths.IgnoreTrailingSlash, settings.Paths.RefuseSemicolons, settings.Paths.RefuseTrailingDots), settings.Look, settings.Version);
}
