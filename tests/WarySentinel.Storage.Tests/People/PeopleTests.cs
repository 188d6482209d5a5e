using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests.People;

public sealed class SqlitePeopleTests() : PeopleTests("sqlite");

public sealed class PostgresPeopleTests() : PeopleTests("postgres");

/// <summary>Members and what they hold, written by two machines at once.</summary>
public abstract class PeopleTests(string provider) : OnProvider(provider)
{
    private static readonly string[] Names = ["Nell Orchard", "Zoë Ångström", "Zoe\u0308 Decomposed", "100% Sure", "Under_Score", "Star* [Box]?",
        "O'Brien \"Q\"", "Ωmega Γ"];

    [Fact]
    public async Task A_role_removed_while_it_is_given_is_held_by_nobody_when_it_is_there_again()
    {
        var settings = new SiteSettings();
        for (var round = 0; round < 30; round++)
        {
            var (key, who) = ("r" + round, Someone($"given{round}@x.example", null, null));
            var with = Policy.Build([], [], [new(FactKind.Role, key, "Some role")], settings).Value;
            await PutAsync(new MemberAdded(who), new FactDefinitionPut(with.FindDefinition(FactKind.Role, key)!));
            async Task<bool> TryAsync<T>(Store on, Outcome<Edit<T>> command)
            {
                try
                {
                    return command.IsGood && await on.ApplyAsync(command.Value.ToStore, "x", stop: Stop) is not null;
                }
                catch (StoreMovedException)
                {
                    return false;
                }
            }

            var removing = Task.Run(async () => await TryAsync(store, FactCommands.Remove(
                with, FactKind.Role, key, await store.HoldersAsync(FactKind.Role, key, Stop))), Stop);
            var giving = Task.Run(async () => await TryAsync(Second, GrantCommands.Give(
                with, await Second.MemberAsync(who.Id, Stop), new GrantDraft("role:" + key), DateTimeOffset.UtcNow)), Stop);
            var (removed, given) = (await removing, await giving);
            if (!removed)
            {
                given.ShouldBeTrue("it was refused for who holds it");
                continue;
            }

            var without = Policy.Build([], [], [], settings).Value;
            (await TryAsync(Second, FactCommands.Add(without, FactKind.Role, new FactDraft(key, "Another"), null))).ShouldBeTrue();
            (await store.MemberAsync(who.Id, Stop))!.RolesAt(DateTimeOffset.UtcNow.AddSeconds(1)).ShouldBeEmpty();
        }
    }

