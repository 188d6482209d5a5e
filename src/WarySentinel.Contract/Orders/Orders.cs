namespace WarySentinel.Contract.Orders;

/// <summary>An order.</summary>
/// <param name="Id">Our name of it.</param>
/// <param name="Source">Who tells of it: the key of a source, <c>hand</c>, <c>api</c> or <c>import</c>.</param>
/// <param name="Order">Its name in the words of whoever tells of it.</param>
/// <param name="Standing">How it stands with the money: <c>unpaid</c>, <c>failed</c>, <c>paid</c>, <c>part-refunded</c>, <c>cancelled</c>,
/// <c>past-due</c>, <c>refunded</c>, <c>charged-back</c> or <c>ended</c>.</param>
/// <param name="Handling">How far it is fulfilled: <c>open</c>, <c>done</c>, <c>due</c> on a day to come, or <c>waiting</c> for a person.</param>
/// <param name="WaitsFor">What somebody has to look at: <c>code</c>, <c>address</c>, <c>kept-out</c>, <c>limit</c>; null for nothing.</param>
/// <param name="Email">The address of whoever is given what it buys.</param>
/// <param name="Name">Who pays.</param>
/// <param name="Codes">Its stock codes.</param>
/// <param name="Total">What was paid, in decimals; null where nobody said.</param>
/// <param name="Currency">The currency (ISO 4217).</param>
/// <param name="Refunded">What went back, in decimals.</param>
/// <param name="At">When it was paid first.</param>
/// <param name="DueAt">When it is given, where that is a day to come.</param>
/// <param name="Member">The account that has it; null where none has.</param>
public sealed record OrderView(
    Guid Id, string Source, string Order, string Standing, string Handling, string? WaitsFor, string Email, string? Name, string Codes, string? Total,
    string? Currency, string? Refunded, DateTimeOffset At, DateTimeOffset? DueAt, Guid? Member);

/// <summary>One order with its story.</summary>
/// <param name="Order">The order.</param>
/// <param name="Lines">What was bought.</param>
/// <param name="Gift">Whom it is for, where it is a present.</param>
/// <param name="Given">What its account has by it.</param>
/// <param name="Events">What was told of it, the first first.</param>
/// <param name="Letters">The letters to its address since, the newest first.</param>
/// <param name="Would">What taking it up now would do, in sentences; null where there is nothing to do.</param>
/// <param name="PausedAt">Since when it rests; null where it does not.</param>
/// <param name="Waits">What of it waits to be begun, or for its first use, by its title.</param>
/// <param name="Seats">The organisation whose seats it pays for; null where it pays for none.</param>
public sealed record OrderStoryView(
    OrderView Order, IReadOnlyList<OrderLineView> Lines, OrderGiftView? Gift, IReadOnlyList<OrderGrantView> Given, IReadOnlyList<OrderEventView> Events,
    IReadOnlyList<OrderLetterView> Letters, IReadOnlyList<string>? Would, DateTimeOffset? PausedAt, IReadOnlyList<string> Waits,
    OrderSeatsView? Seats)
{
    /// <summary>The code of the coupon that took something off; null for none.</summary>
    public string? Coupon { get; init; }
}

/// <summary>The organisation whose seats an order pays for.</summary>
/// <param name="Key">Its key.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Seats">How many people it is for.</param>
/// <param name="Taken">How many belong to it, or are asked to.</param>
public sealed record OrderSeatsView(string Key, string Title, int Seats, int Taken);

/// <summary>A line of an order.</summary>
/// <param name="Code">The stock code.</param>
/// <param name="Variant">The variant; null for none.</param>
/// <param name="Quantity">How many.</param>
/// <param name="Amount">What all of it costs, in decimals; null where nobody said.</param>
/// <param name="Rule">The key of the rule that it was promised by; null where there is none.</param>
/// <param name="Until">Until when it was bought, as something else is in its place; null where it is bought still.</param>
public sealed record OrderLineView(string Code, string? Variant, int Quantity, string? Amount, string? Rule, DateTimeOffset? Until);

/// <summary>A present.</summary>
/// <param name="Email">Whom it is for.</param>
/// <param name="Name">How they are called.</param>
/// <param name="On">The day; null for at once.</param>
/// <param name="Words">What is said with it.</param>
public sealed record OrderGiftView(string? Email, string? Name = null, string? On = null, string? Words = null);

/// <summary>Something that an order gave.</summary>
/// <param name="Fact">The fact, such as <c>plan:patron</c>.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Payment">Which payment paid for it, from 1.</param>
/// <param name="From">From when.</param>
/// <param name="Until">Until when; null for always.</param>
/// <param name="InForce">Whether it counts now.</param>
public sealed record OrderGrantView(string Fact, string Title, int Payment, DateTimeOffset? From, DateTimeOffset? Until, bool InForce);

/// <summary>Something that was told of an order.</summary>
/// <param name="Id">Our name of it.</param>
/// <param name="Name">Its id in the words of whoever told it.</param>
/// <param name="Kind">What happened, such as <c>order.paid</c>; null where that cannot be read.</param>
/// <param name="At">When it happened.</param>
/// <param name="ReceivedAt">When it came.</param>
/// <param name="State"><c>waiting</c>, <c>taken</c> or <c>unreadable</c>.</param>
/// <param name="Amount">The money, in decimals with its currency; null where nobody said.</param>
/// <param name="Address">The address that was given later, of one that mends it.</param>
public sealed record OrderEventView(
    Guid Id, string Name, string? Kind, DateTimeOffset? At, DateTimeOffset ReceivedAt, string State, string? Amount, string? Address);

