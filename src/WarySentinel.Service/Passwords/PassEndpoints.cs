using System.Xml;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Passwords;
using WarySentinel.Core;
using WarySentinel.Core.Passwords;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Passwords;

/// <summary>Passes: names with passwords that belong to no account.</summary>
public static class PassEndpoints
{
    private static readonly string[] Standings = ["in-force", "later", "over", "used-up", "withdrawn"];
    private static readonly TimeSpan UsualOverlap = TimeSpan.FromDays(2);

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapPasses(this RouteGroupBuilder api)
    {
        var passes = api.MapGroup("/passes").WithTags("Passes");
        passes.MapGet("/", List).Requires("read");
        passes.MapPost("/", Add).Requires("people");
        passes.MapGet("/{id}", Show).Requires("read");
        passes.MapPut("/{id}", Set).Requires("people");
        passes.MapPost("/{id}/renew", Renew).Requires("people");
        passes.MapPost("/{id}/rotate", Rotate).Requires("people");
        passes.MapPost("/{id}/withdraw", Withdraw).Requires("people");
        return api;
    }

    private static async Task<Results<Ok<PageOf<PassView>>, ProblemHttpResult>> List(
        string? kind, string? q, string? standing, string? cursor, int? limit, Store store, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        var after = Paging.Read(cursor);
        if (after.Problem is { } odd)
        {
            return odd.ToHttp();
        }

        if (standing is not null && !Standings.Contains(standing))
        {
            return Problem.In("standing", "not-one-of", standing, string.Join(", ", Standings)).ToHttp();
        }

        var size = Paging.SizeOf(limit);
        var found = await store.PassesAsync(new PassQuery(kind, q, standing, Paging.PlaceIn(after.Value)), size + 1, stop);
        var networks = await store.PassNetworksAsync([.. found.Select(p => p.Id)], stop);
        return TypedResults.Ok(Paging.Cut(
            [.. found.Select(p => p.ToWire(policies.Current, time.GetUtcNow(), networks.GetValueOrDefault(p.Id)))], size,
            p => Paging.PlaceOf(p.CreatedAt, p.Id)));
    }

    private static async Task<Results<Ok<PassView>, ProblemHttpResult>> Show(
        string id, HttpContext http, Store store, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        if (await FindAsync(store, id, stop) is not { } pass)
        {
            return Unknown.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(pass.Version);
        return TypedResults.Ok(pass.ToWire(policies.Current, time.GetUtcNow(), (await store.PassNetworksAsync([pass.Id], stop)).GetValueOrDefault(pass.Id)));
    }

    private static async Task<Results<Created<PassView>, ProblemHttpResult>> Add(
        PassDraft draft, HttpContext http, PassDesk desk, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        if (draft.Send && string.IsNullOrWhiteSpace(draft.Email))
        {
            return Problem.In("email", "pass-send").ToHttp();
        }

        return (await desk.AddAsync(draft.ToCore(), draft.Send, Caller.Of(http).Name, stop)).Match<Results<Created<PassView>, ProblemHttpResult>>(
            made => TypedResults.Created($"/api/v1/passes/{made.Pass.Id}", made.Pass.ToWire(policies.Current, time.GetUtcNow(), 0, made)),
            problem => problem.ToHttp());
    }

    private static async Task<Results<Ok<PassView>, ProblemHttpResult>> Set(
        string id, PassDraft draft, HttpContext http, PassDesk desk, Store store, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        return version.Problem is { } problem ? problem.ToHttp()
            : await FindAsync(store, id, stop) is not { } pass ? Unknown.ToHttp()
            : await ToldAsync(await desk.SetAsync(pass.Id, draft.ToCore(), version.Value, Caller.Of(http).Name, stop), http, store, policies, time, stop);
    }

    private static async Task<Results<Ok<PassView>, ProblemHttpResult>> Renew(
        string id, PassRenewal draft, HttpContext http, PassDesk desk, Store store, PolicyHolder policies, TimeProvider time, CancellationToken stop) =>
        await FindAsync(store, id, stop) is not { } pass ? Unknown.ToHttp()
            : await ToldAsync(await desk.RenewAsync(pass.Id, draft.Until, Caller.Of(http).Name, stop), http, store, policies, time, stop);

    private static async Task<Results<Ok<PassView>, ProblemHttpResult>> Withdraw(
        string id, HttpContext http, PassDesk desk, Store store, PolicyHolder policies, TimeProvider time, CancellationToken stop) =>
        await FindAsync(store, id, stop) is not { } pass ? Unknown.ToHttp()
            : await ToldAsync(await desk.WithdrawAsync(pass.Id, Caller.Of(http).Name, stop), http, store, policies, time, stop);

    private static async Task<Results<Ok<PassView>, ProblemHttpResult>> Rotate(
        string id, PassRotation draft, HttpContext http, PassDesk desk, Store store, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        var overlap = OverlapOf(draft.Overlap);
        if (overlap.Problem is { } odd)
        {
            return odd.ToHttp();
        }

        if (await FindAsync(store, id, stop) is not { } pass)
        {
            return Unknown.ToHttp();
        }

        if (draft.Send && pass.Email is null)
        {
            return Problem.In("send", "pass-send").ToHttp();
        }

        var made = await desk.RotateAsync(pass.Id, overlap.Value, draft.Send, Caller.Of(http).Name, stop);
        if (made.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var networks = (await store.PassNetworksAsync([pass.Id], stop)).GetValueOrDefault(pass.Id);
        return TypedResults.Ok(made.Value.Pass.ToWire(policies.Current, time.GetUtcNow(), networks, made.Value));
    }

    private static Problem Unknown => Problem.Of(ProblemKind.NotFound, "pass-unknown");

    /// <summary>The pass of that id or sign-in name.</summary>
    private static Task<Pass?> FindAsync(Store store, string id, CancellationToken stop) => Guid.TryParse(id, out var named) ? store.PassAsync(named, stop)
        : PlainText.IsClean(id) ? store.PassByNameAsync(Pass.NormaliseName(id), stop) : Task.FromResult<Pass?>(null);

    /// <summary>How long an old password works beside the new one (ISO 8601, a year at most); two days unless said.</summary>
    internal static Outcome<TimeSpan> OverlapOf(string? typed)
    {
        try
        {
            var overlap = typed is null ? UsualOverlap : XmlConvert.ToTimeSpan(typed);
            return overlap < TimeSpan.Zero || overlap > TimeSpan.FromDays(366) ? Problem.In("overlap", "rotation-overlap", typed) : overlap;
        }
        catch (Exception fault) when (fault is FormatException or OverflowException)
        {
            return Problem.In("overlap", "rotation-overlap", typed);
        }
    }

    private static async Task<Results<Ok<PassView>, ProblemHttpResult>> ToldAsync(
        Outcome<Pass> changed, HttpContext http, Store store, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        if (changed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var pass = changed.Value;
        http.Response.Headers.ETag = Paging.TagOf(pass.Version);
        return TypedResults.Ok(
            pass.ToWire(policies.Current, time.GetUtcNow(), (await store.PassNetworksAsync([pass.Id], stop)).GetValueOrDefault(pass.Id)));
    }
}
