using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Hosted;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Gates;
using WarySentinel.Core.Hosted;
using WarySentinel.Service.Access;
using WarySentinel.Service.Gates;
using WarySentinel.Service.Web;
using Wire = WarySentinel.Contract.Hosted;

namespace WarySentinel.Service.Hosted;

/// <summary>Sections of pages that are written here.</summary>
public static class SectionEndpoints
{
    private const string Name = "/{key}";

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapSections(this RouteGroupBuilder api)
    {
        var sections = api.MapGroup("/sections").WithTags("Pages");
        sections.MapGet("/", List).Requires("read");
        sections.MapGet(Name, Show).Requires("read");
        sections.MapPut(Name, PutAsync).Requires("write");
        sections.MapDelete(Name, RemoveAsync).Requires("write");
        sections.MapPut(Name + "/gate", GuardAsync).Requires("write");
        sections.MapDelete(Name + "/gate", InheritAsync).Requires("write");
        return api;
    }

    private static Ok<PageOf<SectionView>> List(PolicyHolder policies, TimeProvider time)
    {
        var policy = policies.Current;
        return TypedResults.Ok(new PageOf<SectionView>([.. HostedBook.Of(policy).Sections.Select(s => s.ToWire(policy, time.GetUtcNow()))], null));
    }

    private static Results<Ok<SectionView>, ProblemHttpResult> Show(string key, HttpContext http, PolicyHolder policies, TimeProvider time)
    {
        if (HostedBook.Of(policies.Current).Section(key) is not { } section)
        {
            return Problem.Of(ProblemKind.NotFound, "section-unknown", key).ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(section.Version);
        return TypedResults.Ok(section.ToWire(policies.Current, time.GetUtcNow()));
    }

    private static async Task<Results<Ok<SectionView>, ProblemHttpResult>> PutAsync(
        string key, Wire.HostedSectionDraft draft, HttpContext http, PolicyHolder policies, HostedDesk desk, TimeProvider time, CancellationToken stop)
    {
        var (version, wanted) = (Paging.VersionIn(http.Request), new Core.Hosted.HostedSectionDraft(
            key, draft.Title, draft.Address, draft.Description, draft.Layout, draft.Template, draft.InSite, draft.Parent));
        var put = (version.Problem ?? HostedLayouts.Fault(draft.Template)) is { } odd ? odd
            : await policies.ChangeAsync(policy => HostedCommands.PutSection(policy, wanted, version.Value, desk.Around(Caller.Of(http).Name)),
                Caller.Of(http).Name, stop);
        if (put.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(put.Value.Version);
        return TypedResults.Ok(put.Value.ToWire(policies.Current, time.GetUtcNow()));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> RemoveAsync(string key, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => HostedCommands.RemoveSection(policy, key, policy.GateNaming), Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static Task<Results<Ok<GuardingView>, ProblemHttpResult>> GuardAsync(
        string key, GuardingDraft draft, HttpContext http, OwnGates gates, CancellationToken stop) =>
        gates.SetAsync(new ItemId(ItemKind.Section, key), draft, http, stop);

    private static Task<Results<Ok<GuardingView>, ProblemHttpResult>> InheritAsync(string key, HttpContext http, OwnGates gates, CancellationToken stop) =>
        gates.InheritAsync(new ItemId(ItemKind.Section, key), http, stop);
}

/// <summary>Gates of an item's own, by what stands for it.</summary>
public sealed class OwnGates(PolicyHolder policies, SurroundingsReader surroundings)
{
    /// <summary>Gives an item a gate of its own.</summary>
    internal async Task<Results<Ok<GuardingView>, ProblemHttpResult>> SetAsync(ItemId id, GuardingDraft draft, HttpContext http, CancellationToken stop) =>
        Answer(await policies.ChangeAsync(
            async policy => OwnGate.Set(
                policy, id, draft.Audience, await surroundings.ReadAsync(policy, draft.Audience is null ? [] : [draft.Audience], stop)),
            Caller.Of(http).Name, stop));

    /// <summary>Has an item be as those above it say.</summary>
    internal async Task<Results<Ok<GuardingView>, ProblemHttpResult>> InheritAsync(ItemId id, HttpContext http, CancellationToken stop) =>
        Answer(await policies.ChangeAsync(
            async policy => OwnGate.Inherit(policy, id, await surroundings.ReadAsync(policy, [], stop)), Caller.Of(http).Name, stop));

    private static Results<Ok<GuardingView>, ProblemHttpResult> Answer(Outcome<Guarding> outcome) =>
        outcome.Match<Results<Ok<GuardingView>, ProblemHttpResult>>(guarding => TypedResults.Ok(guarding.ToWire()), problem => problem.ToHttp());
}
