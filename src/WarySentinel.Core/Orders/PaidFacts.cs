using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Orders;

/// <summary>One payment of one fact, before it is known from when to when it gives it.</summary>
/// <param name="Fact">What.</param>
/// <param name="Order">The order.</param>
/// <param name="Payment">The payment, from 1.</param>
/// <param name="At">When it counts from, at the earliest.</param>
/// <param name="Length">For how long each time; null for always, or where <paramref name="Rest"/> says it.</param>
/// <param name="Times">How often that.</param>
/// <param name="Over">When it is over all the same; null where nothing ends it.</param>
/// <param name="IsCancelled">Whether nothing more is to be paid for it.</param>
internal sealed record PaidFact(
    GivenFact Fact, Order Order, int Payment, DateTimeOffset At, PlanLength? Length, int Times, DateTimeOffset? Over, bool IsCancelled)
{
    /// <summary>For how long, where it is what was left of something.</summary>
    public TimeSpan? Rest { get; init; }

    /// <summary>When it rests.</summary>
    public IReadOnlyList<OrderPause> Pauses { get; init; } = [];

    /// <summary>Whether it rested before, and counts on.</summary>
    public bool IsMoved { get; init; }

    public bool IsForGood => Length is null && Rest is null;

    /// <summary>The time of resting in which a moment lies; null for none.</summary>
    public OrderPause? PauseAt(DateTimeOffset at) => Pauses.FirstOrDefault(p => p.From <= at && (p.Until is null || at < p.Until));

    /// <summary>The first time of resting that begins between two moments; null for none.</summary>
    public OrderPause? PauseIn(DateTimeOffset start, DateTimeOffset end) => Pauses.FirstOrDefault(p => p.From > start && p.From < end && p.From != p.Until);

    /// <summary>The grant between two moments; what counts on after it rested has a name of its own.</summary>
    public Grant ToGrant(DateTimeOffset from, DateTimeOffset? until) => new(Fact.Kind, Fact.Key, from, until)
    { Source = GrantSource.Stored("order", Order.Reference(Payment, 1 + Pauses.Count(p => p.Until <= from))) };

    /// <summary>What is given for always, but for the times in which it rests.</summary>
    public IEnumerable<Grant> ForGood()
    {
        for (var from = At; ;)
        {
            if (PauseAt(from) is { } resting)
            {
                if (resting.Until is not { } on || Over <= resting.From)
                {
                    yield break;
                }

                from = on;
                continue;
            }

            var pause = Pauses.FirstOrDefault(p => p.From > from && p.From != p.Until && (Over is null || p.From < Over));
            var until = Over is { } over && over < from ? from : pause?.From ?? Over;
            yield return ToGrant(from, until);
            if (pause?.Until is not { } again)
            {
                yield break;
            }

            from = again;
        }
    }
}

/// <summary>Payments in the order in which they count; what rests is put back to when it goes on.</summary>
internal sealed class PaidQueue
{
    private readonly PriorityQueue<PaidFact, (DateTimeOffset At, int Place)> queue = new();
    private readonly Dictionary<PaidFact, int> places = new(ReferenceEqualityComparer.Instance);

    public PaidQueue(IEnumerable<PaidFact> paid)
    {
        var place = 0;
        foreach (var one in paid.OrderBy(p => p.At).ThenBy(p => p.Order.Subject, StringComparer.Ordinal).ThenBy(p => p.Payment))
        {
            Put(one, place++);
        }
    }

    public PaidFact? Next() => queue.TryDequeue(out var one, out _) ? one : null;

    /// <summary>Goes on with what is left of it then; not at all where it rests for good.</summary>
    public void Again(PaidFact one, DateTimeOffset? at, TimeSpan? rest)
    {
        if (at is { } on)
        {
            Put(one with { At = on, Rest = rest, IsMoved = true }, places[one]);
        }
    }

    private void Put(PaidFact one, int place)
    {
        places[one] = place;
        queue.Enqueue(one, (one.At, place));
    }
}

