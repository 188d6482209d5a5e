using Microsoft.AspNetCore.Http.HttpResults;
using MimeKit;
using WarySentinel.Contract;
using WarySentinel.Contract.Letters;
using WarySentinel.Core;
using WarySentinel.Core.Letters;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Letters;

/// <summary>Letters: where they are; sent again, settled, dropped; addresses that none reaches; the mail server tried.</summary>
public static class LetterEndpoints
{
    private const long LongestReport = 1 << 20;

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapLetters(this RouteGroupBuilder api)
    {
        var letters = api.MapGroup("/letters").WithTags("Letters");
        letters.MapGet("/", List).Requires("read");
        letters.MapGet("/outbox", Outbox).Requires("read");
        letters.MapGet("/{id:guid}", Show).Requires("read");
        letters.MapPost("/{id:guid}/resend", Resend).Requires("write");
        letters.MapPost("/{id:guid}/sent", ItWentOut).Requires("write");
        letters.MapDelete("/{id:guid}", Drop).Requires("write");
        letters.MapPost("/server-test", (MailTest test, CancellationToken stop) => test.RunAsync(stop)).Requires("write");
        letters.MapGet("/unreachable", Unreachable).Requires("read");
        letters.MapDelete("/unreachable/{address}", Reachable).Requires("people");
        letters.MapPost("/bounces", Bounced).Requires("people").Takes(LongestReport).Accepts<string>("message/rfc822");
        TemplateEndpoints.Map(api);
        return api;
    }

    private static async Task<Results<Ok<PageOf<LetterView>>, ProblemHttpResult>> List(
        string? state, string? to, string? kind, string? cursor, int? limit, Store store, CancellationToken stop)
    {
        var states = Enum.GetValues<LetterState>();
        if (state is not null && !states.Any(s => MessageState.NameOf(s) == state))
        {
            return Problem.In("state", "not-one-of", state, string.Join(", ", states.Select(MessageState.NameOf))).ToHttp();
        }

        var kinds = kind?.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        if (kinds?.FirstOrDefault(k => LetterKinds.Find(k) is null) is { } odd)
        {
            return Problem.In("kind", "not-one-of", odd, string.Join(", ", LetterKinds.All.Select(k => k.Key))).ToHttp();
        }

        var place = Paging.Read(cursor);
        if ((place.Problem ?? (PlaceOf(place.Value) is null && place.Value.Length > 0 ? Problem.In("cursor", "cursor") : null)) is { } wrong)
        {
            return wrong.ToHttp();
        }

        var size = Paging.SizeOf(limit);
        var letters = await store.MessagesAsync(
            size + 1, state is null ? null : states.First(s => MessageState.NameOf(s) == state), EmailAddress.Normalise(to) ?? to, PlaceOf(place.Value), kinds,
            stop);
        var page = Paging.Cut(letters, size, m => $"{m.CreatedAt.UtcTicks}.{m.Id:N}");
        return TypedResults.Ok(new PageOf<LetterView>([.. page.Items.Select(ToWire)], page.Next));
    }

    private static async Task<Ok<OutboxView>> Outbox(
        Store store, BounceBox reports, PolicyHolder policies, ServiceOptions options, CancellationToken stop) => TypedResults.Ok(
        new OutboxView(
            await store.MessageCountAsync(LetterState.Waiting, stop), await store.MessageCountAsync(LetterState.GivenUp, stop),
            await store.MessageCountAsync(LetterState.Unclear, stop), options.Smtp.Length > 0, policies.Current.Settings.Letters.Hold,
            await store.MessageCountAsync(LetterState.Returned, stop), await reports.ReadAtAsync(stop)));

    private static async Task<Results<Ok<LetterHistory>, ProblemHttpResult>> Show(Guid id, Store store, CancellationToken stop) =>
        await store.MessageAsync(id, stop) is not var (letter, attempts) ? Unknown
        : TypedResults.Ok(new LetterHistory(
            ToWire(letter), [.. attempts.Select(a => new LetterAttemptView(a.At, a.EndedAt, a.Outcome.ToString().ToLowerInvariant(), a.Said, a.Machine))]));

    private static async Task<Results<NoContent, ProblemHttpResult>> Resend(Guid id, HttpContext http, Store store, CancellationToken stop) =>
        await store.ResendAsync(id, Caller.Of(http).Name, stop) ? TypedResults.NoContent() : Unknown;

    private static async Task<Results<NoContent, ProblemHttpResult>> ItWentOut(Guid id, HttpContext http, Store store, CancellationToken stop) =>
        await store.ItWentOutAsync(id, Caller.Of(http).Name, stop) ? TypedResults.NoContent() : Unknown;

    private static async Task<Results<NoContent, ProblemHttpResult>> Drop(Guid id, HttpContext http, Store store, CancellationToken stop) =>
        await store.DropMessageAsync(id, Caller.Of(http).Name, stop) ? TypedResults.NoContent() : Unknown;

    private static async Task<Ok<PageOf<UnreachableView>>> Unreachable(int? limit, Store store, CancellationToken stop) => TypedResults.Ok(
        new PageOf<UnreachableView>(
            [.. (await store.UnreachableAsync(Paging.SizeOf(limit), stop)).Select(u => new UnreachableView(u.Address, u.At, u.Status, u.Said))], null));

    private static async Task<Results<NoContent, ProblemHttpResult>> Reachable(string address, HttpContext http, Store store, CancellationToken stop) =>
        EmailAddress.Normalise(address) is { } known && await store.ReachableAgainAsync(known, Caller.Of(http).Name, stop) ? TypedResults.NoContent()
        : Problem.Of(ProblemKind.NotFound, "address-reachable", address).ToHttp();

    /// <summary>Takes a report of a letter that reached nobody (RFC 3464), as the mail server's pipe, or a job over a mailbox, hands it on.</summary>
    private static async Task<Results<Ok<BouncesView>, ProblemHttpResult>> Bounced(HttpContext http, Bouncing bouncing, CancellationToken stop)
    {
        try
        {
            using var mail = await MimeMessage.LoadAsync(http.Request.Body, stop);
            var found = await bouncing.TakeAsync(mail, Caller.Of(http).Name, stop);
            return found is { Marked.Count: 0, Passing.Count: 0, Strange.Count: 0 } ? Problem.In("body", "bounce-form").ToHttp() : TypedResults.Ok(found);
        }
        catch (FormatException)
        {
            return Problem.In("body", "bounce-form").ToHttp();
        }
    }

    private static (DateTimeOffset At, Guid Id)? PlaceOf(string place) =>
        place.Split('.') is [var ticks, var id] && long.TryParse(ticks, out var at) && at >= 0 && at <= DateTime.MaxValue.Ticks
            && Guid.TryParse(id, out var name)
            ? (new DateTimeOffset(at, TimeSpan.Zero), name) : null;

    private static ProblemHttpResult Unknown => Problem.Of(ProblemKind.NotFound, "letter-unknown").ToHttp();

    private static LetterView ToWire(MessageState letter) => new(
        letter.Id, letter.To, letter.Subject, letter.Kind, letter.StateName, letter.CreatedAt, letter.SentAt, letter.GivenUpAt, letter.UnclearAt,
            letter.ReturnedAt,
        letter.NextTryAt, letter.Tries, letter.Fault);
}
