namespace WarySentinel.Core.Orders;

/// <summary>One payment of an order: the first, or one that renews.</summary>
/// <param name="Number">Counts from 1.</param>
/// <param name="At">When it was paid.</param>
/// <param name="Amount">How much; null where nobody said.</param>
/// <param name="Over">When what it paid for ended, as the money went back or the order was ended; null where it did not.</param>
public sealed record OrderPayment(int Number, DateTimeOffset At, Money? Amount, DateTimeOffset? Over = null)
{
    /// <summary>Its name, in the words of whoever tells of it; null where it has none.</summary>
    public string? Name { get; init; }

    /// <summary>What went back of just this payment, in the unit of its amount.</summary>
    public long RefundedUnits { get; init; }

    /// <summary>Whether it is none of its own, but that something else is bought from then on: what was left of the time goes on as that.</summary>
    public bool IsChange { get; init; }
}

/// <summary>A time in which what is paid for rests.</summary>
/// <param name="From">From when.</param>
/// <param name="Until">Until when; null where it rests still.</param>
public sealed record OrderPause(DateTimeOffset From, DateTimeOffset? Until);

/// <summary>When a line of an order is what its payments pay for.</summary>
/// <param name="Since">From when; null from the beginning.</param>
/// <param name="Until">Until when, as something else is bought in its place; null for as long as the order lasts.</param>
public sealed record LineTime(DateTimeOffset? Since, DateTimeOffset? Until)
{
    /// <summary>Whether it is paid for by what is paid at that time.</summary>
    public bool Holds(DateTimeOffset at) => (Since is null || Since <= at) && (Until is null || at < Until);
}

/// <summary>Money that went back.</summary>
/// <param name="At">When.</param>
/// <param name="Units">How much, in the unit of the order's <see cref="OrderStory.Total"/>.</param>
public sealed record OrderRefund(DateTimeOffset At, long Units);

/// <summary>How it stands with the money of an order.</summary>
public enum OrderStanding
{
    /// <summary>Nobody has told yet that it is paid.</summary>
    Unpaid,
    /// <summary>The payment failed.</summary>
    Failed,
    /// <summary>It is paid.</summary>
    Paid,
    /// <summary>A part of the money went back.</summary>
    PartRefunded,
    /// <summary>Paid, and not renewed any more.</summary>
    Cancelled,
    /// <summary>The last renewal failed.</summary>
    PastDue,
    /// <summary>All the money went back.</summary>
    Refunded,
    /// <summary>The buyer's bank took the money back.</summary>
    ChargedBack,
    /// <summary>It was ended.</summary>
    Ended,
    /// <summary>It rests.</summary>
    Paused,
}

/// <summary>
/// What all events of one order say together. It is the same whatever the order in which they came, and however often: they are put in the order in which
/// they happened, each id counts once, and so does each payment (docs/explanation/orders.md).
/// </summary>
public sealed record OrderStory
{
    /// <summary>How it stands.</summary>
    public OrderStanding Standing { get; private init; }

    /// <summary>Who pays; null where no event says so.</summary>
    public OrderBuyer? Buyer { get; private init; }

    /// <summary>What is bought.</summary>
    public IReadOnlyList<OrderLine> Lines { get; private init; } = [];

    /// <summary>When each of the lines is paid for.</summary>
    public IReadOnlyList<LineTime> Times { get; private init; } = [];

    /// <summary>The lines that are bought now, with their places.</summary>
    public IEnumerable<(OrderLine Line, int Place)> Present => Lines.Select((line, n) => (line, n)).Where(l => Times[l.n].Until is null);

    /// <summary>When the time that it pays for was said to begin; null where nobody said so.</summary>
    public DateTimeOffset? StartedAt { get; private init; }

    /// <summary>Whether it is over: it gives nothing more, unless it is paid again.</summary>
    public bool IsOver => Standing is OrderStanding.Refunded or OrderStanding.ChargedBack or OrderStanding.Ended;

    /// <summary>When what it pays for rested.</summary>
    public IReadOnlyList<OrderPause> Pauses { get; private init; } = [];

    /// <summary>Since when it rests; null where it does not.</summary>
    public DateTimeOffset? PausedAt => !IsOver && Pauses.Count > 0 && Pauses[^1].Until is null ? Pauses[^1].From : null;

    /// <summary>The code of the coupon that was used for it; null for none.</summary>
    public string? Coupon { get; private init; }

    /// <summary>A present; null where it is none.</summary>
    public OrderGift? Gift { get; private init; }

    /// <summary>The address that was given later in place of the first; null for none.</summary>
    public string? MendedTo { get; private init; }

    /// <summary>The payments, the first one first.</summary>
    public IReadOnlyList<OrderPayment> Payments { get; private init; } = [];