/// <summary>Each payment of each fact of some orders.</summary>
internal static class PaidFacts
{
    /// <summary>The payments.</summary>
    /// <param name="dates">Knows the site's time zone.</param>
    /// <param name="orders">The orders.</param>
    /// <param name="rests">What was left where something else was bought.</param>
    /// <param name="before">Only what was told before that change; null for all.</param>
    /// <param name="ofSeats">Only what is given to organisations, or only what is not; null for both.</param>
    public static IReadOnlyList<PaidFact> Of(
        SiteDates dates, IEnumerable<ToldOrder> orders, IReadOnlyDictionary<(string Order, int Payment), TimeSpan> rests,
        (string Order, OrderPayment Change)? before, bool? ofSeats)
    {
        var all = new List<PaidFact>();
        foreach (var told in orders)
        {
            var times = told.Times;
            foreach (var promise in told.Order.Promises.Where(p => p.Line < times.Count && (ofSeats is null || p.Seats is not null == ofSeats)))
            {
                foreach (var fact in promise.Facts)
                {
                    all.AddRange(Of(dates, told, (fact, promise.Times), times[promise.Line], rests, before));
                }
            }
        }

        return all;
    }

    private static IEnumerable<PaidFact> Of(
        SiteDates dates, ToldOrder told, (PromisedFact Fact, int Times) promise, LineTime time, IReadOnlyDictionary<(string, int), TimeSpan> rests,
        (string Order, OrderPayment Change)? before)
    {
        var ((order, story), fact) = (told, promise.Fact);
        var asked = before?.Order == order.Subject ? before.Value.Change : null;
        var (last, isForGood) = ((DateTimeOffset?)null, false);
        foreach (var payment in story.Payments.Where(p => before is null || Comes(order, p, before.Value)))
        {
            // A change pays for what begins with it, and a payment for what is bought when it is paid.
            if (payment.IsChange ? time.Since != payment.At : !time.Holds(payment.At))
            {
                continue;
            }

            var over = Sooner(payment.Over, time.Until);
            over = before is { } limit && over >= limit.Change.At ? null : over;
            var trial = payment.Number == 1 ? fact.Trial : null;
            var rest = payment.IsChange && fact.Length is not null && rests.TryGetValue((order.Subject, payment.Number), out var left) ? left
                : (TimeSpan?)null;
            var (at, waits) = Begins(dates, told, payment, fact, asked);
            var length = rest is not null ? null : trial ?? fact.Length;
            if ((waits && fact.Starts == PlanStart.ByHand) || (length is null && rest is null && isForGood && last is null))
            {
                continue;
            }

            // What waits for its first use is open until then; what is given for always is given once, and again only where it was over.
            (last, isForGood) = (over, length is null && rest is null);
            var paid = new PaidFact(
                fact.Fact, order, payment.Number, at, waits ? null : length, trial is null ? promise.Times : 1, over, story.CancelledAt is not null)
            { Rest = waits ? null : rest, Pauses = before is { } known ? [.. Until(story.Pauses, known.Change.At)] : story.Pauses };
            yield return paid;
            if (waits && over is null)
            {
                yield break;
            }
        }
    }

    /// <summary>When it rested before a moment; what rests then is taken to go on.</summary>
    private static IEnumerable<OrderPause> Until(IEnumerable<OrderPause> pauses, DateTimeOffset at) =>
        pauses.Where(p => p.From < at).Select(p => p.Until is null || p.Until > at ? p with { Until = at } : p);

    /// <summary>Whether a payment is told of before a change.</summary>
    private static bool Comes(Order order, OrderPayment payment, (string Order, OrderPayment Change) before) =>
        payment.At < before.Change.At || (payment.At == before.Change.At && string.CompareOrdinal(order.Subject, before.Order) is var by
            && (by < 0 || (by == 0 && payment.Number < before.Change.Number)));

    /// <summary>When a payment counts from, and whether it waits for that still.</summary>
    private static (DateTimeOffset At, bool Waits) Begins(
        SiteDates dates, ToldOrder told, OrderPayment payment, PromisedFact fact, OrderPayment? asked)
    {
        var at = payment.Number == 1 && told.Story.Gift?.On is { } day && dates.StartOf(day) is var start && start > payment.At ? start : payment.At;
        if (fact.Starts == PlanStart.AtOnce || fact.Fact.Kind == FactKind.Pass || fact.Length is null)
        {
            return (at, false);
        }

        // What nobody has begun when something else is bought in its place is all left.
        var began = asked is not null && (told.Story.StartedAt is null || told.Story.StartedAt > asked.At) ? asked.At : told.Story.StartedAt;
        return began is null ? (at, true) : (began > at ? began.Value : at, false);
    }

