using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests.People;

public sealed class SqliteOrganisationTests() : OrganisationTests("sqlite");

public sealed class PostgresOrganisationTests() : OrganisationTests("postgres");

/// <summary>What organisations give their people, and that no more belong to one than it has seats for.</summary>
public abstract class OrganisationTests(string provider) : OnProvider(provider)
{
    private static readonly int Rounds = Trials.Of(4, 200);
    private const int Steps = 30;
    private static readonly string[] Facts = ["role:dealer", "group:schools", "group:trade", "plan:patron"];
    private static readonly OrganisationActor Staff = new("owner@x.example", false);

    private static readonly Policy Policy = Policy.Build(
        [], [],
        [
            new(FactKind.Role, "dealer", "Dealers"), new(FactKind.Group, "schools", "Schools"), new(FactKind.Group, "trade", "Trade"),
            new(FactKind.Plan, "patron", "Patrons"),
        ],
        new SiteSettings()).Value;

    [Fact]
    public async Task People_hold_what_their_organisation_is_given_for_as_long_as_they_belong_to_it_and_it_lasts()
    {
        for (var round = 0; round < Rounds; round++)
        {
            await RoundAsync(new Random(round), $"school-{round}");
        }
    }

    /// <summary>Deeds at random on two machines in turn, against a plain book of who belongs to it and what it is given.</summary>
    private async Task RoundAsync(Random random, string key)
    {
        var now = DateTimeOffset.UtcNow;
        var people = Enumerable.Range(0, 5).Select(i => Someone($"{i}@{key}.example", null, null)).ToList();
        await PutAsync([.. people.Select(p => new MemberAdded(p))]);
        var book = new Book(3);
        await DoAsync(store, () => Task.FromResult(OrganisationCommands.Add(Policy, new OrganisationDraft(key, "School", 3), now)));
        for (var step = 0; step < Steps; step++)
        {
            now += TimeSpan.FromHours(random.Next(1, 30));
            var (on, who) = (random.Next(2) == 0 ? store : Second, people[random.Next(people.Count)]);
            var told = await DeedAsync(on, random, key, who, book, now);
            foreach (var person in people)
            {
                foreach (var at in new[] { now, now.AddHours(5), now.AddDays(3) })
                {
                    var held = (await on.MemberAsync(person.Id, Stop))!.Grants
                        .Where(g => g.Source == GrantSource.OfOrganisation(key) && g.IsInForce(at)).Select(g => g.Fact).Order();
                    held.ShouldBe(book.Held(person.Id, at).Order(), $"{key}, step {step}: {told}, {at - now} later");
                }
            }

            var found = (await on.OrganisationAsync(key, Stop))!;
            found.SeatsTaken.ShouldBeLessThanOrEqualTo(found.Seats);
            found.People.Select(p => p.Member).Order().ShouldBe(book.In.Order());
        }
    }

    private static async Task<string> DeedAsync(Store on, Random random, string key, Member who, Book book, DateTimeOffset now)
    {
        async Task<bool> Did<T>(Func<Organisation, Member, Outcome<Edit<T>>> command) => await DoAsync(
            on, async () => command((await on.OrganisationAsync(key, Stop))!, (await on.MemberAsync(who.Id, Stop))!)) is null;
        switch (random.Next(6))
        {
            case 0 or 1:
                if (await Did((one, member) => OrganisationPeople.Join(one, member, random.Next(2) == 0, now)))
                {
                    book.In.Add(who.Id);
                }

                return "join " + who.Email;
            case 2:
                if (await Did((one, member) => OrganisationPeople.Leave(one, member, Staff, now)))
                {
                    book.In.Remove(who.Id);
                }

                return "leave " + who.Email;
            case 3:
                return await DoAsync(on, async () => OrganisationCommands.End(await on.OrganisationAsync(key, Stop), await PeopleAsync(on, key), now)) is null
                    ? book.Ended(now) : "";
            default:
                var (facts, until) = (Drawn(random, now), random.Next(3) == 0 ? now.AddHours(random.Next(-20, 90)) : (DateTimeOffset?)null);
                var draft = new OrganisationDraft(
                    key, "School", random.Next(3, 6), Text(until),
                    [.. facts.Select(f => new GrantDraft(f.Fact, Text(f.From), Text(f.Until)))]);
                var refused = await DoAsync(
                    on, async () => OrganisationCommands.Set(Policy, await on.OrganisationAsync(key, Stop), draft, null, await PeopleAsync(on, key), now));
                if (refused is null)
                {
                    book.Set(facts, until);
                }

                return $"set {string.Join(", ", facts.Select(f => $"{f.Fact} {f.From - now} – {f.Until - now}"))} until {until - now}";
        }
    }

