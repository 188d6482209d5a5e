using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Service.Access;
using WarySentinel.Service.Catalogue;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Gates;

/// <summary>A gate as the API tells it, with its sentence.</summary>
public sealed record GateView(
    string Key, string Title, string Kind, IReadOnlyList<string> Covers, string Reach, string? Audience, IReadOnlyList<string> Acts, string Presence,
    string Answer,
    string? Message, string? RedirectTo, DateTimeOffset? From, DateTimeOffset? Until, bool Enabled, bool InForce, string UnlockFor,
    PromptWords? Prompt, SiteLink? Link, RotationDraft? Rotation, int Version, string Sentence, IReadOnlyList<SentencePart> Parts,
    IReadOnlyList<IReadOnlyList<string>>? AudienceRows, string? Unreadable, bool StandsIn, string? FromText, string? UntilText)
{
    /// <summary>The view of a gate.</summary>
    public static GateView Of(Gate gate, Policy policy, DateTimeOffset now)
    {
        var draft = GateDraft.Of(gate);
        var sentence = GateSentence.Of(gate, policy);
        var dates = new SiteDates(policy.Settings.TimeZone);
        return new GateView(
            gate.Key, gate.Title, draft.Kind!, draft.Covers!, draft.Reach!, draft.Audience, draft.Acts!, draft.Presence!, draft.Answer!, gate.Message,
            gate.RedirectTo,
            gate.From, gate.Until, gate.Enabled, gate.IsInForce(now), draft.UnlockFor!, gate.Prompt, gate.Link, draft.Rotation, gate.Version,
            sentence.ToString(), sentence.Parts, gate.IsExemption ? null : gate.Audience.Rows(), gate.Unreadable, gate.StandsIn,
            gate.From is { } from ? dates.Type(from, false) : null, gate.Until is { } until ? dates.Type(until, true) : null);
    }
}

/// <summary>A change of gates to be looked at before it is saved.</summary>
/// <param name="Key">The gate to change or remove; empty to add one.</param>
/// <param name="Draft">What it would say; null to remove it.</param>
public sealed record PreviewDraft(string? Key, GateDraft? Draft);

/// <summary>A line of an effect.</summary>
public sealed record EffectRowView(
    string Item, string Title, int AlsoBeneath, IReadOnlyList<string> ForWhom, string Before, string After, IReadOnlyList<string> Gained,
    IReadOnlyList<string> Lost);

/// <summary>What a change would do.</summary>
public sealed record EffectView(
    int ItemsClosing, int ItemsOpening, int MembersLosing, int MembersGaining, int MembersKeeping, IReadOnlyList<string> LosingNames,
    IReadOnlyList<string> GainingNames,
    IReadOnlyList<ItemName> Elsewhere, IReadOnlyList<EffectRowView> Rows, int MoreRows,
    string Sentence, IReadOnlyList<SentencePart> Parts, string? Audience, IReadOnlyList<IReadOnlyList<string>>? AudienceRows);

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
            .Select(g => GateView.Of(g, policy, time.GetUtcNow())).ToList();
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
        return TypedResults.Ok(GateView.Of(gate, policy, time.GetUtcNow()));
    }

    private static async Task<Results<Created<GateView>, ProblemHttpResult>> Add(
        GateDraft draft, HttpContext http, PolicyHolder policies, SurroundingsReader surroundings, TimeProvider time, CancellationToken stop)
    {
        var added = await policies.ChangeAsync(
            async policy => GateCommands.Add(policy, draft, await surroundings.ReadAsync(policy, [draft.Audience ?? ""], stop)), Caller.Of(http).Name,
            stop);
        if (added.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(added.Value.Version);
        return TypedResults.Created($"/api/v1/gates/{added.Value.Key}", GateView.Of(added.Value, policies.Current, time.GetUtcNow()));
    }

    private static async Task<Results<Ok<GateView>, ProblemHttpResult>> Set(
        string key, GateDraft draft, HttpContext http, PolicyHolder policies, SurroundingsReader surroundings, TimeProvider time, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        var changed = version.Problem is { } missing ? missing : await policies.ChangeAsync(
            async policy => GateCommands.Set(policy, key, draft, version.Value, await surroundings.ReadAsync(policy, [draft.Audience ?? ""], stop)),
            Caller.Of(http).Name, stop);
        if (changed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(changed.Value.Version);
        return TypedResults.Ok(GateView.Of(changed.Value, policies.Current, time.GetUtcNow()));
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
                var audience = Detail.BeforeOf<GateDraft>(detail)?.Audience ?? "";
                return GateCommands.Undo(policy, key, detail, await surroundings.ReadAsync(policy, [audience], stop));
            },
            Caller.Of(http).Name, stop);
        return undone.Problem is { } problem ? problem.ToHttp()
            : policies.Current.FindGate(key) is { } gate ? TypedResults.Ok(GateView.Of(gate, policies.Current, time.GetUtcNow()))
            : TypedResults.NoContent();
    }

    private static async Task<Results<Ok<EffectView>, ProblemHttpResult>> Preview(
        PreviewDraft wanted, PolicyHolder policies, SurroundingsReader surroundings, Store store, TimeProvider time, CancellationToken stop)
    {
        var policy = policies.Current;
        var around = await surroundings.ReadAsync(policy, [wanted.Draft?.Audience ?? ""], stop);
        var isNew = string.IsNullOrEmpty(wanted.Key);
        var outcome = wanted.Draft is null ? GateCommands.Remove(policy, wanted.Key ?? "", null, around)
            : isNew ? GateCommands.Add(policy, wanted.Draft, around)
            : GateCommands.Set(policy, wanted.Key!, wanted.Draft, null, around);
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
        var sentence = GateSentence.Of(gate, policy);
        return TypedResults.Ok(new EffectView(
            effect.ItemsClosing, effect.ItemsOpening, effect.MembersLosing, effect.MembersGaining, effect.MembersKeeping, effect.LosingNames,
            effect.GainingNames,
            [.. effect.Elsewhere.Select(ItemName.Of)],
            [.. effect.Rows.Select(r => new EffectRowView(
                r.Item.Id.ToString(), r.Item.Title, r.AlsoBeneath, r.ForWhom, SightNames.NameOf(r.Before), SightNames.NameOf(r.After),
                r.Gained, r.Lost))],
            effect.MoreRows, sentence.ToString(), sentence.Parts, gate.IsExemption ? null : gate.Audience.ToString(), gate.IsExemption ? null
            : gate.Audience.Rows()));
    }
}
