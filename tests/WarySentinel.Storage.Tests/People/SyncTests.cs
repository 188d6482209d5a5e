using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests.People;

public sealed class SqliteSyncTests() : SyncTests("sqlite");

public sealed class PostgresSyncTests() : SyncTests("postgres");

/// <summary>Other programs keep what members hold in step with what they have.</summary>
public abstract class SyncTests(string provider) : OnProvider(provider)
{
    private const int Rounds = 150;
    private static readonly string[] Groups = ["schools", "trade", "press"];
    private static readonly string[] Plans = ["patron", "night"];

    private static readonly Policy Policy = Policy.Build(
        [], [],
        [
            new(FactKind.Group, "schools", "Schools"), new(FactKind.Group, "trade", "Trade"), new(FactKind.Group, "press", "Press"),
            new(FactKind.Plan, "patron", "Patrons"), new(FactKind.Plan, "night", "Night"),
        ],
        new SiteSettings()).Value;

    [Fact]
    public async Task Members_hold_what_each_program_says_last_and_what_was_given_otherwise()
    {
        var random = new Random(7);
        var hand = Someone("0@x.example", null, null) with { Grants = [new Grant(FactKind.Group, "press")] };
        await PutAsync(new MemberAdded(hand));
        // By program and name: who is meant, and what it gives.
        var book = new Dictionary<(string Program, string Key), (string Email, HashSet<string> Groups, HashSet<string> Plans)>();
        for (var round = 0; round < Rounds; round++)
        {
            var (program, key) = (random.Next(2) == 0 ? "letters" : "crm", "k" + random.Next(6));
            var email = random.Next(4) + "@x.example";
            var (gone, groups, plans) = (random.Next(6) == 0, Drawn(random, Groups), Drawn(random, Plans));
            var row = new SyncRow(key, email, "Some One", null, groups, plans, gone);
            foreach (var again in new[] { false, true })
            {
                var step = await StepAsync(again ? Second : store, program, row);
                (again && step.Value.Effect != ImportEffect.Same).ShouldBeFalse("said again, it changes nothing");
            }

            if (gone)
            {
                book.Remove((program, key));
            }
            else
            {
                var known = book.TryGetValue((program, key), out var before) ? before : (email, [], []);
                book[(program, key)] = (known.Item1, groups?.ToHashSet() ?? known.Item2, plans?.ToHashSet() ?? known.Item3);
            }

            foreach (var address in Enumerable.Range(0, 4).Select(i => i + "@x.example"))
            {
                var mine = book.Values.Where(b => b.Email == address).ToList();
                var expected = mine.SelectMany(b => b.Groups.Select(g => "group:" + g).Concat(b.Plans.Select(p => "plan:" + p)))
                    .Concat(address == hand.Email ? ["group:press"] : []).Distinct().Order();
                var held = (await store.MemberByNameAsync(address, Stop))?.Grants.Where(g => !g.IsOver(DateTimeOffset.UtcNow)).Select(g => g.Fact).Distinct();
                (held ?? []).Order().ShouldBe(expected, $"{address} in round {round}");
            }
        }

        var listed = await store.OutsideKeysAsync("crm", "", 100, Stop);
        listed.Select(l => l.Key.Key).ShouldBe(book.Keys.Where(b => b.Program == "crm").Select(b => b.Key).Order(StringComparer.Ordinal));
    }

    [Fact]
    public async Task The_same_person_told_of_at_once_on_two_machines_is_one()
    {
        for (var round = 0; round < 8; round++)
        {
            var row = new SyncRow("k" + round, $"{round}@once.example", "Once", null, ["schools", "trade"]);
            await Task.WhenAll(Enumerable.Range(0, 6).Select(i => Task.Run(() => StepAsync(i % 2 == 0 ? store : Second, "crm", row), Stop)));
            var member = (await store.MemberByNameAsync(row.Email!, Stop))!;
            member.Grants.Select(g => g.Fact).Order().ShouldBe(["group:schools", "group:trade"]);
            (await store.OutsideKeysAsync(member.Id, 10, Stop)).ShouldHaveSingleItem().Key.ShouldBe(row.Key);
        }
    }

    private static string[]? Drawn(Random random, string[] of) => random.Next(4) == 0 ? null : [.. of.Where(_ => random.Next(2) == 0)];

    /// <summary>As the service does it: again where somebody else was faster, also at adding the very same person.</summary>
    private static async Task<Outcome<SyncStep>> StepAsync(Store on, string program, SyncRow row)
    {
        while (true)
        {
            var known = await on.OutsideKeyAsync(program, row.Key!, Stop);
            var there = known is null ? await on.MemberByNameAsync(row.Email!, Stop) : await on.MemberAsync(known.Member, Stop);
            var step = new MemberSync(Policy, program, true, DateTimeOffset.UtcNow).Step(row, known, there).Value;
            if (step.ToStore.Changes.Count == 0)
            {
                return step.Value;
            }

            try
            {
                await on.ApplyAsync(step.ToStore, "test", stop: Stop);
                return step.Value;
            }
            catch (Exception fault) when (fault is StoreMovedException or StoreRefusedException { Problem.Code: "member-exists" })
            {
                // Once more.
            }
        }
    }
}
