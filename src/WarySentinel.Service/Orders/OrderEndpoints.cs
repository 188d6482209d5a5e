using Microsoft.AspNetCore.Http.HttpResults;
using WarySentinel.Contract;
using WarySentinel.Contract.Orders;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Orders;
using WarySentinel.Service.Access;
using WarySentinel.Service.Web;
using WarySentinel.Storage;

namespace WarySentinel.Service.Orders;

/// <summary>Orders: what was told of them, what they gave, and telling of them by hand or from a program.</summary>
public static class OrderEndpoints
{
    private const int MostEvents = 500;
    private const int MostLetters = 50;

    /// <summary>Maps the endpoints.</summary>
    public static RouteGroupBuilder MapOrders(this RouteGroupBuilder api)
    {
        var orders = api.MapGroup("/orders").WithTags("Orders");
        orders.MapGet("/", List).Requires("read");
        orders.MapPost("/", Tell).Requires("people");
        orders.MapGet("/unreadable", Unreadable).Requires("read");
        orders.MapPost("/unreadable/{id}/again", ReadAgain).Requires("people");
        orders.MapDelete("/unreadable/{id}", Drop).Requires("people");
        orders.MapGet("/{id}", Show).Requires("read");
        orders.MapPost("/{id}/events", TellOf).Requires("people");
        orders.MapPost("/{id}/again", Again).Requires("people");
        return api;
    }

    private static async Task<Results<Ok<PageOf<OrderView>>, ProblemHttpResult>> List(
        string? q, string? standing, string? handling, Guid? member, string? cursor, int? limit, Store store, CancellationToken stop)
    {
        var faults = new Faults();
        var (s, h) = (PlaceOf(OrderWords.AllStandings, standing, "standing", faults), PlaceOf(OrderWords.AllHandlings, handling, "handling", faults));
        var after = Paging.Read(cursor);
        if (faults.Any || after.Problem is not null)
        {
            return (after.Problem ?? faults.ToProblem()).ToHttp();
        }

        var size = Paging.SizeOf(limit);
        var found = await store.OrdersAsync(
            new OrderQuery((OrderStanding?)s, (OrderHandling?)h, q, member, Paging.PlaceIn(after.Value)), size + 1, stop);
        return TypedResults.Ok(Paging.Cut([.. found.Select(o => o.ToWire())], size, o => Paging.PlaceOf(o.At, o.Id)));
    }

