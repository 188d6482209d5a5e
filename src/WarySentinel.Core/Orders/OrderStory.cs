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
        var story = new OrderStory
        {
            Buyer = told.Select(e => e.Buyer).FirstOrDefault(b => b is not null),
            Lines = told.Select(e => e.Lines).FirstOrDefault(l => l.Count > 0) ?? [],
            Gift = told.Select(e => e.Gift).FirstOrDefault(g => g is not null),
            TokenDigest = told.Select(e => e.TokenDigest).FirstOrDefault(t => t is not null),
            MendedTo = all.Where(e => e.Kind == OrderEventKind.Mended).OrderBy(e => e.At).ThenBy(e => e.Id, StringComparer.Ordinal)
                .LastOrDefault()?.Buyer?.Email,
        };
        return all.Aggregate(story, (s, e) => s.After(e)) switch
        {
            { Gift: { } gift, MendedTo: { } mended } both => both with { Gift = gift with { Email = mended } },
            var one => one,
        };
    }

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
        _ => this,
    };

    /// <summary>What was paid and did not go back yet.</summary>
    private long Left => Math.Max(0, (Total?.Units ?? 0) - RefundedUnits);

    private bool IsOver => Standing is OrderStanding.Refunded or OrderStanding.ChargedBack or OrderStanding.Ended;

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
        Payments = [.. Payments.Select(p => p.Over is null ? p with { Over = at < p.At ? p.At : at } : p)],
    };

    private static Money? LinesOf(OrderEvent told) => told.Lines.Select(l => l.Amount).OfType<Money>().ToList() is { Count: > 0 } amounts
        ? new Money(amounts.Sum(a => a.Units), amounts[0].Currency) : null;
}