    [Fact]
    public async Task Thousands_at_once_are_stored_as_one_by_one_whatever_they_are_called()
    {
        var random = new Random(5);
        string Odd(int n) => Names[n % Names.Length] + (n % 3) switch { 0 => " \U0001F54A", 1 => "", _ => new string('ß', random.Next(400)) };
        var now = DateTimeOffset.FromUnixTimeSeconds(1_700_000_000);
        var all = Enumerable.Range(0, 2_100).Select(n => Someone($"many{n}@x.example", null, null) with
        {
            Grants = n % 3 == 0 ? [Held("role", "guide") with { From = now.AddDays(n), Until = now.AddDays(n + 9) }, Held("group", "choir")] : [],
            Name = Odd(n),
            UserName = n % 2 == 0 ? null : "many" + n,
            PasswordHash = n % 5 == 0 ? new Secret("$hash$" + n) : null,
            Language = n % 4 == 0 ? "de" : null,
            IsUnsubscribed = n % 6 == 0,
            CreatedAt = now.AddTicks(n),
            Cause = n % 7 == 0 ? new StatusCause(now, "", n % 2 == 0 ? "" : "words \n 'of' \"all\" kinds") : null,
        }).ToList();
        await store.ApplyAsync(new Edit("many", "x", [.. all.Select(m => new MemberAdded(m))]), "x", stop: Stop);
        var there = await store.MembersByEmailAsync([.. all.Select(m => m.Email), "nobody@x.example"], Stop);
        there.Count.ShouldBe(all.Count);
        foreach (var member in all)
        {
            var (stored, single) = (there[member.Email], await store.MemberAsync(member.Id, Stop));
            foreach (var one in new[] { stored, single! })
            {
                (one with { Grants = [], Said = [], PasswordHash = null }).ShouldBe(member with { Grants = [], Said = [], PasswordHash = null });
                one.PasswordHash?.Reveal().ShouldBe(member.PasswordHash?.Reveal());
                one.Grants.Select(g => (g.Id, g.Fact, g.From, g.Until))
                    .ShouldBe(member.Grants.Select(g => (g.Id, g.Fact, g.From, g.Until)), ignoreOrder: true);
            }
        }

        (await store.MembersAsync(new MemberQuery(null, 5, "many2099@"), Stop)).Single().Name.ShouldBe(all[2099].Name);
        await Should.ThrowAsync<StoreRefusedException>(() => store.ApplyAsync(
            new Edit("many", "x", [.. all.Select(m => new MemberAdded(m with { Id = Guid.NewGuid(), Email = "o" + m.Email, Grants = [] }))]), "x", stop: Stop));
        (await store.MembersByEmailAsync(["omany0@x.example"], Stop)).ShouldBeEmpty("all or nobody: a user name was taken");

        // Whoever is stored by themselves after that is found as ever, and so is who is renamed among thousands.
        async Task<string> FoundAsync(string part) => (await store.MembersAsync(new MemberQuery(null, 5, part), Stop)).Single().Email;
        await store.ApplyAsync(new Edit("one", "x", [new MemberAdded(Someone("alone@x.example", null, null))]), "x", stop: Stop);
        (await FoundAsync("alone@")).ShouldBe("alone@x.example");
        var first = there["many0@x.example"];
        Change[] renamed = [new MemberSet(first with { Name = "Turned Overnight", Version = first.Version + 1 }, first.Version)];
        var others = all.Select(m => new MemberAdded(m with { Id = Guid.NewGuid(), Email = "o" + m.Email, Grants = [], UserName = null }));
        await store.ApplyAsync(new Edit("many", "x", [.. others, .. renamed]), "x", stop: Stop);
        (await FoundAsync("urned over")).ShouldBe(first.Email);
        (await FoundAsync("omany77@")).ShouldBe("omany77@x.example");
    }

    [Fact]
    public async Task Of_two_owners_who_leave_at_once_one_stays()
    {
        for (var round = 0; round < 5; round++)
        {
            var owners = new[] { Owner($"a{round}@x.example"), Owner($"b{round}@x.example") };
            foreach (var owner in owners)
            {
                await PutAsync(new MemberAdded(owner));
            }

            var left = await Task.WhenAll(owners.Select(async (o, n) =>
            {
                try
                {
                    var edit = AccountCommands.SetStatus(o, MemberStatus.Suspended, null, "by", DateTimeOffset.UtcNow).Value.ToStore;
                    await (n == 0 ? store : Second).ApplyAsync(edit, "x", stop: Stop);
                    return true;
                }
                catch (StoreRefusedException refused)
                {
                    refused.Problem.Code.ShouldBe("last-owner");
                    return false;
                }
            }));
            left.Count(l => l).ShouldBe(1);
            var stays = owners[Array.IndexOf(left, false)];
            // Out of the way of the next round, for which this one must not count.
            await PutAsync(new MemberSet(stays with { Status = MemberStatus.Closed, Version = 2 }, 1));
        }
    }

    [Fact]
    public async Task An_owner_until_some_day_is_none_to_stay_behind()
    {
        var (lasting, passing) = (Owner("a@x.example"), Owner("b@x.example"));
        await PutAsync(new MemberAdded(lasting));
        await PutAsync(new MemberAdded(passing with { Grants = [Held("role", "owner") with { Until = DateTimeOffset.UtcNow.AddDays(9) }] }));
        var leave = AccountCommands.SetStatus(lasting, MemberStatus.Closed, null, "by", DateTimeOffset.UtcNow).Value.ToStore;
        (await Should.ThrowAsync<StoreRefusedException>(() => store.ApplyAsync(leave, "x", stop: Stop))).Problem.Code.ShouldBe("last-owner");
        await PutAsync(new MemberAdded(Owner("c@x.example")));
        await store.ApplyAsync(leave, "x", stop: Stop);
    }