    [Fact]
    public async Task However_many_come_at_once_from_two_machines_no_seat_is_taken_twice()
    {
        var now = DateTimeOffset.UtcNow;
        var people = Enumerable.Range(0, 12).Select(i => Someone($"{i}@many.example", null, null)).ToList();
        await PutAsync([.. people.Select(p => new MemberAdded(p))]);
        await DoAsync(store, () => Task.FromResult(OrganisationCommands.Add(
            Policy, new OrganisationDraft("many", "Many", 5, null, [new GrantDraft("role:dealer")]), now)));
        var refused = await Task.WhenAll(people.Select((who, i) => Task.Run(
            () => i % 3 == 0
                ? DoAsync(store, async () => OrganisationPeople.Invite(
                    await store.OrganisationAsync("many", Stop), $"new{i}@many.example", false, [], new InvitationLink("digest" + i, 0), Staff, now))
                : DoAsync(i % 2 == 0 ? store : Second, async () => OrganisationPeople.Join(
                    await store.OrganisationAsync("many", Stop), await store.MemberAsync(who.Id, Stop), false, now)),
            Stop)));
        refused.Count(r => r is null).ShouldBe(5);
        refused.OfType<Problem>().ShouldAllBe(p => p.Code == "organisation-full");
        var found = (await store.OrganisationAsync("many", Stop))!;
        found.SeatsTaken.ShouldBe(5);
        (await store.HoldersAsync(FactKind.Role, "dealer", Stop)).ShouldBe(found.People.Count);
    }

    [Fact]
    public async Task A_link_lets_one_in_once_however_often_it_is_used_at_the_same_time()
    {
        var now = DateTimeOffset.UtcNow;
        await DoAsync(store, () => Task.FromResult(OrganisationCommands.Add(
            Policy, new OrganisationDraft("once", "Once", 5, null, [new GrantDraft("group:trade")]), now)));
        await DoAsync(store, async () => OrganisationPeople.Invite(
            await store.OrganisationAsync("once", Stop), "New@Once.example", true, [], new InvitationLink("the-digest", 0), Staff, now));
        var tries = await Task.WhenAll(Enumerable.Range(0, 8).Select(i => Task.Run(
            () => DoAsync(i % 2 == 0 ? store : Second, async () =>
            {
                var link = (await store.LinkAsync("the-digest", Stop))!;
                var fresh = Someone(link.Address, null, null) with { Name = "By " + i };
                return OrganisationPeople.Accept(
                    await store.OrganisationAsync(link.Subject, Stop), link, await store.MemberByNameAsync(link.Address, Stop), fresh, now.AddMinutes(1));
            }),
            Stop)));
        tries.Count(t => t is null).ShouldBe(1);
        tries.OfType<Problem>().ShouldAllBe(p => p.Code == "link-closed" || p.Code == "member-exists");
        var member = (await store.MemberByNameAsync("new@once.example", Stop))!;
        member.Grants.ShouldHaveSingleItem().Source.ToString().ShouldBe("organisation:once");
        var found = (await store.OrganisationAsync("once", Stop))!;
        (found.People.ShouldHaveSingleItem().Manages, found.Invitations.Count).ShouldBe((true, 0));
        (await store.LinkAsync("the-digest", Stop))!.ClosedBy.ShouldBe(LinkEnd.Used);
    }

