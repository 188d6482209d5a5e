using System.Globalization;
using Microsoft.Data.Sqlite;
using Npgsql;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Facts;
using WarySentinel.Core.Gates;
using WarySentinel.Storage;

namespace WarySentinel.Bench;

/// <summary>Fills a store with a large made-up site: 100,000 items, 2,000 gates, 10,000 groups, a million members with three grants each.</summary>
internal static class LargeSite
{
    private const int Items = 100_000;
    private const int Gates = 2_000;
    private const int Groups = 10_000;
    private static readonly string[] First = ["Ada", "Bo", "Cleo", "Dov", "Esme", "Finn", "Greta", "Hal", "Iris", "Juno", "Kit", "Lou", "Mara", "Nell", "Odo",
        "Pia"];
    private static readonly string[] Parts = ["an", "bel", "cor", "den", "fern", "gil", "hol", "lan", "mer", "nor", "ost", "pim", "quil", "ros", "sol", "tarn"];

    public static async Task SeedAsync(string provider, string connection, int members)
    {
        using var store = Store.Open(provider, connection, TimeProvider.System);
        await store.MigrateAsync(Console.Error.WriteLine);
        var (items, gates, groups) = Policy();
        await store.ApplyAsync(new Edit("bench", "site", [new ItemsPut(items), .. groups.Select(g => new FactDefinitionPut(g)),
            .. gates.Select(g => new GatePut(g))]), "bench");
        Console.Error.WriteLine("policy stored");
        if (provider == "postgres")
        {
            await PostgresAsync(connection, members);
        }
        else
        {
            Sqlite(connection, members);
        }
    }

    /// <summary>What a start does, step by step, in a process that has done nothing before.</summary>
    public static async Task StartAsync(string provider, string connection)
    {
        var began = System.Diagnostics.Stopwatch.StartNew();
        void Say(string what)
        {
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{what}: {began.ElapsedMilliseconds} ms"));
            began.Restart();
        }

        using var store = Store.Open(provider, connection, TimeProvider.System);
        await store.MigrateAsync();
        Say("tables looked at");
        for (var run = 0; run < 2; run++)
        {
            var stored = await store.LoadPolicyAsync();
            Say("policy read");
            var (policy, _) = Salvage.Build(stored.Items, stored.Gates, stored.Definitions, stored.Settings, stored.Parts, stored.Faults);
            Say("policy built");
            policy.Pin(DateTimeOffset.UtcNow);
            Say("policy compiled");
        }
    }

    /// <summary>The catalogue and its gates; <c>category:branch</c> has 5,000 items beneath it.</summary>
    private static (List<Item> Items, List<Gate> Gates, List<FactDefinition> Groups) Policy()
    {
        var random = new Random(1);
        var branch = new ItemId(ItemKind.Category, "branch");
        var items = new List<Item> { new(branch, "Branch", [], []) };
        var branches = Items / 50;
        for (var n = 0; n < branches; n++)
        {
            items.Add(new Item(new ItemId(ItemKind.Category, "c" + n), "Category " + n, n < 20 ? []
                : [new ItemId(ItemKind.Category, "c" + random.Next(n / 2))], []));
        }

        while (items.Count < Items)
        {
            var n = items.Count;
            items.Add(new Item(new ItemId(ItemKind.Product, "p" + n), "Product " + n,
                [n % 20 == 0 ? branch : new ItemId(ItemKind.Category, "c" + random.Next(branches))],
                [Address.Parse("/p/" + n.ToString(CultureInfo.InvariantCulture))]));
        }

        var gates = Enumerable.Range(0, Gates).Select(n => new Gate
        {
            Key = "g" + n, Title = "Gate " + n, Covers = [new Selector(items[21 + random.Next(items.Count - 21)].Id, null)],
            Audience = AudienceParser.Parse($"group:k{random.Next(Groups)} or group:k{random.Next(Groups)} or role:dealer").Value,
            Presence = n % 2 == 0 ? Presence.Hidden : Presence.Listed,
        }).ToList();
        var standings = Enumerable.Range(0, Groups).Select(n => new FactDefinition(FactKind.Group, "k" + n, "Group " + n))
            .Append(new FactDefinition(FactKind.Role, "dealer", "Dealers")).ToList();
        return (items, gates, standings);
    }

    private static (Guid Id, string Name, string Email) Member(int n, Random random)
    {
        var name = First[random.Next(First.Length)];
        var family = string.Concat(Parts[random.Next(16)], Parts[random.Next(16)], Parts[random.Next(16)]);
        var id = new Guid(n, 7, 0x7000, 0x80, 0, 0, 0, 0, 0, 0, 0);
        return (id, $"{name} {char.ToUpperInvariant(family[0])}{family[1..]}", $"{name.ToLowerInvariant()}.{family}.{n}@house{n % 97}.example");
    }

