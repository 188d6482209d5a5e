using WarySentinel.Core.Facts;

namespace WarySentinel.Core.Orders;

/// <summary>A plan that ends for somebody, and nothing of the same follows.</summary>
/// <param name="Grant">The grant that ends.</param>
/// <param name="Member">Whose it is.</param>
/// <param name="Plan">The key of the plan.</param>
/// <param name="Until">When the door closes, what goes on after its end included.</param>
public sealed record EndingPlan(Guid Grant, Guid Member, string Plan, DateTimeOffset Until);

/// <summary>Remembers that somebody was written a letter about the end of a plan. One that is there already is refused.</summary>
public sealed record Reminded(Guid Grant, string Kind, DateTimeOffset Until) : Change.OfPeople;

/// <summary>Which letter somebody gets about the end of a plan, and when.</summary>
public static class PlanReminder
{
    /// <summary>Before it ends.</summary>
    public const string Ending = "plan-ending";

    /// <summary>Once it is over.</summary>
    public const string Lapsed = "plan-lapsed";

    /// <summary>For how long after the end it is still told that a plan is over.</summary>
    public static readonly TimeSpan Late = TimeSpan.FromDays(7);

    /// <summary>The letter that is due; null for none.</summary>
    /// <param name="plan">The plan; null where there is none such any more.</param>
    /// <param name="ending">Who has it, and until when.</param>
    /// <param name="dates">Knows the site's calendar.</param>
    /// <param name="now">Now.</param>
    public static string? Due(FactDefinition? plan, EndingPlan ending, SiteDates dates, DateTimeOffset now) => plan?.Remind is not { } remind ? null
        : ending.Until <= now ? (now - ending.Until < Late ? Lapsed : null) : dates.Before(PaidUntil(plan, ending, dates), remind) <= now ? Ending : null;

    /// <summary>When a plan ends, without what goes on after it for a while.</summary>
    public static DateTimeOffset PaidUntil(FactDefinition plan, EndingPlan ending, SiteDates dates) =>
        plan.Grace is { } grace ? dates.Before(ending.Until, grace) : ending.Until;
}