    [Fact]
    public async Task A_newer_link_and_an_invitation_taken_back_close_the_older_and_erasing_forgets_them()
    {
        var now = DateTimeOffset.UtcNow;
        await DoAsync(store, () => Task.FromResult(OrganisationCommands.Add(Policy, new OrganisationDraft("links", "Links", 5), now)));
        foreach (var name in new[] { "one", "two" })
        {
            await DoAsync(store, async () => OrganisationPeople.Invite(
                await store.OrganisationAsync("links", Stop), name + "@links.example", false, [], new InvitationLink(name, 0), Staff, now));
        }

        var asked = (await store.OrganisationAsync("links", Stop))!.Invitations;
        (await DoAsync(store, async () => OrganisationPeople.Remind(
            await store.OrganisationAsync("links", Stop), asked[0].Id, new InvitationLink("soon", 0), now.AddSeconds(9))))!.Code.ShouldBe("organisation-soon");
        await DoAsync(store, async () => OrganisationPeople.Remind(
            await store.OrganisationAsync("links", Stop), asked[0].Id, new InvitationLink("newer", 0), now.AddHours(1)));
        await DoAsync(store, async () => OrganisationPeople.Withdraw(await store.OrganisationAsync("links", Stop), asked[1].Id));
        (await store.LinkAsync("one", Stop))!.ClosedBy.ShouldBe(LinkEnd.Replaced);
        (await store.LinkAsync("newer", Stop))!.IsOpen(now.AddHours(2)).ShouldBeTrue();
        (await store.LinkAsync("two", Stop))!.ClosedBy.ShouldBe(LinkEnd.Withdrawn);

        var gone = Someone("one@links.example", null, null);
        await PutAsync(new MemberAdded(gone));
        await DoAsync(store, async () => AccountCommands.Erase(Policy, await store.MemberAsync(gone.Id, Stop), now));
        (await store.LinkAsync("newer", Stop)).ShouldBeNull();
        (await store.OrganisationAsync("links", Stop))!.Invitations.ShouldBeEmpty();
        (await store.AuditAsync(null, 100, stop: Stop)).ShouldAllBe(a => !(a.Subject + a.Before + a.After).Contains("one@links", StringComparison.Ordinal));
    }

    [Fact]
    public async Task What_is_given_goes_along_when_a_fact_is_renamed_or_retired()
    {
        var now = DateTimeOffset.UtcNow;
        var nell = Someone("nell@moved.example", null, null);
        await PutAsync(new MemberAdded(nell));
        await DoAsync(store, () => Task.FromResult(OrganisationCommands.Add(
            Policy, new OrganisationDraft("moved", "Moved", 5, null,
                [new GrantDraft("role:dealer", null, Text(now.AddDays(9))), new GrantDraft("group:trade")]),
            now)));
        await DoAsync(store, async () => OrganisationPeople.Join(
            await store.OrganisationAsync("moved", Stop), await store.MemberAsync(nell.Id, Stop), false, now));
        await PutAsync(new GrantsMoved(FactKind.Role, "dealer", "branch"));
        await PutAsync(new GrantsMoved(FactKind.Group, "trade", null));
        (await store.OrganisationAsync("moved", Stop))!.Facts.ShouldHaveSingleItem().Fact.ShouldBe("role:branch");
        (await store.OrganisationsGivenAsync(FactKind.Role, "branch", 5, Stop)).ShouldBe(["moved"]);
        (await store.MemberAsync(nell.Id, Stop))!.Grants.Where(g => g.IsInForce(now.AddMinutes(1))).Select(g => g.Fact).ShouldBe(["role:branch"]);
        // What is changed later of it leaves them with just that.
        await DoAsync(store, async () => OrganisationCommands.Set(
            Policy, await store.OrganisationAsync("moved", Stop), new OrganisationDraft("moved", "Moved", 5), null, await PeopleAsync(store, "moved"), now));
        (await store.MemberAsync(nell.Id, Stop))!.Grants.ShouldAllBe(g => g.IsOver(DateTimeOffset.UtcNow.AddMinutes(1)));
    }