    [Fact]
    public async Task Twenty_first_owners_at_once_are_one()
    {
        var made = await Task.WhenAll(Enumerable.Range(0, 20).Select(async n =>
        {
            try
            {
                await (n % 2 == 0 ? store : Second).ApplyAsync(MemberCommands.AddFirstOwner(Owner($"o{n}@x.example")).ToStore, "x", stop: Stop);
                return true;
            }
            catch (StoreRefusedException)
            {
                return false;
            }
        }));
        made.Count(m => m).ShouldBe(1);
        (await store.MemberCountAsync(Stop)).ShouldBe(1);
    }

    [Fact]
    public async Task The_index_judges_who_was_first_and_says_by_which_name()
    {
        await PutAsync(new MemberAdded(Someone("a@x.example", "nell", null)));
        foreach (var (second, field) in new[] { (Someone("a@x.example", null, null), "email"), (Someone("b@x.example", "nell", null), "userName") })
        {
            var refused = await Should.ThrowAsync<StoreRefusedException>(() => PutAsync(new MemberAdded(second)));
            (refused.Problem.Code, refused.Problem.Faults[0].Field).ShouldBe(("member-exists", field));
        }
    }

    [Fact]
    public async Task The_same_source_twice_at_once_is_one_grant()
    {
        var member = Someone("a@x.example", null, null);
        await PutAsync(new MemberAdded(member));
        var grant = Held("plan", "patron", "order:4711");
        var stored = await Task.WhenAll(Enumerable.Range(0, 6).Select(async n =>
        {
            try
            {
                await (n % 2 == 0 ? store : Second).ApplyAsync(
                    new Edit("x", "x", [new MemberTouched(member.Id, 1), new GrantAdded(member.Id, grant with { Id = Guid.CreateVersion7() })]), "x",
                    stop: Stop);
                return true;
            }
            catch (StoreMovedException)
            {
                return false;
            }
        }));
        stored.Count(s => s).ShouldBe(1);
        var after = (await Second.MemberAsync(member.Id, Stop))!;
        (after.Version, after.Grants.ShouldHaveSingleItem().Source.ToString()).ShouldBe((2, "order:4711"));
        // Also without the version in the way, the index judges.
        await Should.ThrowAsync<StoreMovedException>(() => PutAsync(new GrantAdded(member.Id, grant with { Id = Guid.CreateVersion7() })));
    }

    [Fact]
    public async Task A_grant_keeps_its_name_its_source_and_its_dates()
    {
        var member = Someone("a@x.example", null, null);
        var (from, until) = (DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(1));
        var grant = Held("group", "schools", "import:spring") with { From = from, Until = until };
        await PutAsync(new MemberAdded(member with { Grants = [grant] }));
        (await Second.MemberAsync(member.Id, Stop))!.Grants.ShouldHaveSingleItem().ShouldBe(grant with { From = from, Until = until });
        await PutAsync(new GrantSet(member.Id, grant with { Until = from }));
        (await Second.MemberAsync(member.Id, Stop))!.Grants.ShouldHaveSingleItem().Until.ShouldBe(from);
        (await store.HoldersAsync(FactKind.Group, "schools", Stop)).ShouldBe(0, "it is over");
    }

