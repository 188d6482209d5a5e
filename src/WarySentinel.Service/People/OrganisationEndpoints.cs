using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.People;
using WarySentinel.Service.Web;
using WarySentinel.Storage;
using Rules = WarySentinel.Core.People;
using Wire = WarySentinel.Contract.People;

namespace WarySentinel.Service.People;

/// <summary>Organisations: what they are given, and who belongs to them.</summary>
public static class OrganisationEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        var organisations = api.MapGroup("/organisations").WithTags("Organisations");
        organisations.MapGet("/", List).Requires("read");
        organisations.MapPost("/", Add).Requires("people");
        organisations.MapGet("/{key}", Show).Requires("read");
        organisations.MapPut("/{key}", Set).Requires("people");
        organisations.MapPost("/{key}/end", End).Requires("people");
        organisations.MapDelete("/{key}", Remove).Requires("people");
        organisations.MapPut("/{key}/people/{member}", Join).Requires("people");
        organisations.MapDelete("/{key}/people/{member}", Leave).Requires("people");
        organisations.MapPost("/{key}/invitations", Invite).Requires("people");
        organisations.MapPost("/{key}/invitations/{invitation:guid}/letter", Remind).Requires("people");
        organisations.MapDelete("/{key}/invitations/{invitation:guid}", Withdraw).Requires("people");
        api.MapGet("/members/{member}/organisations", Of).Requires("read").WithTags("Members");
    }

    private static async Task<Results<Ok<PageOf<OrganisationView>>, ProblemHttpResult>> List(
        string? search, string? cursor, int? limit, Store store, TimeProvider time, CancellationToken stop)
    {
        var after = Paging.Read(cursor);
        if (after.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var size = Paging.SizeOf(limit);
        var found = await store.OrganisationsAsync(search, after.Value, size + 1, stop);
        var page = Paging.Cut(found, size, l => l.Organisation.Key);
        return TypedResults.Ok(new PageOf<OrganisationView>([.. page.Items.Select(l => l.ToWire(time.GetUtcNow()))], page.Next));
    }

    private static async Task<Results<Created<OrganisationView>, ProblemHttpResult>> Add(
        Wire.OrganisationDraft draft, HttpContext http, Organisations organisations, TimeProvider time)
    {
        var added = await organisations.AddAsync(draft.ToCore(draft.Key), Caller.Of(http).Name);
        return added.Match<Results<Created<OrganisationView>, ProblemHttpResult>>(
            one => TypedResults.Created($"/api/v1/organisations/{one.Key}", one.ToWire([], time.GetUtcNow())), problem => problem.ToHttp());
    }

    private static Task<Results<Ok<OrganisationView>, ProblemHttpResult>> Show(
        string key, HttpContext http, Organisations organisations, TimeProvider time, CancellationToken stop) =>
        ViewAsync(key, http, organisations, time, stop);

    /// <summary>Changes what an organisation is: all that is sent, in place of what was.</summary>
    private static async Task<Results<Ok<OrganisationView>, ProblemHttpResult>> Set(
        string key, Wire.OrganisationDraft draft, HttpContext http, Organisations organisations, TimeProvider time, CancellationToken stop)
    {
        var version = Paging.VersionIn(http.Request);
        return version.Problem is { } problem ? problem.ToHttp() : await AnswerAsync(
            key, http, organisations, time, organisations.ChangeAsync(
                key, (found, people, policy, now) => OrganisationCommands.Set(policy, found, draft.ToCore(key), version.Value, people, now),
                Caller.Of(http).Name, stop), stop);
    }

    /// <summary>Ends an organisation now. Its people keep their accounts, and hold through it no more.</summary>
    private static Task<Results<Ok<OrganisationView>, ProblemHttpResult>> End(
        string key, HttpContext http, Organisations organisations, TimeProvider time, CancellationToken stop) => AnswerAsync(
        key, http, organisations, time, organisations.ChangeAsync(
            key, (found, people, _, now) => OrganisationCommands.End(found, people, now), Caller.Of(http).Name, stop), stop);

    /// <summary>Removes an organisation. Its people keep their accounts, and hold through it no more.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> Remove(
        string key, HttpContext http, Organisations organisations, CancellationToken stop)
    {
        var removed = await organisations.ChangeAsync(
            key, (found, people, _, now) => OrganisationCommands.Remove(found, people, now), Caller.Of(http).Name, stop);
        return removed.Problem is { } problem ? problem.ToHttp() : TypedResults.NoContent();
    }

    /// <summary>A member belongs to it from now on, as a manager or not; one who does already is made a manager, or is one no longer.</summary>
    private static async Task<Results<Ok<OrganisationView>, ProblemHttpResult>> Join(
        string key, string member, OrganisationPersonDraft draft, HttpContext http, Organisations organisations, MemberService members, TimeProvider time,
        CancellationToken stop) => await members.FindAsync(member, stop) is not { } found
        ? Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp()
        : await AnswerAsync(
            key, http, organisations, time, organisations.ChangeAsync(
                key, found.Id, (one, whom, now) => OrganisationPeople.Join(one, whom, draft.Manages ?? false, now), Caller.Of(http).Name, stop), stop);

    /// <summary>A member belongs to it no longer. They keep their account, and hold through it no more.</summary>
    private static async Task<Results<Ok<OrganisationView>, ProblemHttpResult>> Leave(
        string key, string member, HttpContext http, Organisations organisations, MemberService members, TimeProvider time, CancellationToken stop)
    {
        var by = Caller.Of(http).Name;
        return await members.FindAsync(member, stop) is not { } found ? Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp()
            : await AnswerAsync(
                key, http, organisations, time, organisations.ChangeAsync(
                    key, found.Id, (one, whom, now) => OrganisationPeople.Leave(one, whom, new OrganisationActor(by, false), now), by, stop), stop);
    }

    /// <summary>Asks somebody to join, by a letter with a link that works once.</summary>
    private static async Task<Results<Created<OrganisationInvitationView>, ProblemHttpResult>> Invite(
        string key, OrganisationInvitationDraft draft, HttpContext http, Organisations organisations, CancellationToken stop)
    {
        var asked = await organisations.InviteAsync(
            key, draft.Email, draft.Manages ?? false, new OrganisationActor(Caller.Of(http).Name, false), null, stop);
        return asked.Match<Results<Created<OrganisationInvitationView>, ProblemHttpResult>>(
            one => TypedResults.Created($"/api/v1/organisations/{key}", one.ToWire()), problem => problem.ToHttp());
    }

    /// <summary>Writes again to somebody who was asked. The link of the letter before works no longer.</summary>
    private static async Task<Results<Ok<OrganisationInvitationView>, ProblemHttpResult>> Remind(
        string key, Guid invitation, HttpContext http, Organisations organisations, CancellationToken stop) =>
        (await organisations.RemindAsync(key, invitation, Caller.Of(http).Name, null, stop))
            .Match<Results<Ok<OrganisationInvitationView>, ProblemHttpResult>>(one => TypedResults.Ok(one.ToWire()), problem => problem.ToHttp());

    /// <summary>Takes an invitation back: its link works no longer, its seat is free.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> Withdraw(
        string key, Guid invitation, HttpContext http, Organisations organisations, CancellationToken stop)
    {
        var withdrawn = await organisations.ChangeAsync(
            key, (found, _, _, _) => OrganisationPeople.Withdraw(found, invitation), Caller.Of(http).Name, stop);
        return withdrawn.Problem is { } problem ? problem.ToHttp() : TypedResults.NoContent();
    }

    /// <summary>The organisations that a member belongs to.</summary>
    private static async Task<Results<Ok<IReadOnlyList<MembershipView>>, ProblemHttpResult>> Of(
        string member, MemberService members, Store store, TimeProvider time, CancellationToken stop) => await members.FindAsync(member, stop) is { } found
        ? TypedResults.Ok(await store.MembershipsAsync(found.Id, time.GetUtcNow(), stop))
            : Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp();

    private static async Task<Results<Ok<OrganisationView>, ProblemHttpResult>> AnswerAsync<T>(
        string key, HttpContext http, Organisations organisations, TimeProvider time, Task<Outcome<T>> change, CancellationToken stop) =>
        (await change).Problem is { } problem ? problem.ToHttp() : await ViewAsync(key, http, organisations, time, stop);

    private static async Task<Results<Ok<OrganisationView>, ProblemHttpResult>> ViewAsync(
        string key, HttpContext http, Organisations organisations, TimeProvider time, CancellationToken stop)
    {
        var (found, people) = await organisations.FindAsync(key, stop);
        if (found is null)
        {
            return Problem.Of(ProblemKind.NotFound, "organisation-unknown").ToHttp();
        }

        http.Response.Headers.ETag = Paging.TagOf(found.Version);
        return TypedResults.Ok(found.ToWire(people, time.GetUtcNow()));
    }
}

