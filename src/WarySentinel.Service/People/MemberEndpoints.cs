using System.Text.Json.Serialization;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Facts;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using Rules = WarySentinel.Core.People;
using Wire = WarySentinel.Contract.People;

namespace WarySentinel.Service.People;

/// <summary>Adds members: hashes the password on the queue, then stores.</summary>
public sealed class MemberService(Store store, PolicyHolder policies, PeopleLane people, PasswordHashing passwords, TimeProvider time)
{
    /// <summary>Adds a member.</summary>
    /// <param name="draft">What is written of them.</param>
    /// <param name="by">Who does it.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<Outcome<Member>> AddAsync(Rules.MemberDraft draft, string by, CancellationToken stop)
    {
        var fresh = await ReadAsync(draft, stop);
        // Whether somebody has that address or name already, the store's own index judges.
        return fresh.Problem ?? await people.ChangeAsync(MemberCommands.Add(fresh.Value), by);
    }

    /// <summary>Adds the first owner, unless there is one by the time it is stored, here or elsewhere.</summary>
    public async Task<Outcome<Member>> AddFirstOwnerAsync(Rules.MemberDraft draft, string by, CancellationToken stop)
    {
        var fresh = await ReadAsync(draft, stop);
        return fresh.Problem ?? await people.ChangeAsync(MemberCommands.AddFirstOwner(fresh.Value), by);
    }

    private async Task<Outcome<Member>> ReadAsync(Rules.MemberDraft draft, CancellationToken stop)
    {
        var read = MemberCommands.Read(policies.Current, draft, Guid.CreateVersion7(), time.GetUtcNow());
        if (read.Problem is not null || draft.Password?.Reveal() is not { } password)
        {
            return read;
        }

        try
        {
            return read.Value with { PasswordHash = await passwords.HashAsync(password, stop) };
        }
        catch (BusyException)
        {
            return Problem.Of(ProblemKind.TooMany, "busy");
        }
    }

    /// <summary>The member of that id or e-mail address.</summary>
    public async Task<Member?> FindAsync(string idOrEmail, CancellationToken stop) =>
        Guid.TryParse(idOrEmail, out var id) ? await store.MemberAsync(id, stop)
        : EmailAddress.Normalise(idOrEmail) is { } email ? await store.MemberByNameAsync(email, stop) : null;
}

