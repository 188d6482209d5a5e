using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Orders;

/// <summary>What happened to an order.</summary>
public enum OrderEventKind
{
    /// <summary>It was paid, for the first time.</summary>
    Paid,
    /// <summary>A payment of it failed; nothing was bought.</summary>
    Failed,
    /// <summary>A further length of what it bought was paid.</summary>
    Renewed,
    /// <summary>The payment for a further length failed; it will be tried again.</summary>
    RenewalFailed,
    /// <summary>It is not renewed any more; what is paid for lasts to its end.</summary>
    Cancelled,
    /// <summary>It is over at once.</summary>
    Ended,
    /// <summary>Money went back: all of it, or a part.</summary>
    Refunded,
    /// <summary>The buyer's bank took the money back.</summary>
    ChargedBack,
    /// <summary>The buyer, or the owner, gave another address for it.</summary>
    Mended,
    /// <summary>What was paid for begins, where it waits for that.</summary>
    Started,
    /// <summary>What is left of it rests.</summary>
    Paused,
    /// <summary>What was left goes on.</summary>
    Resumed,
    /// <summary>Something else is bought from now on, in place of what was: a higher plan, or a lower one.</summary>
    Changed,
}

/// <summary>Who pays.</summary>
/// <param name="Email">The e-mail address, as it was typed.</param>
/// <param name="Name">How they are called; null where nobody said.</param>
/// <param name="Language">The language that they read (RFC 5646 tag); null where nobody said.</param>
public sealed record OrderBuyer(string Email, string? Name = null, string? Language = null);

/// <summary>One line of an order.</summary>
/// <param name="Code">The stock code.</param>
/// <param name="Variant">The variant of it; null for none.</param>
/// <param name="Quantity">How many; from 1.</param>
/// <param name="Amount">What the line costs, all of it; null where nobody said.</param>
public sealed record OrderLine(string Code, string? Variant = null, int Quantity = 1, Money? Amount = null)
{
    /// <summary>Code and variant, as people write them: <c>CODE</c>, or <c>CODE/VARIANT</c>.</summary>
    public string Name => Variant is null ? Code : $"{Code}/{Variant}";

    /// <summary>The same with how many.</summary>
    public string Whole => $"{Quantity} × {Name}";
}

/// <summary>A present: for somebody else than who pays.</summary>
/// <param name="Email">The address of whoever is given it.</param>
/// <param name="On">The day of the site's calendar on which they are; null for at once.</param>
/// <param name="Words">What whoever gives it says with it.</param>
/// <param name="Name">How whoever is given it is called.</param>
public sealed record OrderGift(string Email, DateOnly? On = null, string? Words = null, string? Name = null);

/// <summary>One thing that happened to an order, as a payment processor tells it, or the owner. What is told twice under one id is one thing.</summary>
public sealed record OrderEvent
{
    /// <summary>Its own name, in the words of whoever tells it; unique among what they tell.</summary>
    public required string Id { get; init; }

    /// <summary>The name of the order, in the words of whoever tells of it.</summary>
    public required string Order { get; init; }

    /// <summary>What happened.</summary>
    public required OrderEventKind Kind { get; init; }

    /// <summary>When.</summary>
    public required DateTimeOffset At { get; init; }

    /// <summary>Who pays; null where this says nothing of it.</summary>
    public OrderBuyer? Buyer { get; init; }

    /// <summary>What is bought; empty where this says nothing of it.</summary>
    public IReadOnlyList<OrderLine> Lines { get; init; } = [];

    /// <summary>The money that is paid, or went back; null where nobody said. A refund without it is of everything.</summary>
    public Money? Amount { get; init; }

    /// <summary>Which payment this is, where one may be told of under several ids.</summary>
    public string? Payment { get; init; }

    /// <summary>The code of the coupon that took something off; null for none.</summary>
    public string? Coupon { get; init; }

    /// <summary>A present.</summary>
    public OrderGift? Gift { get; init; }

    /// <summary>The SHA-256 of what the buyer's browser brings back from paying; null where it brings nothing.</summary>
    public string? TokenDigest { get; init; }

    /// <summary>The names of the kinds, as they are told.</summary>
    public static readonly IReadOnlyDictionary<string, OrderEventKind> Kinds = new Dictionary<string, OrderEventKind>(StringComparer.Ordinal)
    {
        ["order.paid"] = OrderEventKind.Paid, ["order.failed"] = OrderEventKind.Failed, ["order.renewed"] = OrderEventKind.Renewed,
        ["order.renewal-failed"] = OrderEventKind.RenewalFailed, ["order.cancelled"] = OrderEventKind.Cancelled, ["order.ended"] = OrderEventKind.Ended,
        ["order.refunded"] = OrderEventKind.Refunded, ["order.charged-back"] = OrderEventKind.ChargedBack, ["order.started"] = OrderEventKind.Started,
        ["order.paused"] = OrderEventKind.Paused, ["order.resumed"] = OrderEventKind.Resumed, ["order.changed"] = OrderEventKind.Changed,
        ["order.mended"] = OrderEventKind.Mended,
    };

    /// <summary>The name of a kind.</summary>
    public static string NameOf(OrderEventKind kind) => Kinds.First(k => k.Value == kind).Key;
}

/// <summary>How far an event is taken up.</summary>
public enum OrderEventState
{
    /// <summary>It is kept, and not taken up yet.</summary>
    Waiting,
    /// <summary>It is taken up into its order.</summary>
    Taken,
    /// <summary>It cannot be read: it waits for somebody to say how.</summary>
    Unreadable,
}

/// <summary>An event as it is kept.</summary>
/// <param name="Id">Our name of it.</param>
/// <param name="Source">Who told it: the key of a source, <c>hand</c>, <c>api</c> or <c>import</c>.</param>
/// <param name="Name">Its id in the words of whoever told it.</param>
/// <param name="ReceivedAt">When it came.</param>
/// <param name="State">How far it is taken up.</param>
/// <param name="Event">What it says; null where that cannot be read.</param>
/// <param name="Raw">What came; null where it was said to us field by field.</param>
/// <param name="Fault">Why it cannot be read.</param>
/// <param name="Version">Counts its changes, from 1.</param>
public sealed record KeptEvent(
    Guid Id, string Source, string Name, DateTimeOffset ReceivedAt, OrderEventState State, OrderEvent? Event, string? Raw = null, string? Fault = null,
    int Version = 1);
