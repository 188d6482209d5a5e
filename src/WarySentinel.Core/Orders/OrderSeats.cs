using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;

namespace WarySentinel.Core.Orders;

/// <summary>The organisation whose seats an order pays for, as it is found.</summary>
/// <param name="Organisation">The organisation; null where there is none yet, or somebody removed it.</param>
/// <param name="People">The accounts of its people.</param>
public sealed record SeatsThere(Organisation? Organisation, IReadOnlyList<Member> People)
{
    /// <summary>None.</summary>
    public static readonly SeatsThere None = new(null, []);
}

/// <summary>What becomes of an organisation by an order.</summary>
/// <param name="Buyer">The buyer, with what they have through it.</param>
/// <param name="Organisation">The organisation; null where there is none.</param>
/// <param name="Mine">What is to be stored of the buyer.</param>
/// <param name="Others">What is to be stored of the organisation and its other people.</param>
/// <param name="Notes">What the trail says of it.</param>
internal sealed record SettledSeats(
    Member Buyer, Organisation? Organisation, IReadOnlyList<Change> Mine, IReadOnlyList<Change> Others, IReadOnlyList<Edit> Notes);

/// <summary>
/// Seats that an order pays for: an organisation with the buyer as its manager, that holds what the order gives from when to when the order gives it. What
/// somebody else gave it stays, and so does who belongs to it (docs/how-to/organisations.md).
/// </summary>
internal static class OrderSeats
{
    /// <summary>How many an order pays for now.</summary>
    public static int Of(ToldOrder told) => told.Present.Sum(p => p.Seats ?? 0);

    /// <summary>Makes the organisation what the order says, where it is not.</summary>
    public static SettledSeats Settle(Policy policy, ToldOrder told, SeatsThere there, Member buyer, Guid fresh, DateTimeOffset now)
    {
        var ours = told.Order.Promises.Where(p => p.Seats is not null).SelectMany(p => p.Facts).Select(f => f.Fact).ToHashSet();
        var facts = Facts(policy, told);
        if (there.Organisation is not { } old)
        {
            // One that somebody removed is not made again.
            return ours.Count == 0 || told.Order.Organisation is not null || facts.TrueForAll(f => f.Until <= now)
                ? new SettledSeats(buyer, null, [], [], []) : Made(told, buyer, facts, fresh, now);
        }

        var (seats, people) = (Of(told), old.People);
        var after = old with
        {
            Seats = seats > 0 ? seats : old.Seats,
            Facts = [.. old.Facts.Where(f => !ours.Contains(new GivenFact(f.Kind, f.Key))), .. facts],
            People = people.Any(p => p.Member == buyer.Id) || told.Story.MendedTo is null ? people : [.. people, new OrganisationPerson(buyer.Id, true, now)],
        };
        var isSame = after.Seats == old.Seats && after.People.Count == people.Count
            && after.Facts.OrderBy(f => f.Fact).SequenceEqual(old.Facts.OrderBy(f => f.Fact));
        return isSame ? new SettledSeats(buyer, old, [], [], []) : Changed(old, after, there.People, buyer, now);
    }

    private static SettledSeats Made(ToldOrder told, Member buyer, List<OrganisationFact> facts, Guid fresh, DateTimeOffset now)
    {
        var title = buyer.Name.Length > 0 ? buyer.Name : buyer.Email;
        title = title.Length > OrganisationCommands.LongestTitle ? title[..OrganisationCommands.LongestTitle] : title;
        var slug = Slug.Of(title);
        var key = $"{(slug.Length > 40 ? slug[..40].TrimEnd('-') : slug)}-{fresh.ToString("N")[^6..]}".TrimStart('-');
        var made = new Organisation(fresh, key, title, Of(told), now)
        { Facts = facts, People = [new OrganisationPerson(buyer.Id, true, now)] };
        var mine = new List<Change>();
        var after = OrganisationGrants.Fit(made, buyer, true, now, mine);
        return new SettledSeats(
            after, made, mine, [new OrganisationAdded(made), new PersonPut(made.Id, made.People[0])],
            [new Edit("organisation.add", made.Subject, [], null, Said(made))]);
    }

    private static SettledSeats Changed(Organisation old, Organisation after, IReadOnlyList<Member> people, Member buyer, DateTimeOffset now)
    {
        after = after with { Version = old.Version + 1 };
        var (mine, changes) = (new List<Change>(), new List<Change> { new OrganisationSet(after, old.Version), new OrganisationFactsSet(old.Id, after.Facts) });
        if (after.People.Count > old.People.Count)
        {
            changes.Add(new PersonPut(old.Id, after.People[^1]));
        }

        var with = OrganisationGrants.Fit(after, buyer, after.PersonOf(buyer.Id) is not null, now, mine);
        var notes = OrganisationGrants.Fit(after, people.Where(p => p.Id != buyer.Id), now, changes);
        return new SettledSeats(with, after, mine, changes, [new Edit("organisation.set", old.Subject, [], Said(old), Said(after)), .. notes]);
    }

    /// <summary>What the order gives its organisation: of each fact the time that runs, or that ran last.</summary>
    private static List<OrganisationFact> Facts(Policy policy, ToldOrder told)
    {
        var facts = new List<OrganisationFact>();
        var spans = Reckoning.Of(new SiteDates(policy.Settings.TimeZone), [told], [], f => OrderPromises.GraceOf(policy, [told], f), true);
        foreach (var of in spans.Where(g => g.Until is null || g.From < g.Until).GroupBy(g => new GivenFact(g.Kind, g.Key)))
        {
            var runs = of.OrderBy(g => g.From).Aggregate(new List<(DateTimeOffset? From, DateTimeOffset? Until)>(), (runs, g) =>
            {
                if (runs.Count > 0 && runs[^1].Until is { } end && g.From <= end)
                {
                    runs[^1] = (runs[^1].From, g.Until is null || g.Until > end ? g.Until : end);
                }
                else if (runs.Count == 0 || runs[^1].Until is not null)
                {
                    runs.Add((g.From, g.Until));
                }

                return runs;
            });
            facts.Add(new OrganisationFact(of.Key.Kind, of.Key.Key, runs[^1].From, runs[^1].Until));
        }

        return facts;
    }

    private static string Said(Organisation organisation) =>
        $"{organisation.Title}, {organisation.Seats} seats: {string.Join(", ", organisation.Facts.Select(f => f.Fact))}";
}