/// <summary>Members, roles, groups, plans, sessions.</summary>
public static class MemberEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapMembers(this RouteGroupBuilder api)
    {
        var members = api.MapGroup("/members").WithTags("Members");
        members.MapGet("/", List).Requires("read");
        members.MapPost("/", Add).Requires("write");
        members.MapGet("/{member}", Show).Requires("read");
        members.MapPut("/{member}/roles", SetRoles).Requires("write");
        members.MapGrants();
        members.MapAccounts();
        foreach (var (path, kind) in new[] { ("roles", FactKind.Role), ("groups", FactKind.Group), ("plans", FactKind.Plan) })
        {
            var standings = api.MapGroup("/" + path).WithTags(char.ToUpperInvariant(path[0]) + path[1..]);
            standings.MapGet("/", (PolicyHolder policies, Store store, CancellationToken stop) => ListStandings(kind, policies, store, stop)).Requires("read");
            standings.MapPost("/", (FactDefinitionDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
                AddStanding(kind, path, draft, http, policies, stop)).Requires("write");
            standings.MapDelete("/{key}", (string key, HttpContext http, PolicyHolder policies, Store store, CancellationToken stop) =>
                DropStanding(kind, key, http, policies, store, stop)).Requires("write");
        }

        api.MapGet("/sessions", Sessions).Requires("read").WithTags("Sessions");
        api.MapDelete("/sessions/{id:guid}", EndSession).Requires("write").WithTags("Sessions");
        return api;
    }

    private static async Task<Results<Ok<PageOf<MemberView>>, ProblemHttpResult>> List(
        string? cursor, int? limit, string? search, string? status, string? holds, Store store, TimeProvider time, CancellationToken stop)
    {
        var after = Paging.Read(cursor);
        if (after.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var size = Paging.SizeOf(limit);
        var asked = QueryOf(after.Value.Length == 0 ? null : after.Value, size + 1, search, status, holds);
        if (asked.Problem is { } odd)
        {
            return odd.ToHttp();
        }

        var found = await store.MembersAsync(asked.Value, stop);
        return TypedResults.Ok(Paging.Cut([.. found.Select(m => m.ToWire(time.GetUtcNow()))], size, m => m.Email));
    }

    private static Outcome<MemberQuery> QueryOf(string? after, int most, string? search, string? status, string? holds)
    {
        var (statusKnown, factKnown) = (MemberNames.TryStatus(status, out var wanted), MemberNames.TryFact(holds, out var fact));
        if (status is not null && !statusKnown)
        {
            return Problem.In("status", "not-one-of", status, string.Join(", ", MemberNames.Statuses));
        }

        return holds is not null && !factKnown ? Problem.In("holds", "fact-form", holds)
            : new MemberQuery(after, most, search, statusKnown ? wanted : null, factKnown ? fact : null);
    }

    private static async Task<Results<Created<MemberView>, ProblemHttpResult>> Add(
        Wire.MemberDraft draft, HttpContext http, MemberService members, TimeProvider time, CancellationToken stop)
    {
        var caller = Caller.Of(http);
        if (!caller.IsOwner && (draft.Roles ?? []).Any(Visitor.StaffRoles.Contains))
        {
            return Problem.Of(ProblemKind.Forbidden, "staff-role").ToHttp();
        }

        return (await members.AddAsync(draft.ToCore(), caller.Name, stop)).Match<Results<Created<MemberView>, ProblemHttpResult>>(
            added => TypedResults.Created($"/api/v1/members/{added.Id}", added.ToWire(time.GetUtcNow())), problem => problem.ToHttp());
    }

    private static async Task<Results<Ok<MemberView>, ProblemHttpResult>> Show(
        string member, HttpContext http, MemberService members, TimeProvider time, CancellationToken stop)
    {
        if (await members.FindAsync(member, stop) is not { } found)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(found.Version);
        return TypedResults.Ok(found.ToWire(time.GetUtcNow()));
    }

    private static async Task<Results<Ok<MemberView>, ProblemHttpResult>> SetRoles(
        string member, RolesDraft draft, HttpContext http, MemberService members, PolicyHolder policies, PeopleLane people, TimeProvider time,
        CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        if (version.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var caller = Caller.Of(http);
        var changed = await people.ChangeAsync(
            async () =>
            {
                var found = await members.FindAsync(member, stop);
                var before = found?.RolesAt(time.GetUtcNow()) ?? [];
                return !caller.IsOwner && before.Concat(draft.Roles).Where(Visitor.StaffRoles.Contains).Any(r => before.Contains(r) != draft.Roles.Contains(r))
                    ? Problem.Of(ProblemKind.Forbidden, "staff-role")
                    : MemberCommands.SetRoles(policies.Current, found, draft.Roles, version.Value, time.GetUtcNow());
            },
            caller.Name);
        return Changed(changed, http, time);
    }

    /// <summary>The member as they are by now, or why not.</summary>
    internal static Results<Ok<MemberView>, ProblemHttpResult> Changed(Outcome<Member> changed, HttpContext http, TimeProvider time)
    {
        if (changed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(changed.Value.Version);
        return TypedResults.Ok(changed.Value.ToWire(time.GetUtcNow()));
    }

    private static async Task<Ok<PageOf<FactDefinitionView>>> ListStandings(FactKind kind, PolicyHolder policies, Store store, CancellationToken stop)
    {
        var held = await store.HoldersAsync(stop);
        var views = (kind == FactKind.Role ? Visitor.StaffRoles : [])
            .Select(key => new FactDefinitionView(key, char.ToUpperInvariant(key[0]) + key[1..] + "s", held.GetValueOrDefault((kind, key)), 1, true)).ToList();
        views.AddRange(policies.Current.Definitions.Where(s => s.Kind == kind).OrderBy(s => s.Title, Spelling.SortingOf(policies.Current.Settings.Language))
            .Select(s => new FactDefinitionView(s.Key, s.Title, held.GetValueOrDefault((kind, s.Key)), s.Version, false)));

        return TypedResults.Ok(new PageOf<FactDefinitionView>(views, null));
    }

    private static async Task<Results<Created<FactDefinitionView>, ProblemHttpResult>> AddStanding(
        FactKind kind, string path, FactDefinitionDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => FactCommands.Add(policy, kind, draft.Key, draft.Title), Caller.Of(http).Name, stop))
            .Match<Results<Created<FactDefinitionView>, ProblemHttpResult>>(
                added => TypedResults.Created($"/api/v1/{path}/{added.Key}", new FactDefinitionView(added.Key, added.Title, 0, added.Version, false)),
                problem => problem.ToHttp());

    private static async Task<Results<NoContent, ProblemHttpResult>> DropStanding(
        FactKind kind, string key, HttpContext http, PolicyHolder policies, Store store, CancellationToken stop) =>
        (await policies.ChangeAsync(async policy => FactCommands.Remove(policy, kind, key, await store.HoldersAsync(kind, key, stop)),
            Caller.Of(http).Name, stop))
            .Match<Results<NoContent, ProblemHttpResult>>(_ => TypedResults.NoContent(), problem => problem.ToHttp());

    private static async Task<Results<Ok<PageOf<SessionView>>, ProblemHttpResult>> Sessions(
        string? member, int? limit, Store store, MemberService members, CancellationToken stop)
    {
        Guid? of = null;
        if (member is not null)
        {
            if (await members.FindAsync(member, stop) is not { } whom)
            {
                return Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp();
            }

            of = whom.Id;
        }

        var found = await store.SessionsAsync(of, Paging.SizeOf(limit), stop);
        var whose = await store.MembersAsync([.. found.Select(s => s.Member).OfType<Guid>().Distinct()], stop);
        return TypedResults.Ok(new PageOf<SessionView>(
            [.. found.Select(s => s.ToWire(s.Member is { } id ? whose.GetValueOrDefault(id)?.Email : null))], null));
    }

    /// <summary>Ends a session. What belongs to an owner, only an owner ends.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> EndSession(
        Guid id, HttpContext http, Store store, Sessions sessions, TimeProvider time, CancellationToken stop)
    {
        var member = await store.SessionAsync(id, stop) is { Member: { } of } ? await store.MemberAsync(of, stop) : null;
        if (!Caller.Of(http).IsOwner && member?.RolesAt(time.GetUtcNow()).Contains("owner") == true)
        {
            return Problem.Of(ProblemKind.Forbidden, "owner-only").ToHttp();
        }

        return await sessions.EndAsync(id) ? TypedResults.NoContent() : Problem.Of(ProblemKind.NotFound, "session-unknown").ToHttp();
    }
}
