using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>
/// From when to when a plan runs that is given for as long as it lasts. Renewed early it goes on where the present one ends, so that nothing is lost, and it
/// is counted from where the run began, so that a plan by the month that began on the 31st ends on the 31st wherever there is one (docs/how-to/plans.md).
/// </summary>
public static class PlanRun
{
    /// <summary>A grant with the end that its plan has by itself, where nobody said one; any other as it is.</summary>
    /// <param name="policy">Knows how long plans last.</param>
    /// <param name="held">What the member has or had.</param>
    /// <param name="fresh">What they are given now.</param>
    /// <param name="now">Now.</param>
    public static Grant Lasting(Policy policy, IEnumerable<Grant> held, Grant fresh, DateTimeOffset now)
    {
        if (fresh.Kind != FactKind.Plan || fresh.Until is not null || policy.FindDefinition(FactKind.Plan, fresh.Key)?.Length is not { } length)
        {
            return fresh;
        }

        var (from, until) = Next(held.Where(g => g.Kind == FactKind.Plan && g.Key == fresh.Key), length, now, new SiteDates(policy.Settings.TimeZone));
        return fresh with { From = from, Until = until };
    }

    /// <summary>The start and the end of the next length of a plan.</summary>
    /// <param name="held">The grants of that plan that the member has or had.</param>
    /// <param name="length">How long it lasts.</param>
    /// <param name="now">Now.</param>
    /// <param name="dates">Knows the site's time zone.</param>
    public static (DateTimeOffset From, DateTimeOffset Until) Next(IEnumerable<Grant> held, PlanLength length, DateTimeOffset now, SiteDates dates)
    {
        var all = held.ToList();
        if (all.Where(g => g.Until is not null && !g.IsOver(now)).MaxBy(g => g.Until) is not { } last)
        {
            return (now, dates.After(now, length, 1));
        }

        var (first, times) = (last, 1);
        while (all.Find(g => g.Until == first.From && g.From < first.From) is { } before)
        {
            (first, times) = (before, times + 1);
        }

        // Where each length of the run was one of these, the run is counted on from its beginning; else from where it ends.
        var end = last.Until!.Value;
        return first.From is { } began && dates.After(began, length, times) == end ? (end, dates.After(began, length, times + 1))
            : (end, dates.After(end, length, 1));
    }
}
