using Npgsql;
using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests.Nodes;

public sealed class SqliteNodesTests() : NodesTests("sqlite");

public sealed class PostgresNodesTests() : NodesTests("postgres")
{
    [Fact]
    public async Task What_is_committed_late_under_an_earlier_number_is_not_missed()
    {
        var feed = Second.NewFeed();
        await using var slow = new NpgsqlConnection(Connection + ";Pooling=false");
        await slow.OpenAsync(Stop);
        await using var late = await slow.BeginTransactionAsync(Stop);
        await WriteAsync(slow, late, "late");
        // Begun while that is on its way: it must be heard of all the same.
        await feed.BeginAsync(Stop);
        await using var undone = new NpgsqlConnection(Connection + ";Pooling=false");
        await undone.OpenAsync(Stop);
        await using (var never = await undone.BeginTransactionAsync(Stop))
        {
            await WriteAsync(undone, never, "never");
        }

        var member = Someone("a@x.example", null, null);
        await PutAsync(new MemberAdded(member));
        await PutAsync(new MemberSet(member with { Version = 2 }, 1));
        (await feed.ReadAsync(Stop)).News.ShouldHaveSingleItem().Name.ShouldBe(member.Id.ToString("N"));
        (await feed.ReadAsync(Stop)).News.ShouldBeEmpty();
        await late.CommitAsync(Stop);
        (await feed.ReadAsync(Stop)).News.ShouldHaveSingleItem().Name.ShouldBe("late");
        (await feed.ReadAsync(Stop)).News.ShouldBeEmpty();
    }

    [Fact]
    public async Task The_bell_is_heard_on_the_other_machine_and_not_by_who_rang_it()
    {
        using var end = CancellationTokenSource.CreateLinkedTokenSource(Stop);
        var (ready, heard) = (new TaskCompletionSource(), new TaskCompletionSource());
        var own = 0;
        var listening = Task.WhenAll(Second.HearAsync("second", ready.SetResult, heard.SetResult, end.Token),
            store.HearAsync("first", () => { }, () => own++, end.Token));
        await ready.Task.WaitAsync(TimeSpan.FromMinutes(2), Stop);
        await store.RingAsync("first", Stop);
        await heard.Task.WaitAsync(TimeSpan.FromMinutes(2), Stop);
        own.ShouldBe(0);
        await end.CancelAsync();
        await Should.ThrowAsync<OperationCanceledException>(() => listening);
    }

    private static async Task WriteAsync(NpgsqlConnection connection, NpgsqlTransaction transaction, string name)
    {
        await using var command = new NpgsqlCommand($"""INSERT INTO feed ("Kind", "Name", "At") VALUES (2, '{name}', 1)""", connection, transaction);
        await command.ExecuteNonQueryAsync(Stop);
    }
}

/// <summary>What machines on one store know of each other.</summary>
public abstract class NodesTests(string provider) : OnProvider(provider)
{
    [Fact]
    public async Task Each_machine_reads_on_from_where_it_was_and_hears_of_everything_once()
    {
        var before = Someone("before@x.example", null, null);
        await PutAsync(new MemberAdded(before));
        await PutAsync(new MemberSet(before with { Version = 2 }, 1));
        var feed = Second.NewFeed();
        await feed.BeginAsync(Stop);
        (await feed.ReadAsync(Stop)).News.ShouldBeEmpty();
        var expected = new List<string>();
        for (var n = 0; n < 30; n++)
        {
            var member = Someone($"m{n}@x.example", null, null);
            await PutAsync(new MemberAdded(member));
            await PutAsync(new MemberTouched(member.Id, 1), new GrantAdded(member.Id, Held("role", "dealer")));
            expected.Add(member.Id.ToString("N"));
            if (n % 10 == 9)
            {
                var page = await feed.ReadAsync(Stop);
                page.News.Select(x => x.Name).ShouldBe(expected);
                page.Lost.ShouldBeFalse();
                expected.Clear();
            }
        }

        (await feed.ReadAsync(Stop)).News.ShouldBeEmpty();
    }

