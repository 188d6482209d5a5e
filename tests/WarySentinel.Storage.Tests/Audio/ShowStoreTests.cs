using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Audio;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests.Audio;

public sealed class ShowStoreOnSqlite() : ShowStoreTests("sqlite");

public sealed class ShowStoreOnPostgres() : ShowStoreTests("postgres");

/// <summary>Shows and who has feeds of them, as they are stored.</summary>
public abstract class ShowStoreTests(string provider) : OnProvider(provider)
{
    private static readonly DateTimeOffset Start = new(2026, 5, 3, 12, 0, 0, TimeSpan.Zero);

    private static Show Made(string key) => new()
    {
        Key = key, By = "Who “makes” it", Notes = "Two\nlines", Language = "en", Picture = "cover.png", Version = 2,
        Episodes = [new EpisodeFile(new ItemId(ItemKind.Episode, key + "-1"), "one.mp3", Start, "Notes", new TimeSpan(1, 2, 3))],
    };

    [Fact]
    public async Task They_are_read_as_they_were_stored_and_a_row_that_cannot_be_read_stops_nothing()
    {
        await store.ApplyAsync(new Edit("test", "shows", [new ShowPut(Made("one")), new ShowPut(Made("two"))]), "test", stop: Stop);
        var read = (await Second.LoadPolicyAsync(Stop)).Parts.Of<ShowBook>();
        read.All.Select(s => s with { Episodes = [] }).ShouldBe([Made("one") with { Episodes = [] }, Made("two") with { Episodes = [] }]);
        read.Find("one")!.Episodes.ShouldBe(Made("one").Episodes);

        await SqlAsync("UPDATE shows SET \"Body\" = '{\"episodes\":[{\"item\":\"episode:x\",\"file\":\"../../etc/passwd.mp3\"}]}' WHERE \"Key\" = 'one'");
        var bent = await Second.LoadPolicyAsync(Stop);
        bent.Faults.ShouldHaveSingleItem().Kind.ShouldBe("show");
        bent.Parts.Of<ShowBook>().All.ShouldHaveSingleItem().Key.ShouldBe("two");
        (await store.DropUnreadableAsync("show", "one", "owner", Stop)).Dropped.ShouldBeTrue();
    }

    [Fact]
    public async Task A_member_has_one_feed_of_a_show_whoever_asks_at_once_and_it_goes_with_them()
    {
        var (one, two) = (Someone("one@x.example", null, null), Someone("two@x.example", null, null));
        await store.ApplyAsync(new Edit("test", "members", [new MemberAdded(one), new MemberAdded(two)]), "test", stop: Stop);
        Subscriber Of(Member member) => new(Guid.CreateVersion7(), member.Id, "hours", 1, Start);
        var tries = await Task.WhenAll(Enumerable.Range(0, 6).Select(async n =>
        {
            try
            {
                await (n % 2 == 0 ? store : Second).ApplyAsync(new Edit("feed.open", one.Email, [new SubscriberAdded(Of(one))]), "test", stop: Stop);
                return true;
            }
            catch (StoreMovedException)
            {
                return false;
            }
        }));
        tries.Count(won => won).ShouldBe(1);
        await store.ApplyAsync(new Edit("feed.open", two.Email, [new SubscriberAdded(Of(two) with { Since = Start.AddDays(1) })]), "test", stop: Stop);
        var all = await Second.SubscribersAsync("hours", null, 10, Stop);
        all.Select(s => s.Email).ShouldBe((IEnumerable<string>)[two.Email, one.Email], "the newest first");
        (await Second.SubscribersAsync("hours", (all[0].Subscriber.Since, all[0].Subscriber.Id), 10, Stop)).ShouldHaveSingleItem().Email.ShouldBe(one.Email);

        var there = (await Second.SubscriberAsync(one.Id, "hours", Stop))!;
        await store.FeedReadAsync(there, "Player/1", Start.AddHours(3), Stop);
        (await Second.SubscriberAsync(there.Id, Stop))!.ShouldSatisfyAllConditions(
            s => s.ReadAt.ShouldBe(Start.AddHours(3)), s => s.ReadBy.ShouldBe("Player/1"), s => s.Since.ShouldBe(Start));
        var renewed = SubscriberCommands.Renew(there, one.Email, Start.AddDays(2));
        await store.ApplyAsync(renewed.ToStore, "test", stop: Stop);
        await Should.ThrowAsync<StoreMovedException>(() => Second.ApplyAsync(renewed.ToStore, "test", stop: Stop));
        await store.FeedReadAsync(there, "Player/1", Start.AddHours(4), Stop);
        (await Second.SubscriberAsync(one.Id, "hours", Stop))!.ShouldSatisfyAllConditions(
            s => s.Number.ShouldBe(2), s => s.ReadAt.ShouldBeNull("not by this one"));

        await store.ApplyAsync(new Edit("member.erase", one.Email, [new MemberErased(one.Id, one.Email, "erased-1")]), "test", stop: Stop);
        (await Second.SubscriberCountsAsync(Stop)).ShouldBe(new Dictionary<string, int> { ["hours"] = 1 });
    }
}