/// <summary>A letter about an order.</summary>
/// <param name="Id">The letter.</param>
/// <param name="Kind">Its kind, in words.</param>
/// <param name="Subject">Its subject.</param>
/// <param name="At">When it was written.</param>
/// <param name="SentAt">When it went out; null where it has not.</param>
public sealed record OrderLetterView(Guid Id, string Kind, string Subject, DateTimeOffset At, DateTimeOffset? SentAt);

/// <summary>What came and cannot be read.</summary>
/// <param name="Id">Our name of it.</param>
/// <param name="Source">Who told it.</param>
/// <param name="Name">Its id in the words of whoever told it, or one that stands for it.</param>
/// <param name="ReceivedAt">When it came.</param>
/// <param name="Faults">What is wrong with it, each with the field it lies in.</param>
/// <param name="Raw">What came.</param>
public sealed record UnreadableEventView(Guid Id, string Source, string Name, DateTimeOffset ReceivedAt, IReadOnlyList<string> Faults, string? Raw);

/// <summary>Something that happened to an order, told by hand or by a program.</summary>
public sealed record OrderDraft
{
    /// <summary>The name of the order; made up unless said.</summary>
    public string? Order { get; init; }

    /// <summary>Who tells: <c>api</c> unless said, or <c>hand</c>.</summary>
    public string? Source { get; init; }

    /// <summary>The name of what happened: told twice under one id, it happened once. Made up unless said.</summary>
    public string? Id { get; init; }

    /// <summary>What happened: <c>order.paid</c> unless said.</summary>
    public string? Kind { get; init; }

    /// <summary>When (RFC 3339); now unless said.</summary>
    public string? At { get; init; }

    /// <summary>The e-mail address of whoever pays; of <c>order.mended</c>, the one that is right.</summary>
    public string? Email { get; init; }

    /// <summary>How they are called.</summary>
    public string? Name { get; init; }

    /// <summary>The language that they read.</summary>
    public string? Language { get; init; }

    /// <summary>What is bought.</summary>
    public IReadOnlyList<OrderLineDraft>? Lines { get; init; }

    /// <summary>The money, in decimals.</summary>
    public string? Amount { get; init; }

    /// <summary>The currency (ISO 4217).</summary>
    public string? Currency { get; init; }

    /// <summary>Which payment it is, where it may be told of under several ids.</summary>
    public string? Payment { get; init; }

    /// <summary>The code of the coupon that took something off.</summary>
    public string? Coupon { get; init; }

    /// <summary>What the buyer's browser brings back from paying.</summary>
    public string? Token { get; init; }

    /// <summary>Whom it is for, where it is a present.</summary>
    public OrderGiftView? Gift { get; init; }
}

/// <summary>A line of an order.</summary>
/// <param name="Code">The stock code.</param>
/// <param name="Variant">The variant.</param>
/// <param name="Quantity">How many; one unless said.</param>
/// <param name="Amount">What all of it costs, in decimals.</param>
public sealed record OrderLineDraft(string? Code, string? Variant = null, int? Quantity = null, string? Amount = null);

/// <summary>What came of telling of an order.</summary>
/// <param name="Order">The order, as it stands.</param>
/// <param name="Told">Whether it was not known before.</param>
public sealed record OrderToldView(OrderView Order, bool Told);

/// <summary>What came of looking through a file of orders, or of taking it in.</summary>
/// <param name="Stored">Whether it was taken in; else it was only looked through.</param>
/// <param name="Rows">How many rows it has.</param>
/// <param name="Orders">How many orders they are.</param>
/// <param name="New">What of it was not known: payments, refunds and so on.</param>
/// <param name="Known">What of it was known already, and changes nothing.</param>
/// <param name="Columns">What each column was taken for; those that say nothing of an order are not named.</param>
/// <param name="Codes">The stock codes, the most frequent first; two hundred at most.</param>
/// <param name="Faults">What is wrong, and where; fifty at most. Such rows are left out.</param>
/// <param name="FaultsInAll">How many rows are left out.</param>
public sealed record OrderImportView(
    bool Stored, int Rows, int Orders, int New, int Known, IReadOnlyDictionary<string, string> Columns, IReadOnlyList<ImportedCodeView> Codes,
    IReadOnlyList<OrderRowFault> Faults, int FaultsInAll);

/// <summary>A stock code of a file.</summary>
/// <param name="Code">The code.</param>
/// <param name="Orders">How many orders have it.</param>
/// <param name="Rule">The rule in a sentence; null where there is none: they wait.</param>
public sealed record ImportedCodeView(string Code, int Orders, string? Rule);

/// <summary>What is wrong with a row of a file.</summary>
/// <param name="Line">The line, from 1.</param>
/// <param name="Field">What of it.</param>
/// <param name="Message">What is wrong, and what to do.</param>
public sealed record OrderRowFault(int Line, string Field, string Message);