    [Fact]
    public async Task Two_of_one_key_are_one_and_a_list_comes_in_pages_by_any_part_of_a_title()
    {
        var now = DateTimeOffset.UtcNow;
        Outcome<Edit<Organisation>> Add(string key, string title) => OrganisationCommands.Add(Policy, new OrganisationDraft(key, title, 2), now);
        foreach (var i in Enumerable.Range(0, 7))
        {
            await DoAsync(i % 2 == 0 ? store : Second, () => Task.FromResult(Add("list-" + i, i < 4 ? "Écoles du nord" : "Mill")));
        }

        (await DoAsync(Second, () => Task.FromResult(Add("list-3", "Again"))))!.Code.ShouldBe("organisation-exists");
        var pages = new List<string>();
        for (var after = ""; ;)
        {
            var page = await store.OrganisationsAsync("ECOLES", after, 3, Stop);
            pages.AddRange(page.Select(l => l.Organisation.Key));
            if (page.Count < 3)
            {
                break;
            }

            after = page[^1].Organisation.Key;
        }

        pages.ShouldBe(["list-0", "list-1", "list-2", "list-3"]);
    }

    private static string? Text(DateTimeOffset? at) => at?.ToString("O");

    private static List<OrganisationFact> Drawn(Random random, DateTimeOffset now) =>
    [
        .. Facts.Where(_ => random.Next(2) == 0).Select(f => f.Split(':')).Select(f =>
        {
            _ = FactNames.TryParse(f[0], out var kind);
            var from = random.Next(3) == 0 ? now.AddHours(random.Next(-40, 40)) : (DateTimeOffset?)null;
            var until = random.Next(3) == 0 ? (from ?? now).AddHours(random.Next(1, 60)) : (DateTimeOffset?)null;
            return new OrganisationFact(kind, f[1], from, until);
        }),
    ];

    private static async Task<IEnumerable<Member>> PeopleAsync(Store on, string key) =>
        (await on.MembersAsync([.. (await on.OrganisationAsync(key, Stop))!.People.Select(p => p.Member)], Stop)).Values;

    /// <summary>As the lane of people does it: again where somebody else was faster.</summary>
    private static async Task<Problem?> DoAsync<T>(Store on, Func<Task<Outcome<Edit<T>>>> command)
    {
        while (true)
        {
            var outcome = await command();
            if (outcome.Problem is not null || outcome.Value.ToStore.Changes.Count == 0)
            {
                return outcome.Problem;
            }

            try
            {
                await on.ApplyAsync(outcome.Value.ToStore, "test", stop: Stop);
                return null;
            }
            catch (StoreRefusedException refused)
            {
                return refused.Problem;
            }
            catch (StoreMovedException)
            {
                // Once more.
            }
        }
    }

    /// <summary>Who belongs, and what is given, as plainly as it can be said.</summary>
    private sealed class Book(int seats)
    {
        private List<OrganisationFact> given = [];
        private DateTimeOffset? end;

        public HashSet<Guid> In { get; } = new(seats);

        public void Set(List<OrganisationFact> facts, DateTimeOffset? until) => (given, end) = (facts, until);

        public string Ended(DateTimeOffset at)
        {
            end = end is { } before && before < at ? before : at;
            return "end";
        }

        public IEnumerable<string> Held(Guid who, DateTimeOffset at) => !In.Contains(who) || end <= at ? []
            : given.Where(f => !(f.From > at) && !(f.Until <= at)).Select(f => f.Fact);
    }
}
