using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Mvc;
using WarySentinel.Contract;
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
public sealed class MemberService(Store store, PolicyHolder policies, PeopleLane people, PasswordHashing passwords, PasswordRules rules, TimeProvider time)
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
        var read = MemberCommands.Read(policies.Current, draft, Guid.CreateVersion7(), time.GetUtcNow(), rules);
        if (read.Problem is not null || draft.Password?.Reveal() is not { } password)
        {
            return read;
        }

        var hash = await passwords.TryHashAsync(password, stop);
        return hash.Problem ?? (Outcome<Member>)(read.Value with { PasswordHash = hash.Value });
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
        members.MapPost("/", Add).Requires("people");
        members.MapGet("/{member}", Show).Requires("read");
        members.MapPut("/{member}/roles", SetRoles).Requires("people");
        members.MapPost("/bulk", (BulkDraft draft, HttpContext http, BulkMembers bulk, CancellationToken stop) => bulk.RunAsync(draft, http, stop))
            .Requires("people").Produces<MembersChangeLine>(200, "application/x-ndjson").ProducesProblem(422);
        members.MapPost("/import", (HttpContext http, bool? dryRun, [FromQuery] string[]? map, string? source, string? domain, ImportMembers import) =>
            import.RunAsync(http, dryRun ?? false, map ?? [], source, domain)).Requires("people").Takes(long.MaxValue)
            .Accepts<string>("text/csv", "multipart/form-data").Produces<MemberImportLine>(200, "application/x-ndjson").ProducesProblem(422);
        api.MapGet("/members.csv", (HttpContext http, [AsParameters] MemberListing listing, ExportMembers export) => export.RunAsync(http, listing))
            .Requires("people").Produces<string>(200, "text/csv").WithTags("Members");
        members.MapGrants();
        members.MapAccounts();
        members.MapLinks();
        members.MapRequests();
        members.MapAnswers();
        RequestEndpoints.Map(api);
        FormEndpoints.Map(api);
        TermsEndpoints.Map(api);
        DirectoryEndpoints.Map(api);
        FactEndpoints.Map(api);
        OrganisationEndpoints.Map(api);
        SyncEndpoints.Map(api);
        api.MapGet("/sessions", Sessions).Requires("read").WithTags("Sessions");
        api.MapDelete("/sessions/{id:guid}", EndSession).Requires("people").WithTags("Sessions");
        return api;
    }

    private static async Task<Results<Ok<PageOf<MemberView>>, ProblemHttpResult>> List(
        string? cursor, int? limit, [AsParameters] MemberListing listing, PolicyHolder policies, Store store, TimeProvider time, CancellationToken stop)
    {
        var after = Paging.Read(cursor);
        if (after.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var size = Paging.SizeOf(limit);
        var asked = listing.ToFilter().ToQuery(policies.Current, after.Value.Length == 0 ? null : after.Value, size + 1);
        if (asked.Problem is { } odd)
        {
            return odd.ToHttp();
        }

        var found = await store.MembersAsync(asked.Value, stop);
        var next = found.Count > size ? Paging.CursorAfter(asked.Value.PlaceOf(found[size - 1])) : null;
        return TypedResults.Ok(new PageOf<MemberView>([.. found.Take(size).Select(m => m.ToWire(time.GetUtcNow(), policies.Current))], next));
    }

    private static async Task<Results<Created<MemberView>, ProblemHttpResult>> Add(
        Wire.MemberDraft draft, HttpContext http, MemberService members, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        var caller = Caller.Of(http);
        if (!caller.IsOwner && (draft.Roles ?? []).Any(r => StaffRights.IsStaffRole(policies.Current, r)))
        {
            return Problem.Of(ProblemKind.Forbidden, "staff-role").ToHttp();
        }

        return (await members.AddAsync(draft.ToCore(), caller.Name, stop)).Match<Results<Created<MemberView>, ProblemHttpResult>>(
            added => TypedResults.Created($"/api/v1/members/{added.Id}", added.ToWire(time.GetUtcNow(), policies.Current)), problem => problem.ToHttp());
    }

    private static async Task<Results<Ok<MemberView>, ProblemHttpResult>> Show(
        string member, HttpContext http, MemberService members, PolicyHolder policies, TimeProvider time, CancellationToken stop)
    {
        if (await members.FindAsync(member, stop) is not { } found)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(found.Version);
        return TypedResults.Ok(found.ToWire(time.GetUtcNow(), policies.Current));
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
                var other = before.Except(draft.Roles).Concat(draft.Roles.Except(before));
                return !caller.IsOwner && other.Any(r => StaffRights.IsStaffRole(policies.Current, r))
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
        return TypedResults.Ok(changed.Value.ToWire(time.GetUtcNow(), http.RequestServices.GetRequiredService<PolicyHolder>().Current));
    }

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

    /// <summary>Ends a session. Somebody else's of the staff, only an owner ends.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> EndSession(
        Guid id, HttpContext http, Store store, Sessions sessions, CallerReader callers, CancellationToken stop)
    {
        var member = await store.SessionAsync(id, stop) is { Member: { } of } ? await store.MemberAsync(of, stop) : null;
        var caller = Caller.Of(http);
        if (!caller.IsOwner && member is not null && member.Id != caller.Member && callers.IsStaff(member))
        {
            return Problem.Of(ProblemKind.Forbidden, "owner-only").ToHttp();
        }

        return await sessions.EndAsync(id) ? TypedResults.NoContent() : Problem.Of(ProblemKind.NotFound, "session-unknown").ToHttp();
    }
}
