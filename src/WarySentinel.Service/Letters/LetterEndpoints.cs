using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Letters;
using WarySentinel.Core;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Letters;

/// <summary>Letters: where they are; sent again, dropped.</summary>
public static class LetterEndpoints
{
    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapLetters(this RouteGroupBuilder api)
    {
        var letters = api.MapGroup("/letters").WithTags("Letters");
        letters.MapGet("/", List).Requires("read");
        letters.MapPost("/{id:guid}/resend", Resend).Requires("write");
        letters.MapDelete("/{id:guid}", Drop).Requires("write");
        return api;
    }

    private static async Task<Results<Ok<PageOf<LetterView>>, ProblemHttpResult>> List(
        string? state, string? to, int? limit, Store store, CancellationToken stop)
    {
        var states = Enum.GetValues<LetterState>();
        if (state is not null && !states.Any(s => MessageState.NameOf(s) == state))
        {
            return Problem.In("state", "not-one-of", state, string.Join(", ", states.Select(MessageState.NameOf))).ToHttp();
        }

        var letters = await store.MessagesAsync(
            Paging.SizeOf(limit), state is null ? null : states.First(s => MessageState.NameOf(s) == state), to, stop);
        return TypedResults.Ok(new PageOf<LetterView>([.. letters.Select(ToWire)], null));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> Resend(Guid id, HttpContext http, Store store, CancellationToken stop) =>
        await store.ResendAsync(id, Caller.Of(http).Name, stop) ? TypedResults.NoContent() : Problem.Of(ProblemKind.NotFound, "letter-unknown").ToHttp();

    private static async Task<Results<NoContent, ProblemHttpResult>> Drop(Guid id, HttpContext http, Store store, CancellationToken stop) =>
        await store.DropMessageAsync(id, Caller.Of(http).Name, stop) ? TypedResults.NoContent()
        : Problem.Of(ProblemKind.NotFound, "letter-unknown").ToHttp();

    private static LetterView ToWire(MessageState letter) => new(
        letter.Id, letter.To, letter.Subject, letter.StateName, letter.CreatedAt, letter.SentAt, letter.GivenUpAt, letter.NextTryAt, letter.Tries,
        letter.Fault);
}
