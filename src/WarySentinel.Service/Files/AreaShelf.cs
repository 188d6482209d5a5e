using System.Collections.Frozen;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Files;

namespace WarySentinel.Service.Files;

/// <summary>An address of an area that somebody came by.</summary>
/// <param name="Area">The area.</param>
/// <param name="IsOver">Whether it was its address once and is no more.</param>
public sealed record FoundArea(Area Area, bool IsOver);

/// <summary>The addresses of areas, by policy and time: those that work, and the ones before, so that whoever comes late is told so.</summary>
public sealed class AreaShelf(Secrets secrets)
{
    private const int MostOver = 12;
    private volatile Kept? kept;

    /// <summary>The part of an area's present address that nobody can guess.</summary>
    public string TokenOf(Policy policy, Area area, DateTimeOffset now) =>
        secrets.FolderTokenOf(area.Named(area.TermAt(new SiteDates(policy.Settings.TimeZone), now).Number));

    /// <summary>The area that an address is or was of; null for none.</summary>
    public FoundArea? Find(Policy policy, string token, DateTimeOffset now)
    {
        var there = kept;
        if (there is null || !ReferenceEquals(there.Policy, policy) || now < there.From || now >= there.Until)
        {
            kept = there = Made(policy, now);
        }

        return there.ByToken.GetValueOrDefault(token);
    }

    private Kept Made(Policy policy, DateTimeOffset now)
    {
        var (dates, until) = (new SiteDates(policy.Settings.TimeZone), DateTimeOffset.MaxValue);
        var found = new Dictionary<string, FoundArea>(StringComparer.Ordinal);
        foreach (var area in AreaBook.Of(policy).All)
        {
            var (term, still) = (area.TermAt(dates, now), area.StillAt(dates, now));
            for (var number = Math.Max(0, term.Number - MostOver); number <= term.Number; number++)
            {
                found[secrets.FolderTokenOf(area.Named(number))] = new FoundArea(area, number < term.Number && number != still?.Number);
            }

            until = new[] { until, term.Until ?? until, still?.Until ?? until }.Min();
        }

        return new Kept(policy, now, until, found.ToFrozenDictionary(StringComparer.Ordinal));
    }

    private sealed record Kept(Policy Policy, DateTimeOffset From, DateTimeOffset Until, FrozenDictionary<string, FoundArea> ByToken);
}
