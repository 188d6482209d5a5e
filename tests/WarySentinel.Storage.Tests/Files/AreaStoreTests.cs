using Shouldly;
using WarySentinel.Core;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Files;
using Xunit;

namespace WarySentinel.Storage.Tests.Files;

public sealed class AreaStoreOnSqlite() : AreaStoreTests("sqlite");

public sealed class AreaStoreOnPostgres() : AreaStoreTests("postgres");

/// <summary>Folders to download from, as they are stored.</summary>
public abstract class AreaStoreTests(string provider) : OnProvider(provider)
{
    private static readonly DateTimeOffset Start = new(2026, 5, 3, 12, 0, 0, TimeSpan.Zero);

    private static Area Made(string key) => new()
    {
        Key = key, Title = "The " + key, Item = ItemId.TryParse("download:" + key, out var id) ? id : default, Folder = "a/" + key, Opens = AreaOpens.Address,
        Every = new PlanLength(1, 0), Overlap = TimeSpan.FromHours(12), Run = Guid.NewGuid(), Since = Start, First = 7, Version = 3,
    };

    [Fact]
    public async Task They_are_read_as_they_were_stored_and_a_row_that_cannot_be_read_stops_nothing()
    {
        var (one, two) = (Made("one"), Made("two"));
        await store.ApplyAsync(new Edit("test", "areas", [new AreaPut(one), new AreaPut(two)]), "test", stop: Stop);
        (await Second.LoadPolicyAsync(Stop)).Parts.Of<AreaBook>().All.ShouldBe([one, two]);
        await store.ApplyAsync(new Edit("test", "areas", [new AreaPut(one with { Every = null, Overlap = TimeSpan.Zero, Version = 4 })]), "test", stop: Stop);
        (await Second.LoadPolicyAsync(Stop)).Parts.Of<AreaBook>().Find("one")!.Every.ShouldBeNull();

        await SqlAsync("UPDATE areas SET \"Body\" = '{\"folder\":\"../../etc\",\"item\":\"download:one\"}' WHERE \"Key\" = 'one'");
        var bent = await Second.LoadPolicyAsync(Stop);
        bent.Faults.ShouldHaveSingleItem().Kind.ShouldBe("area");
        bent.Parts.Of<AreaBook>().All.ShouldBe([two]);
        (await store.DropUnreadableAsync("area", "one", "owner", Stop)).Dropped.ShouldBeTrue();
        await store.ApplyAsync(new Edit("test", "areas", [new AreaDropped("two")]), "test", stop: Stop);
        (await Second.LoadPolicyAsync(Stop)).ShouldSatisfyAllConditions(p => p.Faults.ShouldBeEmpty(), p => p.Parts.Of<AreaBook>().All.ShouldBeEmpty());
    }
}
