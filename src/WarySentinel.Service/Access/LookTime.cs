using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Service.Access;

/// <summary>The time at which somebody wants to look, as they write it.</summary>
internal static class LookTime
{
    /// <summary>The moment that a text means; null where it says none.</summary>
    public static Outcome<DateTimeOffset?> Of(string? text, Policy policy) =>
        string.IsNullOrWhiteSpace(text) ? (DateTimeOffset?)null
        : new SiteDates(policy.Settings.TimeZone).TryRead(text, false, out var moment) ? moment : Problem.In("at", "time-form", text);
}
