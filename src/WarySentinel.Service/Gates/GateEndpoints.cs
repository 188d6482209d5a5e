using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Gates;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Service.Access;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using Rules = WarySentinel.Core.Gates;
using Wire = WarySentinel.Contract.Gates;

namespace WarySentinel.Service.Gates;

/// <summary>Gates, their effect, taking a change back.</summary>
public static class GateEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapGates(this RouteGroupBuilder api)
    {
        var gates = api.MapGroup("/gates").WithTags("Gates");
        gates.MapGet("/", List).Requires("read");
        gates.MapPost("/", Add).Requires("write");
        gates.MapPost("/preview", Preview).Requires("read");
        gates.MapGet("/{key}", Show).Requires("read");
        gates.MapPut("/{key}", Set).Requires("write");
        gates.MapDelete("/{key}", Remove).Requires("write");
        gates.MapPost("/{key}/undo", Undo).Requires("write");
        return api;
    }

    private static Results<Ok<PageOf<GateView>>, ProblemHttpResult> List(string? cursor, int? limit, PolicyHolder policies, TimeProvider time)
    {
        var after = Paging.Read(cursor);
        if (after.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var (policy, size) = (policies.Current, Paging.SizeOf(limit));
        var found = policy.Gates.Where(g => string.CompareOrdinal(g.Key, after.Value) > 0).Take(size + 1)
            .Select(g => g.ToWire(policy, time.GetUtcNow())).ToList();
        return TypedResults.Ok(Paging.Cut(found, size, g => g.Key));
    }

    private static Results<Ok<GateView>, ProblemHttpResult> Show(string key, HttpContext http, PolicyHolder policies, TimeProvider time)
    {
        var policy = policies.Current;
        if (policy.FindGate(key) is not { } gate)
        {
            return Problem.Of(ProblemKind.NotFound, "gate-unknown", key).ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(gate.Version);
        return TypedResults.Ok(gate.ToWire(policy, time.GetUtcNow()));
    }

    private static async Task<Results<Created<GateView>, ProblemHttpResult>> Add(
        Wire.GateDraft draft, HttpContext http, PolicyHolder policies, SurroundingsReader surroundings, TimeProvider time, CancellationToken stop)
    {
        var added = await policies.ChangeAsync(
            async policy => GateCommands.Add(policy, draft.ToCore(), await surroundings.ReadAsync(policy, [draft.Audience ?? ""], stop)), Caller.Of(http).Name,
            stop);
        if (added.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(added.Value.Version);
        return TypedResults.Created($"/api/v1/gates/{added.Value.Key}", added.Value.ToWire(policies.Current, time.GetUtcNow()));
    }

    private static async Task<Results<Ok<GateView>, ProblemHttpResult>> Set(
        string key, Wire.GateDraft draft, HttpContext http, PolicyHolder policies, SurroundingsReader surroundings, TimeProvider time, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        var changed = version.Problem is { } missing ? missing : await policies.ChangeAsync(
            async policy => GateCommands.Set(policy, key, draft.ToCore(), version.Value, await surroundings.ReadAsync(policy, [draft.Audience ?? ""], stop)),
            Caller.Of(http).Name, stop);
        if (changed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(changed.Value.Version);
        return TypedResults.Ok(changed.Value.ToWire(policies.Current, time.GetUtcNow()));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(
        string key, HttpContext http, PolicyHolder policies, SurroundingsReader surroundings, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        var removed = version.Problem is { } missing ? missing : await policies.ChangeAsync(
            async policy => GateCommands.Remove(policy, key, version.Value, await surroundings.ReadAsync(policy, [], stop)), Caller.Of(http).Name, stop);
        return removed.Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());
    }

    /// <summary>Takes the gate's last change back, also where it was removed. Answers with the gate, or 204 where it is gone by it.</summary>
    private static async Task<Results<Ok<GateView>, NoContent, ProblemHttpResult>> Undo(
        string key, HttpContext http, PolicyHolder policies, SurroundingsReader surroundings, Store store, TimeProvider time, CancellationToken stop)
    {
        var undone = await policies.ChangeAsync(
            async policy =>
            {
                var last = await store.AuditAsync(null, 1, key, "gate.", stop);
                var detail = last.Count > 0 ? last[0].Detail : null;
                var audience = Detail.BeforeOf<Rules.GateDraft>(detail)?.Audience ?? "";
                return GateCommands.Undo(policy, key, detail, await surroundings.ReadAsync(policy, [audience], stop));
            },
            Caller.Of(http).Name, stop);
        return undone.Problem is { } problem ? problem.ToHttp()
            : policies.Current.FindGate(key) is { } gate ? TypedResults.Ok(gate.ToWire(policies.Current, time.GetUtcNow()))
            : TypedResults.NoContent();
    }

    private static async Task<Results<Ok<EffectView>, ProblemHttpResult>> Preview(
        PreviewDraft wanted, PolicyHolder policies, SurroundingsReader surroundings, Store store, TimeProvider time, CancellationToken stop)
    {
        var policy = policies.Current;
        var around = await surroundings.ReadAsync(policy, [wanted.Draft?.Audience ?? ""], stop);
        var isNew = string.IsNullOrEmpty(wanted.Key);
        var outcome = wanted.Draft is null ? GateCommands.Remove(policy, wanted.Key ?? "", null, around)
            : isNew ? GateCommands.Add(policy, wanted.Draft.ToCore(), around)
            : GateCommands.Set(policy, wanted.Key!, wanted.Draft.ToCore(), null, around);
        if (outcome.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var gate = outcome.Value.Value;
        var after = policy.TryAfter(outcome.Value.ToStore);
        if (after.Problem is { } misfit)
        {
            return misfit.ToHttp();
        }

        var scope = EffectScope.Of(policy, after.Value, time.GetUtcNow());
        var effect = scope.Weigh(await store.FactSetsAsync(scope.Facts, stop));
        return TypedResults.Ok(effect.ToWire(gate, policy));
    }
}
