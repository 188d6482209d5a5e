using Npgsql;
using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests;

public sealed class SqliteTogetherTests() : TogetherTests("sqlite");

public sealed class PostgresTogetherTests() : TogetherTests("postgres")
{
    [Fact]
    public async Task Who_is_held_by_somebody_else_keeps_nobody_waiting_who_is_not()
    {
        var there = Enumerable.Range(0, 200).Select(n => Someone($"m{n}@x.example", null, null)).ToList();
        await PutAsync([.. there.Select(m => new MemberAdded(m))]);
        await using var other = new NpgsqlConnection(Connection);
        await other.OpenAsync(Stop);
        await using var holding = await other.BeginTransactionAsync(Stop);
        var held = there.Where((_, n) => n % 20 == 3).ToList();
        foreach (var member in held)
        {
            await using var command = new NpgsqlCommand($"""UPDATE members SET "Name" = 'Held' WHERE "Id" = '{member.Id}'""", other, holding);
            (await command.ExecuteNonQueryAsync(Stop)).ShouldBe(1);
        }

        var given = there.Select((m, n) => (Member: m, Done: store.ApplyAsync(Given("given", n, m, 1), "by", stop: Stop))).ToList();
        await Task.WhenAll(given.Where(g => !held.Contains(g.Member)).Select(g => g.Done)).WaitAsync(TimeSpan.FromMinutes(2), Stop);
        given.Where(g => held.Contains(g.Member)).ShouldAllBe(g => !g.Done.IsCompleted);
        await holding.CommitAsync(Stop);
        await Task.WhenAll(given.Select(g => g.Done)).WaitAsync(TimeSpan.FromMinutes(2), Stop);
        foreach (var (member, n) in there.Select((m, n) => (m, n)))
        {
            (await store.MemberAsync(member.Id, Stop))!.Grants.ShouldHaveSingleItem().Source.ToString().ShouldBe($"order:e{n}");
        }
    }
}

/// <summary>Edits of many people that come at once share transactions; each is stored, or fails, for itself.</summary>
public abstract class TogetherTests(string provider) : OnProvider(provider)
{
    [Fact]
    public async Task Of_many_at_once_each_is_stored_once_with_its_entry_or_fails_for_itself()
    {
        var random = new Random(5);
        var there = Enumerable.Range(0, 40).Select(n => Someone($"m{n}@x.example", null, null)).ToList();
        await PutAsync([.. there.Select(m => new MemberAdded(m))]);
        // Some are of a version that is over, some of an address that is taken, some of the same member at once; the rest is sound.
        var edits = Enumerable.Range(0, 400).Select(n => (random.Next(8) switch
        {
            0 => new Edit("stale", $"e{n}", [new MemberTouched(there[random.Next(40)].Id, 77)]),
            1 => new Edit("taken", $"e{n}", [new MemberAdded(Someone("m3@x.example", null, null))]),
            2 or 3 => Given("again", n, there[random.Next(40)], 1),
            _ => new Edit("sound", $"e{n}", [new MemberAdded(Someone($"n{n}@x.example", null, null))]),
        })).ToList();
        var came = await Task.WhenAll(edits.Select(async (e, n) =>
        {
            try
            {
                var stored = await (n % 2 == 0 ? store : Second).ApplyAsync(e, "by", stop: Stop);
                stored.Revision.ShouldBeNull();
                return "stored";
            }
            catch (Exception fault) when (fault is StoreMovedException or StoreRefusedException)
            {
                return fault.GetType().Name;
            }
        }));
        for (var n = 0; n < edits.Count; n++)
        {
            came[n].ShouldBe(edits[n].Action switch
            {
                "stale" => nameof(StoreMovedException),
                "taken" => nameof(StoreRefusedException),
                "sound" => "stored",
                _ => came[n],
            });
        }

        // Of those who gave to the same member one was first, and nothing is in the trail that was not stored.
        var again = edits.Where((e, n) => e.Action == "again" && came[n] == "stored").ToList();
        again.GroupBy(e => ((MemberTouched)e.Changes[0]).Member).ShouldAllBe(g => g.Count() == 1);
        var trail = (await store.AuditAsync(null, 1000, stop: Stop)).Where(a => a.By == "by").Select(a => a.Subject).Order(StringComparer.Ordinal);
        trail.ShouldBe(edits.Where((_, n) => came[n] == "stored").Select(e => e.Subject).Order(StringComparer.Ordinal));
        foreach (var edit in again)
        {
            var member = (await store.MemberAsync(((MemberTouched)edit.Changes[0]).Member, Stop))!;
            (member.Version, member.Grants.ShouldHaveSingleItem().Source.ToString()).ShouldBe((2, "order:" + edit.Subject));
        }
    }

    [Fact]
    public void A_connection_string_of_postgresql_keeps_what_it_says()
    {
        var plain = new NpgsqlConnectionStringBuilder(Store.Prepared("Host=h;Database=d"));
        (plain.MaxAutoPrepare, plain.AutoPrepareMinUsages, plain.NoResetOnClose).ShouldBe((100, 2, true));
        var said = new NpgsqlConnectionStringBuilder(Store.Prepared("Host=h;MaxAutoPrepare=0;Auto Prepare Min Usages=9;No Reset On Close=false"));
        (said.MaxAutoPrepare, said.AutoPrepareMinUsages, said.NoResetOnClose).ShouldBe((0, 9, false));
    }

    [Fact]
    public async Task Two_large_edits_of_the_same_people_in_turned_order_are_stored_one_after_the_other()
    {
        var members = Enumerable.Range(0, 300).Select(n => Someone($"both{n}@x.example", null, null)).ToList();
        await PutAsync([.. members.Select(m => new MemberAdded(m))]);
        var version = members[0].Version;
        for (var round = 0; round < 4; round++)
        {
            var was = version;
            async Task<bool> TryAsync(Store on, IEnumerable<Member> order, string from)
            {
                try
                {
                    var edit = new Edit("many", from, [.. order.SelectMany(m => new Change[] { new MemberTouched(m.Id, was),
                        new GrantAdded(m.Id, Held("group", "k", $"order:{from}")) })]);
                    await on.ApplyAsync(edit, "x", stop: Stop);
                    return true;
                }
                catch (StoreMovedException)
                {
                    return false;
                }
            }

            var one = Task.Run(() => TryAsync(store, members, $"a{round}"), Stop);
            var other = Task.Run(() => TryAsync(round % 2 == 0 ? store : Second, members.AsEnumerable().Reverse(), $"b{round}"), Stop);
            bool[] stored = [await one, await other];
            stored.Count(s => s).ShouldBe(1, "the other finds that the members moved");
            version++;
            foreach (var member in members)
            {
                var there = (await store.MemberAsync(member.Id, Stop))!;
                (there.Version, there.Grants.Count).ShouldBe((version, round + 1), "whole or not at all");
            }
        }
    }

    private protected static Edit Given(string action, int n, Member to, int version) => new(action, $"e{n}",
        [new MemberTouched(to.Id, version), new GrantAdded(to.Id, Held("group", "k", $"order:e{n}"))]);
}