/// <summary>Organisations between the wire and the rules.</summary>
internal static class OrganisationWire
{
    public static Rules.OrganisationDraft ToCore(this Wire.OrganisationDraft draft, string? key) => new(
        key, draft.Title, draft.Seats, draft.Until, [.. (draft.Facts ?? []).Select(f => new Rules.GrantDraft(f?.Fact, f?.From, f?.Until))]);

    public static OrganisationView ToWire(this OrganisationLine line, DateTimeOffset now) => Bare(line.Organisation, line.People + line.Invited, now);

    public static OrganisationView ToWire(this Organisation one, IReadOnlyCollection<Member> people, DateTimeOffset now)
    {
        var byId = people.ToDictionary(m => m.Id);
        return Bare(one, one.SeatsTaken, now) with
        {
            People = [.. one.People.Where(p => byId.ContainsKey(p.Member)).Select(p => p.ToWire(byId[p.Member]))],
            Invitations = [.. one.Invitations.Select(i => i.ToWire())],
        };
    }

    public static OrganisationInvitationView ToWire(this OrganisationInvitation one) =>
        new(one.Id, one.Email, one.Manages, one.At, one.SentAt, one.Until, one.By);

    public static async Task<IReadOnlyList<MembershipView>> MembershipsAsync(this Store store, Guid member, DateTimeOffset now, CancellationToken stop) =>
    [
        .. (await store.OrganisationsOfAsync(member, stop)).Select(o => o.PersonOf(member) is { } mine
            ? new MembershipView(o.Key, o.Title, mine.Manages, mine.JoinedAt, o.IsOver(now)) : null).OfType<MembershipView>(),
    ];

    private static OrganisationPersonView ToWire(this OrganisationPerson person, Member member) => new(
        member.Id, member.Email, member.Name, member.Status.ToString().ToLowerInvariant(), person.Manages, person.JoinedAt, member.SeenAt);

    private static OrganisationView Bare(Organisation one, int taken, DateTimeOffset now) => new(
        one.Id, one.Key, one.Title, one.Seats, taken, one.Until, one.IsOver(now), one.CreatedAt,
        [.. one.Facts.Select(f => new OrganisationFactView(f.Fact, f.From, f.Until))], null, null, one.Version);
}
