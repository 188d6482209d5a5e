using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;

namespace WarySentinel.Core.Orders;

/// <summary>
/// What somebody holds by their orders, reckoned from all of them together: what is paid for early goes on where the last length ends; what is given back
/// is over, and what was paid for after it moves up; what rests is counted on from where it rested. The same orders give the same, whatever the order in
/// which they came (docs/explanation/orders.md).
/// </summary>
public static class Reckoning
{
    /// <summary>Every grant that they have by these orders, over or not.</summary>
    /// <param name="dates">Knows the site's time zone.</param>
    /// <param name="orders">All orders of one person that are fulfilled.</param>
    /// <param name="others">What they hold from elsewhere.</param>
    /// <param name="grace">How long a plan goes on where it is not renewed.</param>
    /// <param name="ofSeats">Whether of what is given to organisations, and not to whoever bought it.</param>
    public static IReadOnlyList<Grant> Of(
        SiteDates dates, IEnumerable<ToldOrder> orders, IEnumerable<Grant> others, Func<GivenFact, PlanLength?> grace, bool ofSeats = false)
    {
        var (all, elsewhere) = (orders.ToList(), others.ToList());
        return Given(dates, PaidFacts.Of(dates, all, Rests(dates, all, elsewhere), null, ofSeats), elsewhere, grace);
    }

    private static List<Grant> Given(
        SiteDates dates, IEnumerable<PaidFact> paid, IReadOnlyList<Grant> elsewhere, Func<GivenFact, PlanLength?> grace) =>
        [.. paid.GroupBy(p => p.Fact).SelectMany(of => Chain(dates, of, elsewhere, grace(of.Key)))];

    /// <summary>
    /// How much of what was paid for was left each time that something else was bought in its place, in the order in which that happened: each is reckoned
    /// from what was told before it.
    /// </summary>
    private static Dictionary<(string Order, int Payment), TimeSpan> Rests(SiteDates dates, IReadOnlyList<ToldOrder> orders, IReadOnlyList<Grant> elsewhere)
    {
        var rests = new Dictionary<(string, int), TimeSpan>();
        var changes = orders.SelectMany(o => o.Story.Payments.Where(p => p.IsChange).Select(p => (Told: o, Change: p)))
            .OrderBy(c => c.Change.At).ThenBy(c => c.Told.Order.Subject, StringComparer.Ordinal).ThenBy(c => c.Change.Number);
        foreach (var (told, change) in changes)
        {
            var before = Given(dates, PaidFacts.Of(dates, orders, rests, (told.Order.Subject, change), null), elsewhere, _ => null);
            if (ExchangedPlan.Of(told, change) is { } exchanged)
            {
                rests[(told.Order.Subject, change.Number)] = exchanged.Converted(exchanged.LeftOf(before.Where(told.Order.Gave), change.At));
            }
        }

        return rests;
    }

    private static IEnumerable<Grant> Chain(SiteDates dates, IEnumerable<PaidFact> paid, IReadOnlyList<Grant> elsewhere, PlanLength? grace)
    {
        var (run, given, queue) = (new Run(), new List<GivenLength>(), new PaidQueue(paid));
        while (queue.Next() is { } one)
        {
            if (one.IsForGood)
            {
                given.AddRange(one.ForGood().Select(g => new GivenLength(g, false, null)));
                continue;
            }

            var late = one.IsMoved || given.Count == 0 || grace is null || !given[^1].Ends ? (DateTimeOffset?)null : dates.After(run.End, grace, 1);
            var start = After(one, run, elsewhere, late);
            if (one.Over <= start)
            {
                given.Add(new GivenLength(one.ToGrant(start, start), false, null));
                continue;
            }

            if (one.PauseAt(start) is { } resting)
            {
                queue.Again(one, resting.Until, one.Rest);
                continue;
            }

            var next = one.Rest is { } rest ? new Run { End = Later(start, rest) } : run.Next(dates, start, one.Length!, one.Times);
            var end = one.Over is { } over && over < next.End ? over : next.End;
            if (one.PauseIn(start, end) is { } pause)
            {
                // What is left of it when it rests is left to it afterwards, to the moment.
                given.Add(new GivenLength(one.ToGrant(start, pause.From), false, null));
                run = new Run { End = pause.From };
                queue.Again(one, pause.Until, next.End - pause.From);
                continue;
            }

            run = end < next.End ? new Run { End = end } : next;
            given.Add(new GivenLength(one.ToGrant(start, end), end == next.End && !one.IsCancelled, one.Over));
        }

        // Lines of one payment that give the same are one grant. Grace is what follows a length after which nothing was paid.
        var whole = given.GroupBy(g => g.Grant.Source).Select(Whole).ToList();
        return whole.Select((g, n) => grace is null || !g.Ends || g.Grant.Until is null || whole.Skip(n + 1).Any(l => l.Grant.From <= g.Grant.Until) ? g.Grant
            : g.Grant with { Until = Sooner(dates.After(g.Grant.Until.Value, grace, 1), g.Over) });
    }

    private static DateTimeOffset Sooner(DateTimeOffset end, DateTimeOffset? over) => over is { } at && at < end ? at : end;

    private static GivenLength Whole(IEnumerable<GivenLength> lines)
    {
        var all = lines.ToList();
        var until = all.Exists(l => l.Grant.Until is null) ? null : all.Max(l => l.Grant.Until);
        return new GivenLength(all[0].Grant with { From = all.Min(l => l.Grant.From), Until = until }, all[^1].Ends, all[^1].Over);
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

    private static DateTimeOffset Later(DateTimeOffset start, TimeSpan rest) =>
        rest < SiteDates.Last - start ? start + rest : SiteDates.Last;

    /// <summary>What one payment gives, whether more of the same may be paid after it, and when it is over whatever comes after its end.</summary>
    private sealed record GivenLength(Grant Grant, bool Ends, DateTimeOffset? Over);

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
