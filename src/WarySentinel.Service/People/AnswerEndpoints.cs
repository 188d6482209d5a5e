using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.People;
using WarySentinel.Core;
using WarySentinel.Core.People.Forms;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.People;

/// <summary>What members answered, and the files that they sent.</summary>
public static class AnswerEndpoints
{
    /// <summary>Maps the endpoints beneath those of members.</summary>
    public static void MapAnswers(this RouteGroupBuilder members)
    {
        members.MapGet("/{member}/answers", List).Requires("read");
        members.MapPut("/{member}/answers", Set).Requires("people");
        members.MapGet("/{member}/files/{file:guid}", Download).Requires("people").Produces<string>(200, "application/octet-stream").ProducesProblem(404);
    }

    private static async Task<Results<Ok<PageOf<AnswerView>>, ProblemHttpResult>> List(
        string member, MemberService members, Store store, PolicyHolder policies, CancellationToken stop)
    {
        if (await members.FindAsync(member, stop) is not { } found)
        {
            return Problem.Of(ProblemKind.NotFound, "member-unknown-name", member).ToHttp();
        }

        return TypedResults.Ok(await PageOfAsync(found.Id, store, policies, stop));
    }

    private static async Task<Results<Ok<PageOf<AnswerView>>, ProblemHttpResult>> Set(
        string member, AnswersDraft draft, HttpContext http, MemberService members, CallerReader callers, PeopleLane people, Store store, PolicyHolder policies,
        CancellationToken stop)
    {
        var caller = Caller.Of(http);
        var changed = await people.ChangeAsync(
            async () =>
            {
                var found = await MemberAccountEndpoints.FindAsync(member, caller, members, callers, stop);
                return found.Problem ?? AnswerCommands.Set(FormBook.Of(policies.Current), found.Value, draft.Answers!);
            },
            caller.Name);
        return changed.Problem is { } problem ? problem.ToHttp() : TypedResults.Ok(await PageOfAsync(changed.Value.Id, store, policies, stop));
    }

    /// <summary>A file that a member sent: always to be kept, never to be shown, whatever it is.</summary>
    private static async Task<IResult> Download(string member, Guid file, MemberService members, Store store, HttpContext http, CancellationToken stop)
    {
        if (await members.FindAsync(member, stop) is not { } found || await store.FileAsync(found.Id, file, stop) is not { } kept)
        {
            return Problem.Of(ProblemKind.NotFound, "file-unknown").ToHttp();
        }

        http.Response.Headers.XContentTypeOptions = "nosniff";
        http.Response.Headers.ContentSecurityPolicy = "default-src 'none'; sandbox";
        http.Response.Headers.CacheControl = "no-store";
        return Results.Bytes(kept.Content, FileTypes.IsKnown(kept.Type) ? FileTypes.MediaOf(kept.Type) : "application/octet-stream", kept.Name);
    }

    private static async Task<PageOf<AnswerView>> PageOfAsync(Guid member, Store store, PolicyHolder policies, CancellationToken stop) =>
        new((await store.AnswersAsync(member, stop)).ToWire(FormBook.Of(policies.Current), await store.FilesAsync(member, stop)), null);
}
