using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People;

/// <summary>An organisation as people write it.</summary>
/// <param name="Key">Its name in addresses; made of the title unless said.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Seats">So many people at most.</param>
/// <param name="Until">When it ends: a moment, or a day of the site's time zone; never unless said.</param>
/// <param name="Facts">All that it is given.</param>
public sealed record OrganisationDraft(string? Key, string? Title, int? Seats, string? Until = null, IReadOnlyList<GrantDraft>? Facts = null);

/// <summary>Adds organisations, changes what they are given, ends them. Who belongs to them is in <see cref="OrganisationPeople"/>.</summary>
public static class OrganisationCommands
{
    /// <summary>Most seats: what the organisation is given is written to each of its people in one go.</summary>
    public const int MostSeats = 1000;

    /// <summary>Most facts that one is given.</summary>
    public const int MostFacts = 50;

    /// <summary>Longest title, in characters.</summary>
    public const int LongestTitle = 120;

    /// <summary>Adds an organisation, without people.</summary>
    public static Outcome<Edit<Organisation>> Add(Policy policy, OrganisationDraft draft, DateTimeOffset now)
    {
        var faults = new Faults();
        var key = string.IsNullOrWhiteSpace(draft.Key) ? Slug.Of(draft.Title?.Trim() ?? "") : draft.Key;
        faults.Unless(CatalogueKey.IsValid(key), "key", "key-form", key);
        var fresh = Read(policy, draft, new Organisation(Guid.CreateVersion7(), key, "", 0, now), faults);
        return faults.Any ? faults.ToProblem()
            : new Edit<Organisation>(new Edit("organisation.add", fresh.Subject, [new OrganisationAdded(fresh)], null, Said(fresh)), fresh);
    }

    /// <summary>Changes what an organisation is: all that the draft says, in place of what was. Its people hold what it says from then on.</summary>
    /// <param name="policy">Knows the roles, groups and plans.</param>
    /// <param name="old">The organisation as it is; null where there is none.</param>
    /// <param name="draft">What it is to be.</param>
    /// <param name="version">The version that was read; null for whatever it is by now.</param>
    /// <param name="people">The accounts of its people.</param>
    /// <param name="now">The time.</param>
    public static Outcome<Edit<Organisation>> Set(
        Policy policy, Organisation? old, OrganisationDraft draft, int? version, IEnumerable<Member> people, DateTimeOffset now)
    {
        if (old is null || (version is not null && version != old.Version))
        {
            return old is null ? Unknown : Problem.Of(ProblemKind.Stale, "stale", old.Title);
        }

        var faults = new Faults();
        var after = Read(policy, draft, old, faults);
        faults.Unless(after.Seats >= old.SeatsTaken || after.Seats == 0, "seats", "organisation-seats-taken", old.SeatsTaken);
        if (faults.Any)
        {
            return faults.ToProblem();
        }

        if (after.Title == old.Title && after.Seats == old.Seats && after.Until == old.Until && after.Facts.SequenceEqual(old.Facts))
        {
            return new Edit<Organisation>(new Edit("organisation.set", old.Subject, []), old);
        }

        return Stored("organisation.set", old, after, [new OrganisationFactsSet(old.Id, after.Facts)], people, now);
    }

    /// <summary>Ends an organisation now: its people keep their accounts, and hold through it no more.</summary>
    public static Outcome<Edit<Organisation>> End(Organisation? old, IEnumerable<Member> people, DateTimeOffset now) => old is null ? Unknown
        : old.IsOver(now) ? new Edit<Organisation>(new Edit("organisation.end", old.Subject, []), old)
        : Stored("organisation.end", old, old with { Until = now }, [], people, now);

    /// <summary>Removes an organisation with what it invited; its people keep their accounts.</summary>
    public static Outcome<Edit<Organisation>> Remove(Organisation? old, IEnumerable<Member> people, DateTimeOffset now)
    {
        if (old is null)
        {
            return Unknown;
        }

        var bare = old with { Facts = [] };
        var changes = new List<Change> { new OrganisationSet(old with { Version = old.Version + 1 }, old.Version) };
        var notes = OrganisationGrants.Fit(bare, people, now, changes);
        changes.AddRange([new LinksClosed(LinkPurpose.Organisation, old.Id, null, LinkEnd.Withdrawn), new OrganisationRemoved(old.Id)]);
        return new Edit<Organisation>(new Edit("organisation.remove", old.Subject, changes, Said(old)) { Notes = notes }, bare);
    }

    /// <summary>The problem of one that is not there.</summary>
    internal static Problem Unknown => Problem.Of(ProblemKind.NotFound, "organisation-unknown");

    private static Edit<Organisation> Stored(
        string action, Organisation old, Organisation after, IEnumerable<Change> more, IEnumerable<Member> people, DateTimeOffset now)
    {
        after = after with { Version = old.Version + 1 };
        var changes = new List<Change> { new OrganisationSet(after, old.Version) };
        changes.AddRange(more);
        var notes = OrganisationGrants.Fit(after, people, now, changes);
        return new Edit<Organisation>(new Edit(action, old.Subject, changes, Said(old), Said(after)) { Notes = notes }, after);
    }

    private static Organisation Read(Policy policy, OrganisationDraft draft, Organisation old, Faults faults)
    {
        var title = draft.Title?.Trim() ?? "";
        faults.Unless(title.Length is > 0 and <= LongestTitle && PlainText.IsClean(title), "title", "title-length", LongestTitle);
        faults.Unless(draft.Seats is >= 1 and <= MostSeats, "seats", "organisation-seats", MostSeats);
        var until = SiteDates.ReadBoth(policy.Settings.TimeZone, null, draft.Until, (field, code, values) => faults.Bad(field, code, values)).Until;
        var facts = new List<OrganisationFact>();
        foreach (var fact in draft.Facts ?? [])
        {
            Take(policy, fact, facts, faults);
        }

        faults.Unless(facts.Count <= MostFacts, "facts", "organisation-facts", MostFacts);
        return old with { Title = title, Seats = draft.Seats ?? 0, Until = until, Facts = facts };
    }

    private static void Take(Policy policy, GrantDraft? draft, List<OrganisationFact> facts, Faults faults)
    {
        var named = GrantCommands.ReadFact(policy, draft?.Fact);
        if (named.Problem is { } odd)
        {
            faults.Take(odd);
            return;
        }

        var (kind, key) = named.Value;
        var dates = SiteDates.ReadBoth(policy.Settings.TimeZone, draft!.From, draft.Until, (field, code, values) => faults.Bad(field, code, values));
        var fresh = new OrganisationFact(kind, key, dates.From, dates.Until);
        faults.Unless(kind != FactKind.Role || !StaffRights.IsStaffRole(policy, key), "fact", "organisation-staff", fresh.Fact);
        faults.Unless(!facts.Exists(f => f.Fact == fresh.Fact), "fact", "organisation-fact-twice", fresh.Fact);
        facts.Add(fresh);
    }

    private static string Said(Organisation one)
    {
        IEnumerable<string> parts =
        [
            one.Title, one.Seats.ToString(System.Globalization.CultureInfo.InvariantCulture),
            .. one.Until is { } end ? new[] { SiteDates.Write(end) } : [], .. one.Facts.Select(Said),
        ];
        return string.Join(", ", parts);
    }

    private static string Said(OrganisationFact fact)
    {
        static string At(DateTimeOffset? at) => at is { } moment ? SiteDates.Write(moment) : "…";
        return fact.From is null && fact.Until is null ? fact.Fact : $"{fact.Fact} ({At(fact.From)} – {At(fact.Until)})";
    }
}
