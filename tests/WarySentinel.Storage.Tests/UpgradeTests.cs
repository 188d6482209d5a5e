using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;
using Npgsql;
using Shouldly;
using WarySentinel.Core.People;
using Xunit;

namespace WarySentinel.Storage.Tests;

/// <summary>A database with data of each earlier form of the tables is brought up to date and reads as it did.</summary>
public sealed class UpgradeTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public static TheoryData<string, string> Earlier() => new MatrixTheoryData<string, string>(["sqlite", "postgres"], ["Start", "Restrict", "ViewLinks"])
        .Aggregate(new TheoryData<string, string>(), (all, row) =>
        {
            all.Add(row);
            return all;
        });

    [Theory]
    [MemberData(nameof(Earlier))]
    public async Task Data_of_every_earlier_form_is_kept(string provider, string form)
    {
        var name = "wary_" + Guid.NewGuid().ToString("N");
        var file = Path.Combine(Path.GetTempPath(), name + ".db");
        var server = Environment.GetEnvironmentVariable("WARY_TEST_POSTGRES") ?? throw new InvalidOperationException("WARY_TEST_POSTGRES names no PostgreSQL.");
        var connection = provider == "sqlite" ? "Data Source=" + file : $"{server};Database={name};Pooling=false";
        await AdminAsync(provider, server, $"CREATE DATABASE {name}");
        try
        {
            await EarlierAsync(provider, connection, form);
            using var store = Store.Open(provider, connection, TimeProvider.System);
            var told = new List<string>();
            await store.MigrateAsync(told.Add, Stop);
            told.ShouldHaveSingleItem().ShouldContain("TwoLanes");
            await ReadsAsItDidAsync(store);
            // And a second start has nothing to do.
            await store.MigrateAsync(told.Add, Stop);
            told.Count.ShouldBe(1);
        }
        finally
        {
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            File.Delete(file);
            await AdminAsync(provider, server, $"DROP DATABASE {name} WITH (FORCE)");
        }
    }

    [Theory]
    [InlineData("sqlite")]
    [InlineData("postgres")]
    public void The_migrations_make_what_the_model_says(string provider)
    {
        using var db = On(provider, provider == "sqlite" ? "Data Source=none.db" : "Host=127.0.0.1");
        db.Database.HasPendingModelChanges().ShouldBeFalse();
    }

    private static async Task ReadsAsItDidAsync(Store store)
    {
        var member = (await store.MemberByNameAsync("zoe@x.example", Stop)).ShouldNotBeNull();
        (member.Name, member.Status, member.Version).ShouldBe(("Zoë Ångström", MemberStatus.Active, 3));
        member.Grants.Select(g => (g.Fact, g.Source.Kind)).ShouldBe([("role:dealer", "hand"), ("role:dealer", "hand"), ("group:schools", "hand")],
            ignoreOrder: true);
        member.Grants.ShouldAllBe(g => g.Id != Guid.Empty);
        member.Grants.Select(g => g.Source.Reference).Distinct().Count().ShouldBe(2, "what was given twice keeps a name of its own");
        (await store.MembersAsync(new MemberQuery(null, 5, "angst"), Stop)).ShouldHaveSingleItem().Id.ShouldBe(member.Id);
        (await store.MembersAsync(new MemberQuery(null, 5, "nell or"), Stop)).ShouldHaveSingleItem().Email.ShouldBe("nell@x.example");
        (await store.IsRoleHeldAsync("dealer", Stop)).ShouldBeTrue();
        var policy = await store.LoadPolicyAsync(Stop);
        policy.Items.ShouldHaveSingleItem().Id.ToString().ShouldBe("page:a");
        policy.Definitions.ShouldHaveSingleItem().Title.ShouldBe("Dealers");
        policy.Revision.ShouldBe(41);
        policy.Faults.ShouldBeEmpty();
        (await store.AuditAsync(null, 5, stop: Stop)).ShouldHaveSingleItem().By.ShouldBe("owner");
        // What is there can be changed on.
        var edit = GrantCommands.End(member, member.Grants[0].Id, DateTimeOffset.UtcNow).Value.ToStore;
        await store.ApplyAsync(edit, "x", stop: Stop);
        (await store.MemberAsync(member.Id, Stop))!.Version.ShouldBe(4);
    }

    private static async Task EarlierAsync(string provider, string connection, string form)
    {
        await using var db = On(provider, connection);
        await db.Database.GetService<IMigrator>().MigrateAsync(form, Stop);
        var (isLite, id, other) = (provider == "sqlite", "01A20ADC-6DDA-7FE4-8FEE-5C9353FD482B", "01A20ADC-6DDA-7FE4-8FEE-5C9353FD482C");
        var none = isLite ? "'[]'" : "'{}'";
        string Grant(int n, int kind, string key) => $"""
            INSERT INTO grants ("Id", "MemberId", "Kind", "Key", "Source")
            VALUES ('0000000{n}-0000-7000-8000-000000000000', '{id}', {kind}, '{key}', 'by hand');
            """;
        await RunAsync(db, $$"""
            INSERT INTO items ("Id", "Title", "Parents", "Addresses", "Version") VALUES ('page:a', 'A', {{none}}, {{none}}, 1);
            INSERT INTO standings ("Kind", "Key", "Title", "Version") VALUES (0, 'dealer', 'Dealers', 1);
            INSERT INTO members ("Id", "Email", "Name", "Status", "CreatedAt", "Version") VALUES ('{{id}}', 'zoe@x.example', 'Zoë Ångström', 3, 1, 3);
            INSERT INTO members ("Id", "Email", "Name", "UserName", "Status", "CreatedAt", "Version")
            VALUES ('{{other}}', 'nell@x.example', 'Nell Orchard', 'nell', 3, 1, 1);
            {{Grant(1, 0, "dealer")}} {{Grant(2, 0, "dealer")}} {{Grant(3, 1, "schools")}}
            INSERT INTO marks ("Name", "Number") VALUES ('revision', 41);
            INSERT INTO audit ("At", "By", "Action", "Subject") VALUES (1, 'owner', 'member.add', 'zoe@x.example');
            """);
    }

    private static StoreContext On(string provider, string connection) => provider == "sqlite"
        ? new SqliteContext(new DbContextOptionsBuilder<SqliteContext>().UseSqlite(connection).Options)
        : new PostgresContext(new DbContextOptionsBuilder<PostgresContext>().UseNpgsql(connection).Options);

    private static async Task RunAsync(StoreContext db, string sql)
    {
        await db.Database.OpenConnectionAsync(Stop);
        await using var command = db.Database.GetDbConnection().CreateCommand();
        command.CommandText = sql;
        await command.ExecuteNonQueryAsync(Stop);
    }

    private static async Task AdminAsync(string provider, string server, string sql)
    {
        if (provider == "sqlite")
        {
            return;
        }

        await using var connection = new NpgsqlConnection(server + ";Database=postgres;Pooling=false");
        await connection.OpenAsync(Stop);
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync(Stop);
    }
}
