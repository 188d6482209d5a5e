using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>
/// What an organisation is given, as grants of its people. They are dated facts like any other, so that every surface decides by them without knowing of
/// organisations (docs/how-to/organisations.md).
/// </summary>
public static class OrganisationGrants
{
    /// <summary>
    /// The grants that somebody who belongs to it has through it: from when the fact begins, at the earliest when they joined; until the fact or the
    /// organisation ends, whichever is sooner. One that would be over before it begins is none.
    /// </summary>
    /// <param name="organisation">The organisation.</param>
    /// <param name="there">What they have through it so far.</param>
    /// <param name="now">The time.</param>
    public static IEnumerable<Grant> Of(Organisation organisation, IReadOnlyList<Grant> there, DateTimeOffset now)
    {
        foreach (var fact in organisation.Facts)
        {
            var had = there.FirstOrDefault(g => g.Kind == fact.Kind && g.Key == fact.Key);
            var began = had is { } g && !g.IsOver(now) && g.From <= now ? g.From : now;
            var (from, until) = (fact.From > began ? fact.From : began, fact.Until < organisation.Until ? fact.Until : organisation.Until ?? fact.Until);
            if (!(until <= now) && !(until <= from))
            {
                yield return new Grant(fact.Kind, fact.Key, from, until) { Id = had?.Id ?? Guid.CreateVersion7(), Source = organisation.Source };
            }
        }
    }

    /// <summary>Somebody as they are with what they have through it, or without where they do not belong to it.</summary>
    internal static Member Fit(Organisation organisation, Member member, bool belongs, DateTimeOffset now, List<Change> changes)
    {
        var there = member.Grants.Where(g => g.Source == organisation.Source).ToList();
        var wanted = belongs ? Of(organisation, there, now).ToList() : [];
        var after = there.Where(g => !g.IsOver(now) && !wanted.Exists(w => w.Id == g.Id))
            .Aggregate(member, (m, g) => GrantCommands.Ending(m, g, now, changes));
        return wanted.Where(w => !there.Contains(w)).Aggregate(after, (m, g) => GrantCommands.Giving(m, g, changes));
    }

    /// <summary>
    /// Fits all its people, in the order of their ids: two transactions that want the same rows wait for one another in turn, never crosswise. Gives what
    /// the trail says of each.
    /// </summary>
    internal static List<Edit> Fit(Organisation organisation, IEnumerable<Member> people, DateTimeOffset now, List<Change> changes)
    {
        var notes = new List<Edit>();
        foreach (var member in people.OrderBy(m => m.Id))
        {
            var mine = new List<Change>();
            var after = Fit(organisation, member, true, now, mine);
            if (mine.Count > 0)
            {
                changes.AddRange([new MemberTouched(member.Id, member.Version), .. mine]);
                notes.Add(new Edit("organisation.holds", member.Email, [], Through(organisation, member, now), Through(organisation, after, now)));
            }
        }

        return notes;
    }

    /// <summary>What somebody has through it, for people to read.</summary>
    internal static string Through(Organisation organisation, Member member, DateTimeOffset now) => string.Join(
        ", ", member.Grants.Where(g => g.Source == organisation.Source && !g.IsOver(now)).Select(g => g.Fact).Prepend(organisation.Title));
}