    /// <summary>What went back.</summary>
    public long RefundedUnits { get; private init; }

    /// <summary>The same, as it went back, also by the buyer's bank.</summary>
    public IReadOnlyList<OrderRefund> Refunds { get; private init; } = [];

    /// <summary>When it was cancelled, where no later payment came.</summary>
    public DateTimeOffset? CancelledAt { get; private init; }

    /// <summary>The SHA-256 of what the buyer's browser brings back.</summary>
    public string? TokenDigest { get; private init; }

    /// <summary>The e-mail address of whoever is given what it buys, as people type it.</summary>
    public string? Recipient => Gift?.Email ?? MendedTo ?? Buyer?.Email;

    /// <summary>What the first payment paid, and all of them.</summary>
    public Money? Total => Payments.Select(p => p.Amount).OfType<Money>().ToList() is { Count: > 0 } paid
        ? new Money(paid.Where(p => p.Currency == paid[0].Currency).Sum(p => p.Units), paid[0].Currency) : null;

    /// <summary>Reads the story of one order out of its events.</summary>
    public static OrderStory Of(IEnumerable<OrderEvent> events)
    {
        // An order begins with its payment, also where two clocks disagree about it.
        var each = events.DistinctBy(e => e.Id).ToList();
        var paid = each.Where(e => e is { Payment: not null, Kind: OrderEventKind.Paid or OrderEventKind.Renewed }).GroupBy(e => e.Payment!)
            .ToDictionary(g => g.Key, g => g.Min(e => e.At), StringComparer.Ordinal);
        // Nor does the money of a payment go back before it came.
        DateTimeOffset When(OrderEvent e) =>
            e is { Kind: OrderEventKind.Refunded, Payment: { } name } && paid.TryGetValue(name, out var at) && at > e.At ? at : e.At;
        var all = each.OrderBy(e => e.Kind == OrderEventKind.Paid ? 0 : 1).ThenBy(When).ThenBy(e => e.Kind).ThenBy(e => e.Id, StringComparer.Ordinal).ToList();
        var told = all.Where(e => e.Kind != OrderEventKind.Mended).ToList();
        var lines = told.Select(e => e.Lines).FirstOrDefault(l => l.Count > 0) ?? [];
        var story = new OrderStory
        {
            Buyer = told.Select(e => e.Buyer).FirstOrDefault(b => b is not null),
            Lines = lines,
            Times = [.. lines.Select(_ => new LineTime(null, null))],
            Coupon = told.Select(e => e.Coupon).FirstOrDefault(c => c is not null),
            Gift = told.Select(e => e.Gift).FirstOrDefault(g => g is not null),
            TokenDigest = told.Select(e => e.TokenDigest).FirstOrDefault(t => t is not null),
            MendedTo = all.Where(e => e.Kind == OrderEventKind.Mended).OrderBy(e => e.At).ThenBy(e => e.Id, StringComparer.Ordinal)
                .LastOrDefault()?.Buyer?.Email,
        };
        return all.Aggregate(story, (s, e) => s.After(e)) switch
        {
            { Gift: { } gift, MendedTo: { } mended } both => both.Rested() with { Gift = gift with { Email = mended } },
            var one => one.Rested(),
        };
    }

    /// <summary>What rests stands as that, whatever becomes of its payments meanwhile.</summary>
    private OrderStory Rested() => PausedAt is not null && Payments.Count > 0 ? this with { Standing = OrderStanding.Paused } : this;

    private OrderStory After(OrderEvent told) => told.Kind switch
    {
        OrderEventKind.Paid => Payments.Count > 0 ? this : Paid(told),
        OrderEventKind.Renewed => told.Payment is not null && Payments.Any(p => p.Number > 1 && p.Name == told.Payment) ? this : Paid(told),
        OrderEventKind.Failed => Payments.Count > 0 ? this : this with { Standing = OrderStanding.Failed },
        OrderEventKind.RenewalFailed => IsOver ? this : this with { Standing = OrderStanding.PastDue },
        OrderEventKind.Cancelled => IsOver ? this : this with { Standing = OrderStanding.Cancelled, CancelledAt = told.At },
        OrderEventKind.Ended => Over(OrderStanding.Ended, told.At),
        OrderEventKind.ChargedBack => (this with { Refunds = [.. Refunds, new OrderRefund(told.At, Left)] }).Over(OrderStanding.ChargedBack, told.At),
        OrderEventKind.Refunded => Refunded(told),
        OrderEventKind.Started => IsOver ? this : this with { StartedAt = StartedAt ?? told.At },
        OrderEventKind.Paused => IsOver || PausedAt is not null ? this : this with { Pauses = [.. Pauses, new OrderPause(told.At, null)] },
        OrderEventKind.Resumed => PausedAt is not { } since ? this : this with { Pauses = [.. Pauses.SkipLast(1), new OrderPause(since, told.At)] },
        OrderEventKind.Changed => Changed(told),
        _ => this,
    };