    private static async Task PostgresAsync(string connection, int members)
    {
        await using var db = new NpgsqlConnection(connection + ";Command Timeout=0");
        await db.OpenAsync();
        async Task RunAsync(string sql)
        {
            await using var command = new NpgsqlCommand(sql, db);
            await command.ExecuteNonQueryAsync();
        }

        await RunAsync("""DROP INDEX IF EXISTS "IX_members_Search"; DROP INDEX "IX_grants_Holders"; DROP INDEX "IX_grants_Until";""");
        var (random, now) = (new Random(2), DateTimeOffset.UtcNow.UtcTicks);
        await using (var rows = await db.BeginBinaryImportAsync(
            """COPY members ("Id", "Email", "Name", "Status", "CreatedAt", "Version", "Search") FROM STDIN (FORMAT BINARY)"""))
        {
            for (var n = 0; n < members; n++)
            {
                var (id, name, email) = Member(n, random);
                await rows.StartRowAsync();
                await rows.WriteAsync(id);
                await rows.WriteAsync(email);
                await rows.WriteAsync(name);
                await rows.WriteAsync(3);
                await rows.WriteAsync(now);
                await rows.WriteAsync(1);
                await rows.WriteAsync($"{name.ToLowerInvariant()}\n{email}\n");
            }

            await rows.CompleteAsync();
        }

        await using (var rows = await db.BeginBinaryImportAsync(
            """COPY grants ("Id", "MemberId", "Kind", "Key", "From", "Source", "Reference") FROM STDIN (FORMAT BINARY)"""))
        {
            for (var n = 0; n < members * 3; n++)
            {
                await rows.StartRowAsync();
                await rows.WriteAsync(new Guid(n, 8, 0x7000, 0x80, 0, 0, 0, 0, 0, 0, 0));
                await rows.WriteAsync(new Guid(n / 3, 7, 0x7000, 0x80, 0, 0, 0, 0, 0, 0, 0));
                await rows.WriteAsync((int)FactKind.Group);
                await rows.WriteAsync("k" + random.Next(Groups));
                await rows.WriteAsync(now);
                await rows.WriteAsync("import");
                await rows.WriteAsync("list-" + (n % 3));
            }

            await rows.CompleteAsync();
        }

        await RunAsync("""
            CREATE INDEX "IX_members_Search" ON members USING gin ("Search" gin_trgm_ops);
            CREATE INDEX "IX_grants_Holders" ON grants ("Kind", "Key", "MemberId", "From", "Until");
            CREATE INDEX "IX_grants_Until" ON grants ("Until"); ANALYZE;
            """);
    }

    private static void Sqlite(string connection, int members)
    {
        using var db = new SqliteConnection(connection);
        db.Open();
        void Run(string sql)
        {
            using var command = db.CreateCommand();
            command.CommandText = sql;
            command.CommandTimeout = 0;
            command.ExecuteNonQuery();
        }

        // For filling only; the service sets its own.
        Run("PRAGMA synchronous = OFF; PRAGMA cache_size = -400000; DROP INDEX \"IX_grants_Holders\"; DROP INDEX \"IX_grants_Until\"; DROP TRIGGER "
            + "members_added;");
        var (random, now) = (new Random(2), DateTimeOffset.UtcNow.UtcTicks);
        using (var one = db.BeginTransaction())
        {
            using var member = db.CreateCommand();
            member.CommandText = """
                INSERT INTO members ("Id", "Email", "Name", "Status", "CreatedAt", "Version", "Search") VALUES ($id, $email, $name, 3, $now, 1, $search)
                """;
            using var grant = db.CreateCommand();
            grant.CommandText = """
                INSERT INTO grants ("Id", "MemberId", "Kind", "Key", "From", "Source", "Reference") VALUES ($id, $member, 1, $key, $now, 'import', $reference)
                """;
            for (var n = 0; n < members; n++)
            {
                var (id, name, email) = Member(n, random);
                Set(member, ("$id", Text(id)), ("$email", email), ("$name", name), ("$now", now), ("$search", $"{name.ToLowerInvariant()}\n{email}\n"));
                member.ExecuteNonQuery();
                for (var g = 0; g < 3; g++)
                {
                    Set(grant, ("$id", Text(new Guid((n * 3) + g, 8, 0x7000, 0x80, 0, 0, 0, 0, 0, 0, 0))), ("$member", Text(id)),
                        ("$key", "k" + random.Next(Groups)), ("$now", now), ("$reference", "list-" + g));
                    grant.ExecuteNonQuery();
                }
            }

            one.Commit();
        }

        Run("""
            INSERT INTO member_texts("MemberId", "Text", "Email") SELECT "Id", "Search", "Email" FROM members;
            CREATE INDEX "IX_grants_Holders" ON grants ("Kind", "Key", "MemberId", "From", "Until"); CREATE INDEX "IX_grants_Until" ON grants ("Until");
            CREATE TRIGGER members_added AFTER INSERT ON members BEGIN
              INSERT INTO member_texts("MemberId", "Text", "Email") VALUES (new."Id", new."Search", new."Email");
            END;
            ANALYZE;
            """);
    }

    private static void Set(SqliteCommand command, params (string Name, object Value)[] values)
    {
        foreach (var (name, value) in values)
        {
            if (command.Parameters.Contains(name))
            {
                command.Parameters[name].Value = value;
            }
            else
            {
                command.Parameters.AddWithValue(name, value);
            }
        }
    }

    private static string Text(Guid id) => id.ToString().ToUpperInvariant();
}
