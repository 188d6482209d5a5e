using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Orders;

/// <summary>What orders came to in one month, of one thing and currency. Amounts are in the smallest unit of the currency.</summary>
/// <param name="Month">The month of the site's calendar, by its first day.</param>
/// <param name="What">What was bought: <c>plan:patron</c>, another fact, or <c>code:ALMANAC</c> where nothing was promised for it.</param>
/// <param name="Currency">The currency; empty where nobody said any.</param>
public sealed record FigureRow(DateOnly Month, string What, string Currency)
{
    /// <summary>How often it was bought.</summary>
    public int Sales { get; init; }

    /// <summary>For how much.</summary>
    public long SalesUnits { get; init; }

    /// <summary>How often it was renewed, by a payment of the same order.</summary>
    public int Renewals { get; init; }

    /// <summary>For how much.</summary>
    public long RenewalUnits { get; init; }

    /// <summary>How often money went back, by the buyer's bank or otherwise.</summary>
    public int Refunds { get; init; }

    /// <summary>How much.</summary>
    public long RefundUnits { get; init; }

    /// <summary>How often it ended, as its time was over and nothing followed.</summary>
    public int Lapses { get; init; }
}

/// <summary>
/// Adds up what orders came to, month by month. An order of several lines is shared out among them, by what each cost; what is shared out always adds up to
/// what was paid.
/// </summary>
/// <param name="dates">Knows the site's time zone.</param>
public sealed class OrderFigures(SiteDates dates)
{
    private readonly Dictionary<(DateOnly, string, string), FigureRow> rows = [];

    /// <summary>The rows, by month, then by what was bought.</summary>
    /// <param name="from">The first month; null for the first there is.</param>
    /// <param name="until">The last month; null for the last there is.</param>
    public IReadOnlyList<FigureRow> Rows(DateOnly? from, DateOnly? until) =>
    [
        .. rows.Values.Where(r => (from is null || r.Month >= from) && (until is null || r.Month <= until))
            .OrderBy(r => r.Month).ThenBy(r => r.What, StringComparer.Ordinal).ThenBy(r => r.Currency, StringComparer.Ordinal),
    ];

    /// <summary>Adds an order.</summary>
    public void Add(ToldOrder told)
    {
        foreach (var payment in told.Story.Payments.Where(p => !p.IsChange || p.Amount is not null))
        {
            // Lines that come to the same thing are one sale of it.
            foreach (var (what, units) in Shared(PartsOf(told, payment.At), payment.Amount?.Units ?? 0))
            {
                Put(payment.At, what, payment.Amount?.Currency, r => payment.Number == 1 ? r with { Sales = r.Sales + 1, SalesUnits = r.SalesUnits + units }
                    : r with { Renewals = r.Renewals + 1, RenewalUnits = r.RenewalUnits + units });
            }
        }

        foreach (var refund in told.Story.Refunds.Where(_ => told.Story.Payments.Count > 0))
        {
            foreach (var (what, units) in Shared(PartsOf(told, refund.At), refund.Units))
            {
                Put(refund.At, what, told.Story.Total?.Currency, r => r with { Refunds = r.Refunds + 1, RefundUnits = r.RefundUnits + units });
            }
        }
    }

    /// <summary>Adds that something ended, of an order that paid in a currency.</summary>
    public void AddLapse(DateTimeOffset at, string what, string? currency) => Put(at, what, currency, r => r with { Lapses = r.Lapses + 1 });

    /// <summary>What the last payment of an order paid for one thing; null where nobody said.</summary>
    public static Money? LastPaid(ToldOrder told, string what) => told.Story.Payments.LastOrDefault(p => p is { Amount: not null, IsChange: false })
        is { Amount: { } last } payment
        ? new Money(Shared(PartsOf(told, payment.At), last.Units).Where(p => p.What == what).Sum(p => p.Units), last.Currency) : null;

    /// <summary>Shares an amount out among parts by their weights, so that it comes to just that amount: what is left over goes to the first.</summary>
    public static IReadOnlyList<long> Share(long units, IReadOnlyList<long> weights)
    {
        var whole = weights.Aggregate((Int128)0, (sum, w) => sum + w);
        List<long> shares = [.. weights.Select(w => whole == 0 ? units / weights.Count : (long)((Int128)units * w / whole))];
        var left = units - shares.Sum();
        for (var n = 0; n < left; n++)
        {
            shares[n % shares.Count]++;
        }

        return shares;
    }

    /// <summary>What is bought at a time, and for how much; what was bought last, where it is nothing any more.</summary>
    private static IReadOnlyList<(string What, long Weight)> PartsOf(ToldOrder told, DateTimeOffset at)
    {
        var lines = told.Story.Lines.Select((line, n) => (Line: line, Place: n)).Where(l => told.Story.Times[l.Place].Holds(at)).ToList();
        lines = lines.Count > 0 ? lines : [.. told.Story.Present];
        return lines.Count == 0 ? [("code:", 1)]
            : [.. lines.Select(l => (WhatOf(told.Order, l.Place, l.Line), l.Line.Amount?.Units ?? 0))];
    }

    private static string WhatOf(Order order, int line, OrderLine bought)
    {
        var facts = order.Promises.FirstOrDefault(p => p.Line == line)?.Facts.Select(f => f.Fact).ToList() ?? [];
        return facts.Count == 0 ? "code:" + bought.Code : facts.OrderBy(f => f.Kind == FactKind.Plan ? 0 : 1).First().ToString();
    }

    private static IEnumerable<(string What, long Units)> Shared(IReadOnlyList<(string What, long Weight)> parts, long units) =>
        parts.Zip(Share(units, [.. parts.Select(p => p.Weight)])).GroupBy(p => p.First.What, (what, all) => (what, all.Sum(p => p.Second)));

    private void Put(DateTimeOffset at, string what, string? currency, Func<FigureRow, FigureRow> change)
    {
        var day = dates.DayOf(at);
        var key = (new DateOnly(day.Year, day.Month, 1), what, currency ?? "");
        rows[key] = change(rows.GetValueOrDefault(key) ?? new FigureRow(key.Item1, what, key.Item3));
    }
}