    [Fact]
    public async Task What_is_undone_is_told_to_nobody()
    {
        var feed = Second.NewFeed();
        await feed.BeginAsync(Stop);
        var member = Someone("a@x.example", null, null);
        await PutAsync(new MemberAdded(member));
        await Should.ThrowAsync<StoreMovedException>(() => PutAsync(new MemberSet(member with { Version = 9 }, 8)));
        (await feed.ReadAsync(Stop)).News.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_policy_takes_a_revision_and_people_do_not()
    {
        var first = await PutAsync(new ItemsPut([Page("a")]));
        var member = Someone("a@x.example", null, null);
        (await store.ApplyAsync(new Edit("x", "x", [new MemberAdded(member)]), "x", stop: Stop)).Revision.ShouldBeNull();
        await store.BeginSessionAsync(
            new StoredSession(Guid.NewGuid(), SessionPurpose.Site, member.Id, null, DateTimeOffset.UtcNow, DateTimeOffset.UtcNow,
            DateTimeOffset.UtcNow.AddDays(1), null, null, []), null, Stop);
        (await Second.RevisionAsync(Stop)).ShouldBe(first);
        // An edit against that revision is still good: nothing of it has moved.
        (await Second.ApplyAsync(new Edit("x", "x", [new ItemsPut([Page("b")])]), "x", first, stop: Stop)).Revision.ShouldBe(first + 1);
    }

    [Fact]
    public async Task A_lease_is_held_by_one_until_it_ends_or_its_time_is_over()
    {
        var now = DateTimeOffset.UtcNow;
        var takers = await Task.WhenAll(Enumerable.Range(0, 8).Select(n => (n % 2 == 0 ? store : Second)
            .LeaseAsync("sweep", "m" + n, now.AddMinutes(5), Stop)));
        takers.Count(t => t).ShouldBe(1);
        var holder = "m" + Array.IndexOf(takers, true);
        (await Second.LeaseAsync("sweep", "other", now.AddMinutes(5), Stop)).ShouldBeFalse();
        (await store.LeaseAsync("sweep", holder, now.AddMinutes(-1), Stop)).ShouldBeTrue("who holds it may keep it");
        (await Second.LeaseAsync("sweep", "other", now.AddMinutes(5), Stop)).ShouldBeTrue("its time was over");
        await Second.EndLeaseAsync("sweep", holder, Stop);
        (await store.LeaseAsync("sweep", holder, now.AddMinutes(5), Stop)).ShouldBeFalse("nobody ends what another holds");
        await Second.EndLeaseAsync("sweep", "other", Stop);
        (await store.LeaseAsync("sweep", holder, now.AddMinutes(5), Stop)).ShouldBeTrue();
    }

    [Fact]
    public async Task Wrong_tries_on_several_machines_are_one_count()
    {
        var since = DateTimeOffset.UtcNow.AddMinutes(-15);
        var counts = await Task.WhenAll(Enumerable.Range(0, 20).Select(n => (n % 2 == 0 ? store : Second).CountTryAsync("nell", since, Stop)));
        counts.Select(c => c.Wrong).Order().ShouldBe(Enumerable.Range(1, 20));
        (await Second.TriesAsync(["nell", "nobody"], Stop)).ShouldHaveSingleItem().Value.Wrong.ShouldBe(20);
        (await store.CountTryAsync("nell", DateTimeOffset.UtcNow.AddMinutes(1), Stop)).Wrong.ShouldBe(1, "it was quiet for long enough");
        (await store.ForgetTriesAsync(DateTimeOffset.UtcNow.AddMinutes(1), Stop)).ShouldBe(1);
    }

    [Fact]
    public void Every_change_there_is_has_a_room_that_stores_it()
    {
        var kinds = typeof(Change).Assembly.GetTypes().Where(t => t.IsSealed && t.IsSubclassOf(typeof(Change))).ToList();
        var writers = typeof(Store).Assembly.GetType("WarySentinel.Storage.Writers")!;
        var known = (IEnumerable<Type>)writers.GetProperty("Known")!.GetValue(writers.GetField("All")!.GetValue(null))!;
        kinds.Count.ShouldBeGreaterThan(15);
        known.ShouldBe(kinds, ignoreOrder: true);
        kinds.ShouldAllBe(k => k.IsSubclassOf(typeof(Change.OfPolicy)) != k.IsSubclassOf(typeof(Change.OfPeople)));
    }
}