    [Theory]
    [InlineData("orch", "Nell Orchard")]
    [InlineData("  NELL o", "Nell Orchard")]
    [InlineData("zoe", "Zoë Ångström,Zoe\u0308 Decomposed")]
    [InlineData("ANGSTROM", "Zoë Ångström")]
    [InlineData("100%", "100% Sure")]
    [InlineData("r_s", "Under_Score")]
    [InlineData("* [box]?", "Star* [Box]?")]
    [InlineData("brien \"q", "O'Brien \"Q\"")]
    [InlineData("ωmega γ", "Ωmega Γ")]
    [InlineData("m7@x", "Ωmega Γ")]
    [InlineData("%", "100% Sure")]
    [InlineData("q", "O'Brien \"Q\"")]
    [InlineData("nothing of the kind", "")]
    public async Task Members_are_found_by_any_part_of_name_or_address(string part, string found)
    {
        await NamedAsync();
        var names = (await store.MembersAsync(new MemberQuery(null, 50, part), Stop)).Select(m => m.Name);
        names.ShouldBe(found.Split(',', StringSplitOptions.RemoveEmptyEntries), ignoreOrder: true);
        // And by the index of trigrams alone, as where there are many more who do not match.
        await PutAsync([.. Enumerable.Range(0, 60).Select(n => new MemberAdded(Someone($"a{n:d3}@y.net", null, null) with { Name = "Xx" }))]);
        (await store.MembersAsync(new MemberQuery("a059@y.net", 50, part), Stop)).Select(m => m.Name).ShouldBe(names, ignoreOrder: true);
        (await store.MembersAsync(new MemberQuery("m3@x.example", 50, part), Stop)).ShouldAllBe(m => string.CompareOrdinal(m.Email, "m3@x.example") > 0);
    }

    [Fact]
    public async Task Who_is_renamed_is_found_by_the_new_name_only()
    {
        await NamedAsync();
        var nell = (await store.MemberByNameAsync("m0@x.example", Stop))!;
        await PutAsync(new MemberSet(nell with { Name = "Juniper Fern", Version = 2 }, 1));
        (await store.MembersAsync(new MemberQuery(null, 50, "junip"), Stop)).ShouldHaveSingleItem().Id.ShouldBe(nell.Id);
        (await store.MembersAsync(new MemberQuery(null, 50, "orchard"), Stop)).ShouldBeEmpty();
    }

    [Fact]
    public async Task Sets_of_members_are_counted_by_what_matters_and_nobody_twice()
    {
        var random = new Random(3);
        var everybody = new List<Member>();
        for (var n = 0; n < 60; n++)
        {
            var member = Someone($"m{n}@x.example", null, null) with { Status = n % 7 == 0 ? MemberStatus.Suspended : MemberStatus.Active };
            var grants = new[] { "role:dealer", "role:guide", "group:schools", "plan:patron", "group:other" }.Where(_ => random.Next(3) == 0)
                .SelectMany(f => Enumerable.Range(0, random.Next(1, 3)).Select(s => Held(f.Split(':')[0], f.Split(':')[1], $"order:{n}-{s}") with
                { Until = random.Next(6) == 0 ? DateTimeOffset.UtcNow.AddDays(-1) : null }));
            everybody.Add(member with { Grants = [.. grants] });
            await PutAsync(new MemberAdded(everybody[^1]));
        }

        (FactKind, string)[] facts = [(FactKind.Role, "dealer"), (FactKind.Group, "schools"), (FactKind.Plan, "patron"), (FactKind.Member, "m4@x.example")];
        string NameOf(Member m) => string.Join(' ', m.Grants.Where(g => g.IsInForce(DateTimeOffset.UtcNow) && facts.Contains((g.Kind, g.Key)))
            .Select(g => g.Fact)
            .Distinct().Order()) + (m.Email == "m4@x.example" ? m.Email : "");
        var expected = everybody.Where(m => m.Status == MemberStatus.Active).GroupBy(NameOf).ToDictionary(g => g.Key, g => g.Count());
        var sets = await store.FactSetsAsync(facts, Stop);
        sets.ToDictionary(s => string.Join(' ', s.Visitor.Grants.Select(g => g.Fact).Order()) + s.Visitor.Email, s => s.Members)
            .ShouldBe(expected, ignoreOrder: true);
        sets.ShouldAllBe(s => s.Names!.Count == Math.Min(20, s.Members));
        var holding = await store.MembersHoldingAsync(facts, null, 100, Stop);
        holding.Select(m => m.Email).ShouldBe(everybody.Where(m => m.Status == MemberStatus.Active && NameOf(m).Length > 0).Select(m => m.Email),
            ignoreOrder: true);
    }

    private async Task NamedAsync() =>
        await PutAsync([.. Names.Select((name, n) => new MemberAdded(Someone($"m{n}@x.example", null, null) with { Name = name }))]);

    private static Member Owner(string email) => Someone(email, null, "owner");
}
