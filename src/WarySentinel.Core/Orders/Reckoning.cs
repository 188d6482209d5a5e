using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;

namespace WarySentinel.Core.Orders;

/// <summary>
/// What somebody holds by their orders, reckoned from all of them together: what is paid for early goes on where the last length ends; what is given back
/// is over, and what was paid for after it moves up. The same orders give the same, whatever the order in which they came (docs/explanation/orders.md).
/// </summary>
public static class Reckoning
{
    /// <summary>Every grant that they have by these orders, over or not.</summary>
    /// <param name="dates">Knows the site's time zone.</param>
    /// <param name="orders">All orders of one person that are fulfilled.</param>
    /// <param name="others">What they hold from elsewhere.</param>
    /// <param name="grace">How long a plan goes on where it is not renewed.</param>
    public static IReadOnlyList<Grant> Of(
        SiteDates dates, IEnumerable<ToldOrder> orders, IEnumerable<Grant> others, Func<GivenFact, PlanLength?> grace)
    {
        var elsewhere = others.ToList();
        return [.. Paid(dates, orders).GroupBy(p => p.Fact).SelectMany(of => Chain(dates, of, elsewhere, grace(of.Key)))];
    }

    /// <summary>Each payment of each fact, in the order in which they count.</summary>
    private static IEnumerable<PaidFact> Paid(SiteDates dates, IEnumerable<ToldOrder> orders)
    {
        var all = new List<PaidFact>();
        foreach (var (order, story) in orders)
        {
            foreach (var promise in order.Promises)
            {
                foreach (var fact in promise.Facts)
                {
                    var (last, isForGood) = ((DateTimeOffset?)null, false);
                    foreach (var payment in story.Payments)
                    {
                        // What is given for always is given once, and again only where it was over.
                        var trial = payment.Number == 1 ? fact.Trial : null;
                        var length = trial ?? fact.Length;
                        if (length is null && isForGood && last is null)
                        {
                            continue;
                        }

                        (last, isForGood) = (payment.Over, length is null);
                        all.Add(new PaidFact(
                            fact.Fact, order, payment.Number, Begins(dates, order, story, payment), length,
                            trial is null ? promise.Times : 1, payment.Over,
                            story.CancelledAt is not null));
                    }
                }
            }
        }

        return all.OrderBy(p => p.At).ThenBy(p => p.Order.Subject, StringComparer.Ordinal).ThenBy(p => p.Payment);
    }

    private static DateTimeOffset Begins(SiteDates dates, Order order, OrderStory story, OrderPayment payment) =>
        payment.Number == 1 && story.Gift?.On is { } day && dates.StartOf(day) is var start && start > payment.At ? start : payment.At;

    private static IEnumerable<Grant> Chain(SiteDates dates, IEnumerable<PaidFact> paid, IReadOnlyList<Grant> elsewhere, PlanLength? grace)
    {
        var (run, given, list) = (new Run(), new List<(Grant Grant, bool Ends)>(), paid.ToList());
        foreach (var one in list)
        {
            if (one.Length is null)
            {
                given.Add((one.ToGrant(one.At, one.Over is { } over && over < one.At ? one.At : one.Over), false));
                continue;
            }

            var start = After(one, run, elsewhere, given.Count > 0 && grace is not null && given[^1].Ends ? dates.After(run.End, grace, 1) : null);
            if (one.Over <= start)
            {
                given.Add((one.ToGrant(start, start), false));
                continue;
            }

            run = run.Next(dates, start, one.Length, one.Times);
            var cut = one.Over is { } end && end < run.End;
            run = cut ? new Run { End = one.Over!.Value } : run;
            given.Add((one.ToGrant(start, run.End), !cut && !one.IsCancelled));
        }

        // Lines of one payment that give the same are one grant. Grace is what follows a length after which nothing was paid.
        var whole = given.GroupBy(g => g.Grant.Source).Select(Whole).ToList();
        return whole.Select((g, n) => grace is null || !g.Ends || g.Grant.Until is null || whole.Skip(n + 1).Any(l => l.Grant.From <= g.Grant.Until) ? g.Grant
            : g.Grant with { Until = dates.After(g.Grant.Until.Value, grace, 1) });
    }

    private static (Grant Grant, bool Ends) Whole(IEnumerable<(Grant Grant, bool Ends)> lines)
    {
        var all = lines.ToList();
        var until = all.Exists(l => l.Grant.Until is null) ? null : all.Max(l => l.Grant.Until);
        return (all[0].Grant with { From = all.Min(l => l.Grant.From), Until = until }, all[^1].Ends);
    }

    /// <summary>When a length begins: when it is paid, or where what is held ends. Who pays within the grace has had it already.</summary>
    private static DateTimeOffset After(PaidFact paid, Run run, IReadOnlyList<Grant> elsewhere, DateTimeOffset? graceEnd)
    {
        var start = paid.At < run.End || paid.At <= graceEnd ? run.End : paid.At;
        for (var moved = true; moved;)
        {
            moved = false;
            foreach (var other in elsewhere)
            {
                if (other.Kind == paid.Fact.Kind && other.Key == paid.Fact.Key && other.Until is { } until && until > start
                    && (other.From is null || other.From <= start))
                {
                    (start, moved) = (until, true);
                }
            }
        }

        return start;
    }

    private sealed record PaidFact(
        GivenFact Fact, Order Order, int Payment, DateTimeOffset At, PlanLength? Length, int Times, DateTimeOffset? Over, bool IsCancelled)
    {
        public Grant ToGrant(DateTimeOffset from, DateTimeOffset? until) => new(Fact.Kind, Fact.Key, from, until)
        { Source = GrantSource.Stored("order", Order.Reference(Payment)) };
    }

    /// <summary>Lengths one after the other, counted from where the first began: a plan by the month that began on the 31st ends on the 31st.</summary>
    private readonly record struct Run(DateTimeOffset Began, PlanLength? Length, int Times)
    {
        public DateTimeOffset End { get; init; }

        public Run Next(SiteDates dates, DateTimeOffset start, PlanLength length, int times)
        {
            var (began, sofar) = start == End && length == Length ? (Began, Times) : (start, 0);
            return new Run(began, length, sofar + times) { End = dates.After(began, length, sofar + times) };
        }
    }
}