    private static DateTimeOffset? Sooner(DateTimeOffset? one, DateTimeOffset? other) => one is null ? other : other is null || one < other ? one : other;
}

/// <summary>What one plan is worth of another, where one is bought in place of the other.</summary>
/// <param name="Ended">What was promised of what ends.</param>
/// <param name="Ratio">How much longer what was left lasts as what begins: the price of a day of the one by that of a day of the other.</param>
internal sealed record ExchangedPlan(IReadOnlyList<GivenFact> Ended, decimal Ratio)
{
    private const decimal DaysOfMonth = 30.436875m;
    private const decimal MostYears = 100;

    /// <summary>What a change exchanges; null where nothing that has an end ends with it.</summary>
    public static ExchangedPlan? Of(ToldOrder told, OrderPayment change)
    {
        var (ended, begun) = (Promises(told, t => t.Until == change.At), Promises(told, t => t.Since == change.At));
        var facts = Timed(ended);
        return facts.Count == 0 ? null : new ExchangedPlan(
            facts, change.Amount is { Units: > 0 } ? 1 : RatioOf(told, change, ended, begun));
    }

    /// <summary>The time that is left to what ends, by what it gave until then.</summary>
    public TimeSpan LeftOf(IEnumerable<Grant> held, DateTimeOffset at) => held.Where(g => g.Until > at && Ended.Contains(new GivenFact(g.Kind, g.Key)))
        .GroupBy(g => g.Fact).Select(of => of.Aggregate(TimeSpan.Zero, (sum, g) => sum + (g.Until!.Value - (g.From > at ? g.From.Value : at))))
        .DefaultIfEmpty(TimeSpan.Zero).Max();

    /// <summary>For how long that is what begins; to the second, and never less than it is worth.</summary>
    public TimeSpan Converted(TimeSpan left) =>
        TimeSpan.FromSeconds((double)Math.Ceiling(Math.Min((decimal)left.TotalSeconds * Ratio, MostYears * 366 * 86_400)));

    private static List<OrderPromise> Promises(ToldOrder told, Func<LineTime, bool> are)
    {
        var times = told.Times;
        return [.. told.Order.Promises.Where(p => p.Line < times.Count && are(times[p.Line]))];
    }

    private static List<GivenFact> Timed(IReadOnlyList<OrderPromise> promises)
    {
        var all = promises.SelectMany(p => p.Facts).Where(f => f.Length is not null).Select(f => f.Fact).Distinct().ToList();
        return all.Exists(f => f.Kind == FactKind.Plan) ? all.FindAll(f => f.Kind == FactKind.Plan) : all;
    }

    /// <summary>By the prices of the two lines; a day for a day where they are not known, or it is not one for one.</summary>
    private static decimal RatioOf(ToldOrder told, OrderPayment change, IReadOnlyList<OrderPromise> ended, IReadOnlyList<OrderPromise> begun) =>
        ended is [var old] && begun is [var fresh] && PriceOf(told, change, old) is var (was, currency)
            && PriceOf(told, change, fresh) is var (becomes, other) && currency == other && was > 0 && becomes > 0 ? was / becomes : 1;

    private static (decimal PerDay, string Currency)? PriceOf(ToldOrder told, OrderPayment change, OrderPromise promise)
    {
        var (line, length) = (told.Story.Lines[promise.Line], promise.Facts.FirstOrDefault(f => f.Length is not null)?.Length);
        // Where a payment is for one line alone, it is what that costs.
        var alone = told.Story.Times.Count(t => t == told.Story.Times[promise.Line]) == 1
            ? told.Story.Payments.LastOrDefault(
                p => p.Number < change.Number && !p.IsChange && p.Amount is { Units: > 0 } && told.Story.Times[promise.Line].Holds(p.At))?.Amount : null;
        return length is null || (line.Amount ?? alone) is not { } money ? null
            : (money.Units / (((length.Months * DaysOfMonth) + length.Days) * promise.Times), money.Currency);
    }
}
