using Microsoft.Data.Sqlite;
using Shouldly;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Gates;
using Xunit;

namespace WarySentinel.Storage.Tests;

public sealed class SqliteEarlyItemsTests() : EarlyItemsTests("sqlite");

public sealed class PostgresEarlyItemsTests() : EarlyItemsTests("postgres");

/// <summary>Items read before everything else count only where nothing has changed since.</summary>
public abstract class EarlyItemsTests(string provider) : OnProvider(provider)
{
    [Fact]
    public async Task Where_nothing_has_changed_they_are_what_is_stored()
    {
        await PutAsync(new ItemsPut([Page("a"), new Item(Id("page:b"), "B “✓”", [Id("page:a")], [Address.Parse("/b"), Address.Parse("/b/**")], 7)]));
        var early = (await EarlyItems.ReadAsync(Provider, Connection)).ShouldNotBeNull();
        var read = await store.LoadPolicyAsync(early, Stop);
        var plain = await store.LoadPolicyAsync(Stop);
        read.Items.Count.ShouldBe(2);
        read.Items.Zip(plain.Items).ShouldAllBe(pair => pair.First.SaysTheSameAs(pair.Second) && pair.First.Version == pair.Second.Version);
    }

    [Fact]
    public async Task A_change_made_in_the_very_moment_between_is_never_missed()
    {
        await PutAsync(new ItemsPut([Page("a"), Page("gone")]));
        var last = "Page a";
        for (var round = 0; round < Trials.Of(2, 40); round++)
        {
            // A writer on another machine goes on all the while; whatever was read early, what is loaded is of one moment.
            using var stopped = CancellationTokenSource.CreateLinkedTokenSource(Stop);
            var writing = Task.Run(
                async () =>
                {
                    for (var n = 1; !stopped.IsCancellationRequested; n++)
                    {
                        await Second.ApplyAsync(new Core.Edit("test", "test", [
                            new ItemsPut([new Item(Id("page:a"), $"{round}-{n}", [], [])]),
                            new GatePut(new Gate { Key = "g", Title = $"{round}-{n}", Covers = [Selector.Parse("page:a")], Audience = Audience.Anyone })]),
                            "test");
                        last = $"{round}-{n}";
                    }
                },
                Stop);
            var early = await EarlyItems.ReadAsync(Provider, Connection);
            var read = await store.LoadPolicyAsync(early, Stop);
            await stopped.CancelAsync();
            await writing;
            var item = read.Items.Single(i => i.Id == Id("page:a"));
            read.Gates.ShouldAllBe(g => g.Title == item.Title);
            // Once all is quiet, what was read early before the last change is not taken.
            (await store.LoadPolicyAsync(early, Stop)).Items.Single(i => i.Id == Id("page:a")).Title.ShouldBe(last);
        }

        var before = await EarlyItems.ReadAsync(Provider, Connection);
        await PutAsync(new ItemsDropped([Id("page:gone")]));
        (await store.LoadPolicyAsync(before, Stop)).Items.ShouldNotContain(i => i.Id == Id("page:gone"));
    }

    [Fact]
    public async Task Where_there_is_nothing_to_read_nothing_is_made()
    {
        if (Provider == "sqlite")
        {
            var file = Path.Combine(Path.GetTempPath(), Guid.NewGuid().ToString("N") + ".db");
            (await EarlyItems.ReadAsync("sqlite", new SqliteConnectionStringBuilder { DataSource = file }.ToString())).ShouldBeNull();
            File.Exists(file).ShouldBeFalse();
            return;
        }

        (await EarlyItems.ReadAsync("postgres", Connection.Replace("Database=", "Database=no_such_", StringComparison.Ordinal))).ShouldBeNull();
    }
}
