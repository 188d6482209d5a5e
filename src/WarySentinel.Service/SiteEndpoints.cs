using System.Globalization;
using System.Reflection;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Gates;
using WarySentinel.Service.Access;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.Gates;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service;

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
        api.MapGet("/history", History).Requires("read").WithTags("Site");
        api.MapPost("/mend", Mend).Requires("write").WithTags("Site");
        return api;
    }

    private static async Task<Ok<StatusView>> Status(
        PolicyHolder policies, Store store, ServiceOptions options, OriginConnection origin, TimeProvider time, CancellationToken stop)
    {
        var policy = policies.Current;
        return TypedResults.Ok(new StatusView(
            Version, policy.Settings.SiteName, options.SiteUrl, options.Origin, options.Provider, policies.Revision, policy.Graph.Items.Count,
            policy.Gates.Count,
            policy.Gates.Count(g => g.IsInForce(time.GetUtcNow())), await store.MemberCountAsync(stop), Started,
            await store.MessageCountAsync(LetterState.GivenUp, stop),
            [.. policies.Faults.Select(f => new FaultView(f.Kind, f.Key, f.Reason.ToReader(), [.. f.Covered.Select(c => c.ToString())], f.Mend.ToReader()))],
            origin.Fault.ToWire()));
    }

    /// <summary>Drops what is stored of something that cannot be read. What it closed is open again, unless other gates cover it.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> Mend(MendDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        policies.Faults.FirstOrDefault(f => f.Kind == draft.Kind && f.Key == draft.Key) is { } fault
            && await policies.DropUnreadableAsync(fault, Caller.Of(http).Name, stop)
            ? TypedResults.NoContent()
            : Problem.Of(ProblemKind.NotFound, "fault-unknown").ToHttp();

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
            ? Detail.ChangesOf(a.Detail).ToWire() : [])).ToList();
        return TypedResults.Ok(Paging.Cut(views, size, a => a.Id.ToString(CultureInfo.InvariantCulture)));
    }
}
