using System.Text.RegularExpressions;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Orders;

/// <summary>How far an order is fulfilled.</summary>
public enum OrderHandling
{
    /// <summary>There is nothing to give yet: it is not paid.</summary>
    Open,
    /// <summary>It is given, or over.</summary>
    Done,
    /// <summary>It is a present for a day that is to come.</summary>
    Due,
    /// <summary>Somebody has to look: <see cref="Order.WaitsFor"/> says for what.</summary>
    Waiting,
}

/// <summary>One thing that was promised.</summary>
/// <param name="Fact">What.</param>
/// <param name="Length">For how long each time; null for always.</param>
public sealed record PromisedFact(GivenFact Fact, PlanLength? Length)
{
    /// <summary>For how long the first payment gives it, to try it; null for as long as the others.</summary>
    public PlanLength? Trial { get; init; }

    /// <summary>When the time that is paid for begins to count.</summary>
    public PlanStart Starts { get; init; }
}

/// <summary>
/// What one line of an order was promised, when it was first fulfilled: rules that are changed later change nothing of what was bought before.
/// </summary>
/// <param name="Line">The place of the line, from 0.</param>
/// <param name="Of">The line itself, so that nothing else in its place is taken for it.</param>
/// <param name="Rule">The key of the rule.</param>
/// <param name="Facts">What is given.</param>
/// <param name="Way">How the buyer gets in.</param>
/// <param name="Times">How many lengths each payment pays for.</param>
public sealed record OrderPromise(int Line, string Of, string Rule, IReadOnlyList<PromisedFact> Facts, FulfilmentWay Way, int Times)
{
    /// <summary>How often one person is given what the rule gives.</summary>
    public int? Most { get; init; }

    /// <summary>Where the letter leads.</summary>
    public string? LandsOn { get; init; }

    /// <summary>How many people it is for, each with an account of their own, in an organisation; null where it is for whoever bought it.</summary>
    public int? Seats { get; init; }

    /// <summary>The gate whose shared password the letter tells; null for none.</summary>
    public string? Gate { get; init; }

    /// <summary>Whether the buyer was told.</summary>
    public bool IsTold { get; init; }
}

/// <summary>An order, as it stands by its events.</summary>
public sealed partial record Order
{
    /// <summary>Our name of it.</summary>
    public required Guid Id { get; init; }

    /// <summary>Who tells of it: the key of a source, <c>hand</c>, <c>api</c> or <c>import</c>.</summary>
    public required string Source { get; init; }

    /// <summary>Its name in the words of whoever tells of it.</summary>
    public required string Key { get; init; }

    /// <summary>How it stands with the money.</summary>
    public OrderStanding Standing { get; init; }

    /// <summary>How far it is fulfilled.</summary>
    public OrderHandling Handling { get; init; }

    /// <summary>What somebody has to look at: <c>code</c>, <c>address</c>, <c>kept-out</c>, <c>limit</c>; null for nothing.</summary>
    public string? WaitsFor { get; init; }

    /// <summary>The account that it is for; null where there is none yet.</summary>
    public Guid? Member { get; init; }

    /// <summary>The organisation whose seats it pays for; null where it pays for none, or there is none yet.</summary>
    public Guid? Organisation { get; init; }

    /// <summary>The address of whoever is given what it buys.</summary>
    public string Email { get; init; } = "";

    /// <summary>Who pays.</summary>
    public string? Name { get; init; }

    /// <summary>The stock codes, for whoever looks for one.</summary>
    public string Codes { get; init; } = "";

    /// <summary>What was paid, all payments together.</summary>
    public Money? Total { get; init; }

    /// <summary>What went back, in the unit of <see cref="Total"/>.</summary>
    public long RefundedUnits { get; init; }

    /// <summary>When it was first paid; when it was first told of, where it never was.</summary>
    public DateTimeOffset At { get; init; }

    /// <summary>When it is to be looked at again by itself.</summary>
    public DateTimeOffset? DueAt { get; init; }

    /// <summary>What was promised.</summary>
    public IReadOnlyList<OrderPromise> Promises { get; init; } = [];

    /// <summary>What the buyer was told of, so that nothing is told twice: names of letters, with what they were about.</summary>
    public IReadOnlyList<string> Told { get; init; } = [];

    /// <summary>The SHA-256 of what the buyer's browser brings back.</summary>
    public string? TokenDigest { get; init; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; }