    private static async Task<Results<Ok<OrderStoryView>, ProblemHttpResult>> Show(
        Guid id, Store store, PolicyHolder policies, OrderDesk desk, TimeProvider time, CancellationToken stop)
    {
        if (await store.OrderAsync(id, stop) is not { } order)
        {
            return Unknown.ToHttp();
        }

        var (policy, now, events) = (policies.Current, time.GetUtcNow(), await store.OrderEventsAsync(order.Source, order.Key, stop));
        var story = OrderStory.Of(events.Select(e => e.Event).OfType<OrderEvent>());
        var member = order.Member is { } whose ? await store.MemberAsync(whose, stop) : null;
        var given = (member?.Grants ?? []).Where(order.Gave).Select(g => new OrderGrantView(
            g.Fact, OrderDesk.TitleOf(policy, new GivenFact(g.Kind, g.Key)), order.PaymentOf(g)!.Value, g.From, g.Until, g.IsInForce(now)));
        var passes = (await store.PassesOfOrderAsync(order.Subject, stop)).Select(p => new OrderGrantView(
            $"pass:{p.Kind}", $"{OrderDesk.TitleOf(policy, new GivenFact(FactKind.Pass, p.Kind))} ({p.Name})", 1, p.From, p.WithdrawnAt ?? p.Until,
            p.IsInForce(now)));
        var letters = EmailAddress.Normalise(order.Email) is { } address ? await store.MessagesAsync(MostLetters, null, address, stop: stop) : [];
        var would = order.Handling == OrderHandling.Waiting ? await desk.WouldAsync(order.Source, order.Key, Reader.Book, stop) : null;
        return TypedResults.Ok(new OrderStoryView(
            order.ToWire(), [.. story.Lines.Select((l, n) => new OrderLineView(
                l.Code, l.Variant, l.Quantity, l.Amount?.Amount, order.Promises.FirstOrDefault(p => p.Line == n)?.Rule, story.Times[n].Until))],
            story.Gift is { } gift ? new OrderGiftView(gift.Email, gift.Name,
                gift.On?.ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture), gift.Words) : null,
            [.. given.Concat(passes).OrderBy(g => g.Payment).ThenBy(g => g.Fact, StringComparer.Ordinal)], [.. events.Take(MostEvents).Select(e => e.ToWire())],
            [.. letters.Where(
                l => (l.Kind.StartsWith("order", StringComparison.Ordinal) || l.Kind == Passwords.PassDesk.LetterOfPass)
                    && l.CreatedAt >= order.At.AddDays(-1)).Select(l => new OrderLetterView(
                l.Id, Wording.Of("letter.kind." + l.Kind).ToReader(), l.Subject, l.CreatedAt, l.SentAt))], would, story.PausedAt,
            [.. new ToldOrder(order, story).Waits.Select(f => OrderDesk.TitleOf(policy, f))],
            order.Organisation is { } seats && await store.OrganisationAsync(seats, stop) is { } there
                ? new OrderSeatsView(there.Key, there.Title, there.Seats, there.SeatsTaken) : null)
        { Coupon = story.Coupon });
    }

    /// <summary>Something happened to an order that no source tells of. It is taken up before the answer.</summary>
    private static async Task<Results<Ok<OrderToldView>, ProblemHttpResult>> Tell(
        OrderDraft draft, HttpContext http, OrderIntake intake, OrderDesk desk, CancellationToken stop)
    {
        var source = draft.Source ?? "api";
        if (source is not ("api" or "hand"))
        {
            return Problem.In("source", "not-one-of", source, "api, hand").ToHttp();
        }

        return await TellAsync(draft, source, draft.Order ?? Guid.CreateVersion7().ToString("N")[^10..], Caller.Of(http).Name, intake, desk, stop);
    }

    /// <summary>Something happened to an order that is there: money went back, it was ended, its address is another.</summary>
    private static async Task<Results<Ok<OrderToldView>, ProblemHttpResult>> TellOf(
        Guid id, OrderDraft draft, HttpContext http, OrderIntake intake, OrderDesk desk, Store store, CancellationToken stop)
    {
        if (await store.OrderAsync(id, stop) is not { } order)
        {
            return Unknown.ToHttp();
        }

        if (draft.Kind == OrderEvent.NameOf(OrderEventKind.Mended) && EmailAddress.Normalise(draft.Email) is null)
        {
            return Problem.In("email", "email-form", draft.Email).ToHttp();
        }

        return await TellAsync(
            draft with { Currency = draft.Currency ?? order.Total?.Currency }, order.Source, order.Key, Caller.Of(http).Name, intake, desk, stop);
    }

    private static async Task<Results<Ok<OrderToldView>, ProblemHttpResult>> TellAsync(
        OrderDraft draft, string source, string key, string by, OrderIntake intake, OrderDesk desk, CancellationToken stop)
    {
        var (now, kind) = (intake.Now, draft.Kind ?? "order.paid");
        var isMended = kind == OrderEvent.NameOf(OrderEventKind.Mended);
        var read = draft.Read(key, isMended ? "order.cancelled" : kind, now);
        if (read.Problem is { } problem)
        {
            return problem.ToHttp();
        }

        var told = isMended ? read.Value with { Kind = OrderEventKind.Mended } : read.Value;
        var kept = await intake.KeepAsync(new KeptEvent(Guid.CreateVersion7(), source, told.Id, now, OrderEventState.Waiting, told), by, stop);
        var taken = await desk.TakeUpAsync(source, kept.Kept.Event?.Order ?? key, by, stop);
        return taken.Problem is { } odd ? odd.ToHttp() : taken.Value is { } done
            ? TypedResults.Ok(new OrderToldView(done.Order.ToWire(), kept.IsNew)) : Unknown.ToHttp();
    }

    /// <summary>Takes an order up again: by the rules of now, where it waits for one.</summary>
    private static async Task<Results<Ok<OrderView>, ProblemHttpResult>> Again(
        Guid id, HttpContext http, OrderDesk desk, Store store, CancellationToken stop)
    {
        if (await store.OrderAsync(id, stop) is not { } order)
        {
            return Unknown.ToHttp();
        }

        var taken = await desk.TakeUpAsync(order.Source, order.Key, Caller.Of(http).Name, stop);
        return taken.Problem is { } problem ? problem.ToHttp() : TypedResults.Ok((taken.Value?.Order ?? order).ToWire());
    }

    private static async Task<Ok<PageOf<UnreadableEventView>>> Unreadable(
        Store store, PolicyHolder policies, CancellationToken stop)
    {
        var waiting = await store.WaitingEventsAsync(OrderEventState.Unreadable, null, MostEvents, stop);
        return TypedResults.Ok(new PageOf<UnreadableEventView>([.. waiting.Select(e => new UnreadableEventView(
            e.Id, e.Source, e.Name, e.ReceivedAt, FaultsOf(e, policies), e.Raw))], null));
    }

    private static async Task<Results<Ok<OrderEventView>, ProblemHttpResult>> ReadAgain(
        Guid id, HttpContext http, OrderIntake intake, CancellationToken stop) =>
        (await intake.ReadAgainAsync(id, Caller.Of(http).Name, stop)).Match<Results<Ok<OrderEventView>, ProblemHttpResult>>(
            kept => TypedResults.Ok(kept.ToWire()), problem => problem.ToHttp());

    private static async Task<Results<NoContent, ProblemHttpResult>> Drop(Guid id, HttpContext http, OrderIntake intake, CancellationToken stop) =>
        (await intake.DropAsync(id, Caller.Of(http).Name, stop)).Match<Results<NoContent, ProblemHttpResult>>(
            _ => TypedResults.NoContent(), problem => problem.ToHttp());

    /// <summary>What is wrong with something, in the words of whoever looks; as it was found to be, where its source is gone.</summary>
    private static string[] FaultsOf(KeptEvent kept, PolicyHolder policies) =>
        OrderSourceBook.Of(policies.Current).Find(kept.Source) is { } source && kept.Raw is { } raw
            && OrderIntake.Read(source, raw, !raw.TrimStart().StartsWith('{'), kept.Name, kept.ReceivedAt).Problem is { } problem
            ? [.. problem.Faults.Select(f => $"{f.Field}: {f.Message.ToReader()}")] : (kept.Fault ?? "").Split('\n');

    private static int? PlaceOf(IReadOnlyList<string> names, string? said, string field, Faults faults)
    {
        if (string.IsNullOrEmpty(said))
        {
            return null;
        }

        var at = names.ToList().IndexOf(said);
        faults.Unless(at >= 0, field, "not-one-of", said, string.Join(", ", names));
        return at;
    }

    private static Problem Unknown => Problem.Of(ProblemKind.NotFound, "order-unknown");
}
