using System.Text.Json.Serialization;
using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>A fact given to a member.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="Fact">Kind and key, such as <c>role:dealer</c>.</param>
/// <param name="Kind">The kind.</param>
/// <param name="Key">The key.</param>
/// <param name="From">When it begins.</param>
/// <param name="Until">When it ends, or ended.</param>
/// <param name="Source">What gave it: <c>hand</c>, <c>order:4711</c>.</param>
/// <param name="InForce">Whether it counts now.</param>
public sealed record GrantView(
    Guid Id, string Fact, string Kind, string Key, DateTimeOffset? From, DateTimeOffset? Until, string Source, bool InForce)
{
    /// <summary>The view of a grant.</summary>
    public static GrantView Of(Grant grant, DateTimeOffset now) => new(
        grant.Id, grant.Fact, FactNames.NameOf(grant.Kind), grant.Key, grant.From, grant.Until, grant.Source.ToString(), grant.IsInForce(now));
}

/// <summary>What became of a grant.</summary>
/// <param name="Grant">The grant.</param>
/// <param name="Changed">Whether anything changed by it; saying the same again from the same source changes nothing.</param>
/// <param name="Version">The member's version by now.</param>
public sealed record GrantedView(GrantView Grant, bool Changed, int Version);

/// <summary>Other dates for a grant; what is left out is open.</summary>
public sealed record GrantDatesDraft(string? From, string? Until);

/// <summary>A member.</summary>
public sealed record MemberView(
    Guid Id, string Email, string Name, string? UserName, string Status, IReadOnlyList<string> Roles, IReadOnlyList<GrantView> Grants,
    DateTimeOffset CreatedAt, int Version)
{
    /// <summary>The view of a member.</summary>
    public static MemberView Of(Member member, DateTimeOffset now) => new(
        member.Id, member.Email, member.Name, member.UserName, member.Status.ToString().ToLowerInvariant(), member.RolesAt(now),
        [.. member.Grants.Select(g => GrantView.Of(g, now))], member.CreatedAt, member.Version);
}

/// <summary>The roles that a member is to have.</summary>
public sealed record RolesDraft([property: JsonRequired] IReadOnlyList<string> Roles);

/// <summary>Where an account is to stand.</summary>
public sealed record StatusDraft([property: JsonRequired] string Status);

/// <summary>A role, group or plan.</summary>
public sealed record StandingView(string Key, string Title, int Members, int Version, bool BuiltIn);

/// <summary>A role, group or plan to be added.</summary>
public sealed record StandingDraft(string? Key, string? Title);

/// <summary>A session.</summary>
public sealed record SessionView(
    Guid Id, string Purpose, string? Member, DateTimeOffset CreatedAt, DateTimeOffset Until, string? Network, string? Agent, IReadOnlyList<string> Unlocked);

/// <summary>Adds members: hashes the password on the queue, then stores.</summary>
public sealed class MemberService(Store store, PolicyHolder policies, PeopleLane people, PasswordHashing passwords, TimeProvider time)
{
    /// <summary>Adds a member.</summary>
    /// <param name="draft">What is written of them.</param>
    /// <param name="by">Who does it.</param>
    /// <param name="stop">Cancels.</param>
    public async Task<Outcome<Member>> AddAsync(MemberDraft draft, string by, CancellationToken stop)
    {
        var fresh = await ReadAsync(draft, stop);
        // Whether somebody has that address or name already, the store's own index judges.
        return fresh.Problem ?? await people.ChangeAsync(MemberCommands.Add(fresh.Value), by);
    }

    /// <summary>Adds the first owner, unless there is one by the time it is stored, here or elsewhere.</summary>
    public async Task<Outcome<Member>> AddFirstOwnerAsync(MemberDraft draft, string by, CancellationToken stop)
    {
        var fresh = await ReadAsync(draft, stop);
        return fresh.Problem ?? await people.ChangeAsync(MemberCommands.AddFirstOwner(fresh.Value), by);
    }

    private async Task<Outcome<Member>> ReadAsync(MemberDraft draft, CancellationToken stop)
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
        members.MapPut("/{member}/status", SetStatus).Requires("write");
        members.MapGrants();
        foreach (var (path, kind) in new[] { ("roles", FactKind.Role), ("groups", FactKind.Group), ("plans", FactKind.Plan) })
        {
            var standings = api.MapGroup("/" + path).WithTags(char.ToUpperInvariant(path[0]) + path[1..]);
            standings.MapGet("/", (PolicyHolder policies, Store store, CancellationToken stop) => ListStandings(kind, policies, store, stop)).Requires("read");
            standings.MapPost("/", (StandingDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
                AddStanding(kind, path, draft, http, policies, stop)).Requires("write");
            standings.MapDelete("/{key}", (string key, HttpContext http, PolicyHolder policies, Store store, CancellationToken stop) =>
                DropStanding(kind, key, http, policies, store, stop)).Requires("write");
        }

        api.MapGet("/sessions", Sessions).Requires("read").WithTags("Sessions");
        api.MapDelete("/sessions/{id:guid}", EndSession).Requires("write").WithTags("Sessions");
        return api;
    }

