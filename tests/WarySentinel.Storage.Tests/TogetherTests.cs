using Npgsql;
using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests;

public sealed class SqliteTogetherTests() : TogetherTests("sqlite");

public sealed class PostgresTogetherTests() : TogetherTests("postgres");

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

    private static Edit Given(string action, int n, Member to, int version) => new(action, $"e{n}",
        [new MemberTouched(to.Id, version), new GrantAdded(to.Id, Held("group", "k", $"order:e{n}"))]);
}
