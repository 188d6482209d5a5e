using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Facts;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>Roles, groups, plans and kinds of passes: what there are, what hangs on them, and what becomes of them.</summary>
public sealed class FactEndpoints(FactKind kind, string path)
{
    /// <summary>Maps the endpoints of all four.</summary>
    public static void Map(IEndpointRouteBuilder api)
    {
        foreach (var (path, kind) in new[] { ("roles", FactKind.Role), ("groups", FactKind.Group), ("plans", FactKind.Plan), ("pass-kinds", FactKind.Pass) })
        {
            var all = api.MapGroup("/" + path).WithTags(char.ToUpperInvariant(path[0]) + path[1..].Replace('-', ' '));
            var mine = new FactEndpoints(kind, path);
            all.MapGet("/", mine.List).Requires("read");
            all.MapPost("/", mine.Add).Requires("write");
            all.MapGet("/{key}", mine.Show).Requires("read");
            all.MapPut("/{key}", mine.Set).Requires("write");
            all.MapDelete("/{key}", mine.Remove).Requires("write");
            all.MapGet("/{key}/uses", mine.Uses).Requires("read");
            all.MapPost("/{key}/rename", mine.Rename).Requires("write");
            all.MapPost("/{key}/retire", mine.Retire).Requires("write");
        }
    }

    private const int MostOrganisations = 100;

    private async Task<Ok<PageOf<FactDefinitionView>>> List(PolicyHolder policies, Store store, CancellationToken stop)
    {
        var (held, policy) = (await store.HoldersAsync(stop), policies.Current);
        IEnumerable<string> staff = kind == FactKind.Role ? StaffRights.Names.Where(r => StaffRights.IsStaffRole(policy, r)) : [];
        return TypedResults.Ok(new PageOf<FactDefinitionView>(
            [
                .. staff.Select(key => new FactDefinitionView(key, Capital(Words.Of("role." + key)), held.GetValueOrDefault((kind, key)), 1, true,
                    null, [], null)),
                .. policy.Definitions.Where(s => s.Kind == kind).OrderBy(s => s.Title, Spelling.SortingOf(policy.Settings.Language))
                    .Select(s => ViewOf(s, policy, held.GetValueOrDefault((kind, s.Key)))),
            ], null));
    }

    private async Task<Results<Ok<FactDefinitionView>, ProblemHttpResult>> Show(
        string key, HttpContext http, PolicyHolder policies, Store store, CancellationToken stop)
    {
        if (policies.Current.FindDefinition(kind, key) is not { } found)
        {
            return Unknown(key).ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(found.Version);
        return TypedResults.Ok(ViewOf(found, policies.Current, await store.HoldersAsync(kind, key, stop)));
    }

    private async Task<Results<Created<FactDefinitionView>, ProblemHttpResult>> Add(
        FactDefinitionDraft draft, HttpContext http, PolicyHolder policies, Store store, CancellationToken stop)
    {
        var added = await policies.ChangeAsync(
            async policy => FactCommands.Add(
                policy, kind, ToCore(draft), await policies.KnownKeysAsync(policy, [draft.Rule ?? ""], stop), draft.Like), Caller.Of(http).Name, stop);
        return added.Problem is { } problem ? problem.ToHttp() : TypedResults.Created(
            $"/api/v1/{path}/{added.Value.Key}", ViewOf(added.Value, policies.Current, await store.HoldersAsync(kind, added.Value.Key, stop)));
    }

    private async Task<Results<Ok<FactDefinitionView>, ProblemHttpResult>> Set(
        string key, FactDefinitionDraft draft, HttpContext http, PolicyHolder policies, Store store, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        if (version.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var changed = await policies.ChangeAsync(
            async policy => policy.FindDefinition(kind, key) is { } old
                ? FactCommands.Set(policy, old, ToCore(draft), await policies.KnownKeysAsync(policy, [draft.Rule ?? ""], stop), version.Value)
                : Unknown(key), Caller.Of(http).Name, stop);
        return await ChangedAsync(changed, http, policies, store, stop);
    }

    private async Task<Results<Ok<FactDefinitionView>, ProblemHttpResult>> Rename(
        string key, FactKeyDraft draft, HttpContext http, PolicyHolder policies, Store store, CancellationToken stop) => await ChangedAsync(
        await policies.ChangeAsync(policy => FactCommands.Rename(policy, kind, key, draft.To), Caller.Of(http).Name, stop), http, policies, store, stop);

    private async Task<Results<NoContent, ProblemHttpResult>> Retire(
        string key, FactRetireDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => FactCommands.Retire(policy, kind, key, draft.To), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private async Task<Results<NoContent, ProblemHttpResult>> Remove(
        string key, HttpContext http, PolicyHolder policies, Store store, CancellationToken stop) =>
        (await policies.ChangeAsync(async policy => await store.OrganisationsGivenAsync(kind, key, 1, stop) is [var giving]
            ? Problem.Of(ProblemKind.Conflict, "standing-in-organisation", FactNames.NameOf(kind), key, giving)
            : FactCommands.Remove(policy, kind, key, await store.HoldersAsync(kind, key, stop)),
            Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private async Task<Results<Ok<FactUsesView>, ProblemHttpResult>> Uses(string key, PolicyHolder policies, Store store, CancellationToken stop)
    {
        var policy = policies.Current;
        return policy.FindDefinition(kind, key) is null ? Unknown(key).ToHttp() : TypedResults.Ok(new FactUsesView(
            [.. FactUses.In(policy, kind, key).Select(n => new FactUseView(n.Kind, n.Key, n.Audience.ToString()!))],
                await store.HoldersAsync(kind, key, stop), await store.OrganisationsGivenAsync(kind, key, MostOrganisations, stop)));
    }

    private async Task<Results<Ok<FactDefinitionView>, ProblemHttpResult>> ChangedAsync(
        Outcome<FactDefinition> changed, HttpContext http, PolicyHolder policies, Store store, CancellationToken stop)
    {
        if (changed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(changed.Value.Version);
        return TypedResults.Ok(ViewOf(changed.Value, policies.Current, await store.HoldersAsync(kind, changed.Value.Key, stop)));
    }

    private static string Capital(string words) => char.ToUpperInvariant(words[0]) + words[1..];

    private Problem Unknown(string key) => Problem.Of(ProblemKind.NotFound, "standing-unknown", FactNames.NameOf(kind), key);

    private static FactDraft ToCore(FactDefinitionDraft draft) => new(
        draft.Key, draft.Title, draft.Home, draft.Links is null ? null
            : [.. draft.Links.Select(l => new MenuLink(l?.Address ?? "", l?.Words ?? ""))], draft.Rule, draft.Length, draft.Grace, draft.Remind,
            draft.Starts);

    private static FactDefinitionView ViewOf(FactDefinition one, Policy policy, int members) => new(
        one.Key, one.Title, members, one.Version, false, one.Home, [.. one.Links.Select(l => new Contract.Access.SiteLink(l.Address, l.Words))],
        one.Kind == FactKind.Group ? policy.Rules.Written.GetValueOrDefault(one.Key)?.ToString() : null,
        one.Length?.ToString(), one.Grace?.ToString(), one.Remind?.ToString(), one.Kind == FactKind.Plan ? FactDraft.StartNames[(int)one.Starts] : null);
}