    private static async Task<Results<Ok<PageOf<MemberView>>, ProblemHttpResult>> List(
        string? cursor, int? limit, string? search, Store store, TimeProvider time, CancellationToken stop)
    {
        var after = Paging.Read(cursor);
        if (after.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var size = Paging.SizeOf(limit);
        var found = await store.MembersAsync(after.Value.Length == 0 ? null : after.Value, size + 1, search, stop);
        return TypedResults.Ok(Paging.Cut([.. found.Select(m => MemberView.Of(m, time.GetUtcNow()))], size, m => m.Email));
    }

    private static async Task<Results<Created<MemberView>, ProblemHttpResult>> Add(
        MemberDraft draft, HttpContext http, MemberService members, TimeProvider time, CancellationToken stop)
    {
        var caller = Caller.Of(http);
        if (!caller.IsOwner && (draft.Roles ?? []).Any(Visitor.StaffRoles.Contains))
        {
            return Problem.Of(ProblemKind.Forbidden, "staff-role").ToHttp();
        }

        return (await members.AddAsync(draft, caller.Name, stop)).Match<Results<Created<MemberView>, ProblemHttpResult>>(
            added => TypedResults.Created($"/api/v1/members/{added.Id}", MemberView.Of(added, time.GetUtcNow())), problem => problem.ToHttp());
    }

    private static async Task<Results<Ok<MemberView>, ProblemHttpResult>> Show(
        string member, HttpContext http, MemberService members, TimeProvider time, CancellationToken stop)
    {
        if (await members.FindAsync(member, stop) is not { } found)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(found.Version);
        return TypedResults.Ok(MemberView.Of(found, time.GetUtcNow()));
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

    private static async Task<Results<Ok<MemberView>, ProblemHttpResult>> SetStatus(
        string member, StatusDraft draft, HttpContext http, MemberService members, PeopleLane people, TimeProvider time, CancellationToken stop)
    {
        MemberStatus? status = draft.Status switch
        {
            "active" => MemberStatus.Active,
            "suspended" => MemberStatus.Suspended,
            "closed" => MemberStatus.Closed,
            _ => null
        };
        if (status is null)
        {
            return Problem.In("status", "status-unknown", draft.Status).ToHttp();
        }

        var caller = Caller.Of(http);
        var changed = await people.ChangeAsync(
            async () =>
            {
                var found = await members.FindAsync(member, stop);
                return !caller.IsOwner && found?.RolesAt(time.GetUtcNow()).Any(Visitor.StaffRoles.Contains) == true
                    ? Problem.Of(ProblemKind.Forbidden, "owner-only")
                    : MemberCommands.SetStatus(found, status.Value, time.GetUtcNow());
            },
            caller.Name);
        return Changed(changed, http, time);
    }

    private static Results<Ok<MemberView>, ProblemHttpResult> Changed(Outcome<Member> changed, HttpContext http, TimeProvider time)
    {
        if (changed.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(changed.Value.Version);
        return TypedResults.Ok(MemberView.Of(changed.Value, time.GetUtcNow()));
    }

    private static async Task<Ok<PageOf<StandingView>>> ListStandings(FactKind kind, PolicyHolder policies, Store store, CancellationToken stop)
    {
        var held = await store.HoldersAsync(stop);
        var views = (kind == FactKind.Role ? Visitor.StaffRoles : [])
            .Select(key => new StandingView(key, char.ToUpperInvariant(key[0]) + key[1..] + "s", held.GetValueOrDefault((kind, key)), 1, true)).ToList();
        views.AddRange(policies.Current.Definitions.Where(s => s.Kind == kind)
            .Select(s => new StandingView(s.Key, s.Title, held.GetValueOrDefault((kind, s.Key)), s.Version, false)));

        return TypedResults.Ok(new PageOf<StandingView>(views, null));
    }

    private static async Task<Results<Created<StandingView>, ProblemHttpResult>> AddStanding(
        FactKind kind, string path, StandingDraft draft, HttpContext http, PolicyHolder policies, CancellationToken stop) =>
        (await policies.ChangeAsync(policy => FactCommands.Add(policy, kind, draft.Key, draft.Title), Caller.Of(http).Name, stop))
            .Match<Results<Created<StandingView>, ProblemHttpResult>>(
                added => TypedResults.Created($"/api/v1/{path}/{added.Key}", new StandingView(added.Key, added.Title, 0, added.Version, false)), problem =>
                problem.ToHttp());

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
            [.. found.Select(s => new SessionView(
                s.Id, s.Purpose.ToString().ToLowerInvariant(), s.Member is { } id ? whose.GetValueOrDefault(id)?.Email : null, s.CreatedAt, s.Until, s.Network,
                s.Agent, [.. s.Unlocks.Select(u => u.Gate)]))], null));
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
