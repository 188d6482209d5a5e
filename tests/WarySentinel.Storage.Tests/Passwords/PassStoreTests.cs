using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Passwords;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests.Passwords;

public sealed class PassStoreOnSqlite() : PassStoreTests("sqlite");

public sealed class PassStoreOnPostgres() : PassStoreTests("postgres");

/// <summary>Passes as they are kept and counted, by two machines.</summary>
public abstract class PassStoreTests(string provider) : OnProvider(provider)
{
    private static readonly DateTimeOffset Start = new(2026, 1, 31, 9, 0, 0, TimeSpan.Zero);

    private static Pass Made(string name, string kind = "frames", int day = 0) => new()
    {
        Id = Guid.CreateVersion7(), Kind = kind, Name = name, Holder = "Brookfield Schoöl", Email = name + "@x.example", Digest = "d-" + name,
        CreatedAt = Start.AddDays(day),
    };

    [Fact]
    public async Task What_is_kept_is_read_back_whole()
    {
        var pass = Made("one") with
        {
            OldDigest = "old",
            OldUntil = Start.AddDays(3),
            From = Start,
            Until = Start.AddTicks(10),
            WithdrawnAt = Start.AddTicks(20),
            MostUses = 5,
            Uses = 2,
            MostNetworks = 3,
            LastUsedAt = Start,
            Order = "pay:1",
        };
        await PutAsync(new PassPut(pass, 0));
        (await Second.PassAsync(pass.Id, Stop)).ShouldBe(pass);
        (await Second.PassByNameAsync("one", Stop)).ShouldBe(pass);
        (await Second.PassesOfOrderAsync("pay:1", Stop)).ShouldBe([pass]);
        (await Second.PassByNameAsync("two", Stop)).ShouldBeNull();
    }

    [Fact]
    public async Task A_name_is_given_once_and_an_older_version_changes_nothing()
    {
        var pass = Made("one");
        await PutAsync(new PassPut(pass, 0));
        await Should.ThrowAsync<StoreMovedException>(() => PutAsync(new PassPut(Made("one"), 0)));
        await PutAsync(new PassPut(pass with { Holder = "Next", Version = 2 }, 1));
        await Should.ThrowAsync<StoreMovedException>(() => PutAsync(new PassPut(pass with { Holder = "Lost", Version = 2 }, 1)));
        (await store.PassAsync(pass.Id, Stop))!.Holder.ShouldBe("Next");
    }

    [Fact]
    public async Task Uses_at_one_moment_on_two_machines_are_never_more_than_there_are()
    {
        var pass = Made("one") with { MostUses = 7, MostNetworks = 5 };
        await PutAsync(new PassPut(pass, 0));
        var may = await Task.WhenAll(Enumerable.Range(0, 24).Select(n =>
            Task.Run(() => (n % 2 == 0 ? store : Second).UsePassAsync(pass.Id, "net" + (n % 12), Stop))));
        var kept = (await store.PassAsync(pass.Id, Stop))!;
        kept.Uses.ShouldBe(5, "five networks, each of them once");
        may.Count(m => m).ShouldBe(10, "what comes again from a network is the same use");
        (await store.PassNetworksAsync([pass.Id], Stop))[pass.Id].ShouldBe(5);
        kept.Version.ShouldBe(1);
    }

    [Fact]
    public async Task What_is_over_withdrawn_or_not_begun_is_not_used()
    {
        var now = DateTimeOffset.UtcNow;
        Pass[] all = [Made("a") with { Until = now.AddSeconds(-1) }, Made("b") with { WithdrawnAt = now }, Made("c") with { From = now.AddHours(1) },
            Made("d")];
        await PutAsync([.. all.Select(p => new PassPut(p, 0))]);
        foreach (var pass in all)
        {
            (await store.UsePassAsync(pass.Id, "net", Stop)).ShouldBe(pass.Name == "d");
        }

        (await store.UsePassAsync(Guid.NewGuid(), "net", Stop)).ShouldBeFalse();
        foreach (var (standing, name) in new[] { ("over", "a"), ("withdrawn", "b"), ("later", "c"), ("in-force", "d") })
        {
            (await store.PassesAsync(new PassQuery(Standing: standing), 9, Stop)).Select(p => p.Name).ShouldBe([name]);
        }

        (await store.PassesByKindAsync(Stop))["frames"].ShouldBe(2);
    }

    [Fact]
    public async Task They_are_found_by_any_part_of_a_name_and_listed_page_by_page()
    {
        await PutAsync([.. Enumerable.Range(0, 25).Select(n => new PassPut(Made($"p{n:00}", n % 2 == 0 ? "frames" : "maps", n / 3), 0))]);
        (await store.PassesAsync(new PassQuery(Words: "SCHOOL field"), 99, Stop)).Count.ShouldBe(25);
        (await store.PassesAsync(new PassQuery(Words: "p07@x"), 99, Stop)).ShouldHaveSingleItem();
        (await store.PassCountAsync(new PassQuery("maps"), Stop)).ShouldBe(12);
        var (seen, after) = (new List<Pass>(), ((DateTimeOffset, Guid)?)null);
        for (IReadOnlyList<Pass> page; (page = await store.PassesAsync(new PassQuery(After: after), 4, Stop))
            .Count > 0; after = (seen[^1].CreatedAt, seen[^1].Id))
        {
            seen.AddRange(page);
        }

        seen.Select(p => p.Name).Distinct().Count().ShouldBe(25);
        seen.Select(p => p.CreatedAt).ShouldBe(seen.Select(p => p.CreatedAt).OrderDescending());
    }

    [Fact]
    public async Task A_kind_by_another_name_takes_its_passes_along_one_that_is_gone_ends_them_and_whoever_is_erased_is_forgotten()
    {
        var (kept, lost) = (Made("kept"), Made("lost", "maps"));
        await PutAsync(new PassPut(kept, 0), new PassPut(lost, 0));
        await PutAsync(new GrantsMoved(FactKind.Pass, "frames", "dark-frames"), new GrantsMoved(FactKind.Pass, "maps", null));
        (await store.PassAsync(kept.Id, Stop))!.Kind.ShouldBe("dark-frames");
        (await store.PassAsync(lost.Id, Stop))!.WithdrawnAt.ShouldNotBeNull();
        await PutAsync(new MemberAdded(new Member(Guid.CreateVersion7(), "kept@x.example", "K", null, null, MemberStatus.Active, [], Start)));
        var member = (await store.MemberByNameAsync("kept@x.example", Stop))!;
        await PutAsync(new MemberErased(member.Id, member.Email, "erased-1"));
        var after = (await store.PassAsync(kept.Id, Stop))!;
        (after.Email, after.Holder, after.WithdrawnAt is null).ShouldBe((null, "erased-1", false));
        (await store.PassesAsync(new PassQuery(Words: "kept@x"), 9, Stop)).ShouldBeEmpty();
    }
}
