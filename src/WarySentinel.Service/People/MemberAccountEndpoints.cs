using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>One member's account: suspended, let back in, ended, erased; what is noted of them; their data for them to have.</summary>
public static class MemberAccountEndpoints
{
    private const int MostOfEach = 1000;

    /// <summary>Maps the endpoints beneath those of members.</summary>
    public static void MapAccounts(this RouteGroupBuilder members)
    {
        members.MapPut("/{member}/status", SetStatus).Requires("people");
        members.MapDelete("/{member}", Erase).Requires("write");
        members.MapGet("/{member}/data", Data).Requires("people");
        members.MapDelete("/{member}/sessions", EndSessions).Requires("people");
        members.MapGet("/{member}/notes", ListNotes).Requires("read");
        members.MapPost("/{member}/notes", AddNote).Requires("people");
        members.MapDelete("/{member}/notes/{note:guid}", DropNote).Requires("people");
    }

    /// <summary>Suspends, lets back in, or ends, with words that the member reads when they sign in.</summary>
    private static async Task<Results<Ok<MemberView>, ProblemHttpResult>> SetStatus(
        string member, StatusDraft draft, HttpContext http, MemberService members, CallerReader callers, PeopleLane people, TimeProvider time,
        CancellationToken stop)
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
            async () => (await FindAsync(member, caller, members, callers, stop)).Match(
                found => AccountCommands.SetStatus(found, status.Value, draft.Words, caller.Name, time.GetUtcNow()), problem => problem),
            caller.Name);
        return MemberEndpoints.Changed(changed, http, time);
    }

    /// <summary>Erases a member: who they were is gone; that there was somebody stays.</summary>
    private static async Task<Results<NoContent, ProblemHttpResult>> Erase(
        string member, bool? tell, HttpContext http, MemberService members, PeopleLane people, ILetters letters, PolicyHolder policies, TimeProvider time,
        CancellationToken stop)
    {
        var caller = Caller.Of(http);
        if (!caller.IsOwner)
        {
            return Problem.Of(ProblemKind.Forbidden, "owner-only").ToHttp();
        }

        var erased = await people.ChangeAsync(
            async () => AccountCommands.Erase(
                policies.Current, await members.FindAsync(member, stop), time.GetUtcNow(),
                tell == true ? gone => letters.Write(Core.Letters.LetterKinds.Erased, LetterReader.Of(gone)) : null),
            caller.Name);
        return erased.Problem is { } problem ? problem.ToHttp() : TypedResults.NoContent();
    }

    /// <summary>All that is known of a member, for them to have.</summary>
    private static async Task<Results<Ok<MemberDataView>, ProblemHttpResult>> Data(
        string member, HttpContext http, MemberService members, Store store, IMemberOrders orders, IMemberFeeds feeds, PolicyHolder policies,
        TimeProvider time, CancellationToken stop)
    {
        if (await members.FindAsync(member, stop) is not { } found)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp();
        }

        var (policy, files) = (policies.Current, await store.FilesAsync(found.Id, stop));
        var answers = (await store.AnswersAsync(found.Id, stop)).ToWire(FormBook.Of(policy), files);
        var request = await store.RequestAsync(found.Id, stop) is { } asked ? new RequestOf(asked, found).ToWire(policy, answers, 0) : null;
        var history = await store.AuditAsync(null, MostOfEach, found.Email, null, stop);
        http.Response.Headers.ContentDisposition = "attachment; filename=\"member.json\"";
        return TypedResults.Ok(new MemberDataView(
            found.ToWire(time.GetUtcNow(), policy), [.. (await store.SessionsAsync(found.Id, MostOfEach, stop)).Select(s => s.ToWire(found.Email))],
            [.. (await store.NotesAsync(found.Id, stop)).Select(n => n.ToWire())],
            [.. (await store.MessagesAsync(MostOfEach, to: found.Email, stop: stop))
            .Select(m => new MemberLetterView(m.CreatedAt, m.Subject, m.StateName, m.SentAt))],
            [.. history.Select(a => new MemberEventView(a.At, a.By, a.Action, a.Before, a.After))],
            await store.MembershipsAsync(found.Id, time.GetUtcNow(), stop), answers, request,
            [.. (await store.ConsentsAsync(found.Id, MostOfEach, stop)).Select(c => c.ToWire())],
            await orders.OfAsync(found.Id, stop), await feeds.OfAsync(found.Id, stop)));
    }

    /// <summary>Signs a member out everywhere.</summary>
    private static async Task<Results<Ok<EndedView>, ProblemHttpResult>> EndSessions(
        string member, HttpContext http, MemberService members, CallerReader callers, PeopleLane people, Store store, CancellationToken stop)
    {
        var caller = Caller.Of(http);
        var found = await FindAsync(member, caller, members, callers, stop);
        if (found.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var there = (await store.SessionsAsync(found.Value.Id, MostOfEach, stop)).Count;
        await people.ChangeAsync(
            new Edit<int>(new Edit("member.sign-out", found.Value.Email, there > 0 ? [new SessionsEnded(found.Value.Id)] : []), there), caller.Name);
        return TypedResults.Ok(new EndedView(there));
    }

    private static async Task<Results<Ok<PageOf<NoteView>>, ProblemHttpResult>> ListNotes(
        string member, MemberService members, Store store, CancellationToken stop) => await members.FindAsync(member, stop) is { } found
        ? TypedResults.Ok(new PageOf<NoteView>([.. (await store.NotesAsync(found.Id, stop)).Select(n => n.ToWire())], null))
        : Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp();

    private static async Task<Results<Created<NoteView>, ProblemHttpResult>> AddNote(
        string member, NoteDraft draft, HttpContext http, MemberService members, PeopleLane people, Store store, TimeProvider time, CancellationToken stop)
    {
        var caller = Caller.Of(http);
        var noted = await people.ChangeAsync(
            async () =>
            {
                var found = await members.FindAsync(member, stop);
                var there = found is null ? 0 : (await store.NotesAsync(found.Id, stop)).Count;
                return AccountCommands.Note(found, draft.Text, there, caller.Name, time.GetUtcNow());
            },
            caller.Name);
        return noted.Match<Results<Created<NoteView>, ProblemHttpResult>>(
            note => TypedResults.Created($"/api/v1/members/{note.Member}/notes", note.ToWire()), problem => problem.ToHttp());
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> DropNote(
        string member, Guid note, HttpContext http, MemberService members, PeopleLane people, Store store, CancellationToken stop)
    {
        var dropped = await people.ChangeAsync(
            async () =>
            {
                var found = await members.FindAsync(member, stop);
                var notes = found is null ? [] : await store.NotesAsync(found.Id, stop);
                return AccountCommands.DropNote(found, notes.FirstOrDefault(n => n.Id == note));
            },
            Caller.Of(http).Name);
        return dropped.Problem is { } problem ? problem.ToHttp() : TypedResults.NoContent();
    }

    /// <summary>The member, whom this caller may keep out: staff are only an owner's to touch.</summary>
    internal static async Task<Outcome<Member>> FindAsync(
        string member, Caller caller, MemberService members, CallerReader callers, CancellationToken stop) =>
        await members.FindAsync(member, stop) is not { } found ? Problem.Of(ProblemKind.NotFound, "member-unknown-name", member)
        : !caller.IsOwner && callers.IsStaff(found) ? Problem.Of(ProblemKind.Forbidden, "owner-only") : found;
}
