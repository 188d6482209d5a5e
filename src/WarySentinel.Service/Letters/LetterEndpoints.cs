using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Core;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Letters;

/// <summary>A letter; its text is not told.</summary>
/// <param name="Id">Its name.</param>
/// <param name="To">The e-mail address.</param>
/// <param name="Subject">The subject.</param>
/// <param name="State"><c>waiting</c>, <c>sent</c> or <c>given-up</c>.</param>
/// <param name="CreatedAt">When it was written.</param>
/// <param name="SentAt">When it was sent.</param>
/// <param name="GivenUpAt">When it was given up.</param>
/// <param name="NextTryAt">When it is tried next.</param>
/// <param name="Tries">How often it was tried.</param>
/// <param name="Fault">What the mail server, or the way to it, said last.</param>
public sealed record LetterView(
    Guid Id, string To, string Subject, string State, DateTimeOffset CreatedAt, DateTimeOffset? SentAt, DateTimeOffset? GivenUpAt, DateTimeOffset? NextTryAt,
    int Tries, string? Fault)
{
    /// <summary>The view of a letter.</summary>
    public static LetterView Of(MessageState letter) => new(
        letter.Id, letter.To, letter.Subject, NameOf(letter.State), letter.CreatedAt, letter.SentAt, letter.GivenUpAt, letter.NextTryAt, letter.Tries,
        letter.Fault);

    /// <summary>The name of a state.</summary>
    public static string NameOf(LetterState state) => state switch { LetterState.Sent => "sent", LetterState.GivenUp => "given-up", _ => "waiting" };
}

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

    private static async Task<Results<Ok<PageOf<LetterView>>, ProblemHttpResult>> List(string? state, int? limit, Store store, CancellationToken stop)
    {
        var states = Enum.GetValues<LetterState>();
        if (state is not null && !states.Any(s => LetterView.NameOf(s) == state))
        {
            return Problem.In("state", "not-one-of", state, string.Join(", ", states.Select(LetterView.NameOf))).ToHttp();
        }

        var letters = await store.MessagesAsync(
            Paging.SizeOf(limit), state is null ? null : states.First(s => LetterView.NameOf(s) == state), stop);
        return TypedResults.Ok(new PageOf<LetterView>([.. letters.Select(LetterView.Of)], null));
    }

    private static async Task<Results<NoContent, ProblemHttpResult>> Resend(Guid id, HttpContext http, Store store, CancellationToken stop) =>
        await store.ResendAsync(id, Caller.Of(http).Name, stop) ? TypedResults.NoContent() : Problem.Of(ProblemKind.NotFound, "letter-unknown").ToHttp();

    private static async Task<Results<NoContent, ProblemHttpResult>> Drop(Guid id, HttpContext http, Store store, CancellationToken stop) =>
        await store.DropMessageAsync(id, Caller.Of(http).Name, stop) ? TypedResults.NoContent()
        : Problem.Of(ProblemKind.NotFound, "letter-unknown").ToHttp();
}
