namespace WarySentinel.Contract.Orders;

/// <summary>What orders came to.</summary>
/// <param name="Rows">By month, then by what was bought.</param>
/// <param name="Days">How many days ahead <paramref name="Soon"/> looks.</param>
/// <param name="Soon">What is about to lapse, and what was last paid for it.</param>
public sealed record OrderFiguresView(IReadOnlyList<OrderFiguresRow> Rows, int Days, IReadOnlyList<LapsingView> Soon);

/// <summary>What orders came to in one month, of one thing and currency. Amounts are in decimals; null where there is no currency.</summary>
/// <param name="Month">The month of the site's calendar, such as <c>2026-11</c>.</param>
/// <param name="What">What was bought: <c>plan:patron</c>, another fact, or <c>code:ALMANAC</c> where nothing was promised for it.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Currency">The currency (ISO 4217); null where nobody said any.</param>
/// <param name="Sales">How often it was bought.</param>
/// <param name="SalesAmount">For how much.</param>
/// <param name="Renewals">How often it was renewed.</param>
/// <param name="RenewalsAmount">For how much.</param>
/// <param name="Refunds">How often money went back.</param>
/// <param name="RefundsAmount">How much.</param>
/// <param name="Lapses">How often it ended, as its time was over and nothing followed.</param>
public sealed record OrderFiguresRow(
    string Month, string What, string Title, string? Currency, int Sales, string? SalesAmount, int Renewals, string? RenewalsAmount, int Refunds,
    string? RefundsAmount, int Lapses);

/// <summary>A plan that is about to lapse for some.</summary>
/// <param name="What">The plan, such as <c>plan:patron</c>.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Currency">The currency; null where nobody said any.</param>
/// <param name="Members">For how many.</param>
/// <param name="Amount">What they last paid for it, together.</param>
public sealed record LapsingView(string What, string Title, string? Currency, int Members, string? Amount);