    /// <summary>Something else is bought from then on: lines that stay as they are go on, the others end, and what is new begins.</summary>
    private OrderStory Changed(OrderEvent told)
    {
        if (IsOver || Payments.Count == 0 || told.Lines.Count == 0 || (told.Payment is not null && Payments.Any(p => p.IsChange && p.Name == told.Payment)))
        {
            return this;
        }

        // A payment that was told of by itself is not counted again.
        var paid = told.Payment is not null && Payments.Any(p => p.Name == told.Payment) ? null : told.Amount;
        var (left, times) = (told.Lines.ToList(), Times.ToList());
        foreach (var (line, place) in Present.ToList())
        {
            if (left.FindIndex(l => l.Whole == line.Whole) is >= 0 and var same)
            {
                left.RemoveAt(same);
                continue;
            }

            times[place] = times[place] with { Until = told.At };
        }

        return left.Count == 0 && times.SequenceEqual(Times) ? this : this with
        {
            Lines = [.. Lines, .. left],
            Times = [.. times, .. left.Select(_ => new LineTime(told.At, null))],
            Payments = [.. Payments, new OrderPayment(Payments.Count + 1, told.At, paid) { Name = told.Payment, IsChange = true }],
        };
    }

    /// <summary>What was paid and did not go back yet.</summary>
    private long Left => Math.Max(0, (Total?.Units ?? 0) - RefundedUnits);

    private OrderStory Paid(OrderEvent told) => this with
    {
        Standing = OrderStanding.Paid,
        CancelledAt = null,
        Payments = [.. Payments,
            new OrderPayment(Payments.Count + 1, told.At, told.Amount ?? LinesOf(told)) { Name = told.Payment }],
    };

    private OrderStory Refunded(OrderEvent told)
    {
        if (told.Payment is not null && Payments.Count > 1 && Payments.FirstOrDefault(p => p.Name == told.Payment) is { } one)
        {
            return Refunded(told, one);
        }

        // Without an amount everything went back; money of another currency than was paid says of no part how large it is.
        var units = told.Amount is { } amount ? (Total is { } paid && paid.Currency != amount.Currency ? 0 : amount.Units)
            : Payments.Where(p => p.Over is null).Sum(p => p.Amount?.Units ?? 0);
        var refunded = this with { RefundedUnits = RefundedUnits + units, Refunds = [.. Refunds, new OrderRefund(told.At, units)] };
        return told.Amount is null || (units > 0 && refunded.RefundedUnits >= (Total?.Units ?? 0)) ? refunded.Over(OrderStanding.Refunded, told.At)
            : refunded with { Standing = IsOver ? Standing : OrderStanding.PartRefunded };
    }

    /// <summary>The money of one payment of several goes back, or a part of it: what that one paid for is over, and no more.</summary>
    private OrderStory Refunded(OrderEvent told, OrderPayment one)
    {
        var units = told.Amount is { } amount ? (one.Amount is { } paid && paid.Currency != amount.Currency ? 0 : amount.Units)
            : Math.Max(0, (one.Amount?.Units ?? 0) - one.RefundedUnits);
        var back = one with { RefundedUnits = one.RefundedUnits + units };
        if (told.Amount is null || (units > 0 && back.RefundedUnits >= (one.Amount?.Units ?? 0)))
        {
            back = back with { Over = back.Over ?? (told.At < back.At ? back.At : told.At) };
        }

        var after = this with
        {
            RefundedUnits = RefundedUnits + units,
            Refunds = [.. Refunds, new OrderRefund(told.At, units)],
            Payments = [.. Payments.Select(p => p.Number == one.Number ? back : p)],
        };
        return IsOver ? after : after with
        {
            Standing = after.Payments.All(p => p.Over is not null) ? OrderStanding.Refunded
                : Standing is OrderStanding.Paid ? OrderStanding.PartRefunded : Standing,
        };
    }

    private OrderStory Over(OrderStanding standing, DateTimeOffset at) => this with
    {
        Standing = standing,
        Pauses = PausedAt is { } since ? [.. Pauses.SkipLast(1), new OrderPause(since, at < since ? since : at)] : Pauses,
        Payments = [.. Payments.Select(p => p.Over is null ? p with { Over = at < p.At ? p.At : at } : p)],
    };

    private static Money? LinesOf(OrderEvent told) => told.Lines.Select(l => l.Amount).OfType<Money>().ToList() is { Count: > 0 } amounts
        ? new Money(amounts.Sum(a => a.Units), amounts[0].Currency) : null;
}