    /// <summary>
    /// How grants that it gives name it; each further payment has its number behind it, and each further part of its time, where it rested in between.
    /// </summary>
    public string Reference(int payment, int part = 1) => $"{Subject}{(payment > 1 || part > 1 || HasNumber().IsMatch(Key) ? "+" + payment : "")}{(part > 1
        ? "." + part : "")}";

    /// <summary>The payment of it by which something is given; null where it is given by something else.</summary>
    public int? PaymentOf(Grant grant) => grant.Source.Kind == "order" ? PaymentOf(grant.Source.Reference) : null;

    /// <summary>The payment of it that a grant names as what gave it; null where that is none of it.</summary>
    public int? PaymentOf(string reference) => !reference.StartsWith(Subject, StringComparison.Ordinal) ? null
        : reference.Length == Subject.Length ? (HasNumber().IsMatch(Key) ? null : 1)
        : HasNumber().Match(reference, Subject.Length) is { Success: true } number && number.Index == Subject.Length
            && int.TryParse(number.Groups[1].ValueSpan, System.Globalization.CultureInfo.InvariantCulture, out var payment) ? payment : null;

    /// <summary>Whether a grant is by it, or by a payment that renewed it.</summary>
    public bool Gave(Grant grant) => PaymentOf(grant) is not null;

    /// <summary>What its name means to people: that of the order alone, where it was said to us.</summary>
    public string Subject => $"{Source}:{Key}";

    [GeneratedRegex(@"\+(\d{1,7})(?:\.\d{1,7})?$", RegexOptions.CultureInvariant)]
    private static partial Regex HasNumber();
}

/// <summary>An order with its story.</summary>
public sealed record ToldOrder(Order Order, OrderStory Story)
{
    /// <summary>
    /// When each of its lines is paid for. What is bought in place of a line and cannot be given yet, as there is no rule for it, ends nothing: whoever pays is
    /// not left outside meanwhile.
    /// </summary>
    public IReadOnlyList<LineTime> Times
    {
        get
        {
            var waiting = Story.Times.Where((_, n) => Order.Promises.All(p => p.Line != n)).Select(t => t.Since).OfType<DateTimeOffset>().ToHashSet();
            return waiting.Count == 0 ? Story.Times : [.. Story.Times.Select(t => t.Until is { } at && waiting.Contains(at) ? t with { Until = null } : t)];
        }
    }

    /// <summary>What is promised for the lines that are bought now.</summary>
    public IReadOnlyList<OrderPromise> Present
    {
        get
        {
            var times = Times;
            return [.. Order.Promises.Where(p => p.Line < times.Count && times[p.Line].Until is null)];
        }
    }

    /// <summary>What of it waits for somebody to begin it, or for its first use.</summary>
    public IReadOnlyList<GivenFact> Waits => Story.StartedAt is not null || Story.Payments.All(p => p.Over is not null) ? []
        : [.. Present.SelectMany(p => p.Facts)
            .Where(f => f.Starts != PlanStart.AtOnce && f.Length is not null && f.Fact.Kind != FactKind.Pass).Select(f => f.Fact).Distinct()];

    /// <summary>
    /// Whether something that it gave ends as its time is over, and not because the money went back, it rests, or something else is bought in its place.
    /// </summary>
    /// <param name="reference">How the grant names it.</param>
    /// <param name="until">When the grant ends.</param>
    public bool Lapses(string reference, DateTimeOffset until) => Order.PaymentOf(reference) is { } number
        && Story.Payments.All(p => p.Number != number || p.Over is null) && Story.Pauses.All(p => p.From != until) && Story.Times.All(t => t.Until != until);
}

/// <summary>Stores an order, unless somebody else changed it since version <paramref name="Was"/>; 0 where there was none.</summary>
public sealed record OrderPut(Order Order, int Was) : Change.OfPeople;

/// <summary>Keeps an event. One of that source and id that is there already is refused.</summary>
public sealed record OrderEventAdded(KeptEvent Kept) : Change.OfPeople;

/// <summary>Marks an event as taken up, unless somebody else was faster.</summary>
public sealed record OrderEventTaken(KeptEvent Kept) : Change.OfPeople;

/// <summary>Says of an event that waits for how it is to be read what it says, or why it still cannot be read.</summary>
public sealed record OrderEventRead(KeptEvent Kept) : Change.OfPeople;

/// <summary>Drops an event that nobody has taken up.</summary>
public sealed record OrderEventDropped(KeptEvent Kept) : Change.OfPeople;
