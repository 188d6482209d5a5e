using System.Diagnostics;
using System.Net;
using System.Net.Http.Json;
using Microsoft.Data.Sqlite;
using Npgsql;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Gates;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests;

/// <summary>It always starts: whatever is stored, wherever it was killed, however full the disk.</summary>
public sealed class StartTests
{
    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public static TheoryData<string, string, string> Rows => new()
    {
        // What is done to the database, what is closed for it, and the fault that is told.
        { "UPDATE gates SET Audience='role:dealer or or' WHERE Key='dealer-stock'", "/shop/dealer-stock", "gate dealer-stock" },
        { "UPDATE gates SET Audience='' WHERE Key='dealer-stock'", "/shop/dealer-stock", "gate dealer-stock" },
        { "UPDATE gates SET Covers='[\"categry:x\",\"category:dealer-stock\"]' WHERE Key='dealer-stock'", "/shop/books", "gate dealer-stock" },
        { "UPDATE gates SET Covers='not json' WHERE Key='dealer-stock'", "/shop/books", "gate dealer-stock" },
        { "UPDATE gates SET Acts=4096, Answer=99, Presence=7, UnlockSeconds=-5 WHERE Key='dealer-stock'", "/shop/dealer-stock", "gate dealer-stock" },
        { "UPDATE gates SET More='{{' WHERE Key='clearance-vault'", "/shop/clearance-vault", "gate clearance-vault" },
        { "UPDATE gates SET [From]=9223372036854775807 WHERE Key='dealer-stock'", "/shop/books", "gate dealer-stock" },
        { "UPDATE items SET Addresses='[\"/shop/dealer-stock\",\"/members/x**y\"]' WHERE Id='category:dealer-stock'", "/members/x",
        "item category:dealer-stock" },
        { "UPDATE items SET Addresses='[' WHERE Id='category:dealer-stock'", "/shop/books", "item category:dealer-stock" },
        { "UPDATE items SET Parents='[\"category:none\"]' WHERE Id='category:books'", "/shop/books", "item category:books" },
        { "UPDATE items SET Parents='[\"category:dealer-spares\"]' WHERE Id='category:dealer-stock'", "/shop/dealer-stock", "item category:dealer-stock" },
        { "UPDATE items SET Id='Category Books' WHERE Id='category:books'", "/shop/books", "item Category Books" },
        { "UPDATE items SET Title=x'ff00' WHERE Id='category:books'", "", "" },
        { "INSERT INTO marks (Name, Number, Text) VALUES ('settings', 0, 'garbage') ON CONFLICT (Name) DO UPDATE SET Text='garbage'", "/shop/books",
        "settings settings" },
        { "INSERT INTO marks (Name, Number, Text) VALUES ('settings', 0, '{\"SiteName\":\"F\",\"Paths\":{\"IndexNames\":null},\"Look\":null}') ON CONFLICT "
            + "(Name) DO UPDATE SET Text=excluded.Text", "/shop/books", "settings Paths" },
        { "INSERT INTO redirects (Key, [On], Audience, [To], Position, Version) VALUES ('r', 9, 'signed-in', '/x', 1, 1)", "", "redirect r" },
        { "INSERT INTO entries (Key, Body, Version) VALUES ('e', '{\"at\":[\"/lookbook\"],\"entry\":\"a + b\"}', 1)", "/lookbook", "entry e" },
        { "INSERT INTO entries (Key, Body, Version) VALUES ('e', '{\"at\":[\"/lookbook\"],\"sort\":\"data\",\"entry\":7}', 1)", "/lookbook", "entry e" },
        { "INSERT INTO standings (Kind, Key, Title, Version) VALUES (77, 'odd', 'Odd', 1)", "", "standing 77:odd" },
        { "UPDATE shared_passwords SET Asked='and and'", "", "password" },
        { "INSERT INTO protection_keys (Name, Xml) VALUES ('k', '<key')", "", "" },
        { "UPDATE members SET Status=42, PasswordHash='$argon2id$v=19$m=x,t=2,p=1$a$b' WHERE Email LIKE 'nell%'", "", "" },
        { "INSERT INTO grants (Id, MemberId, Kind, Key, Source) SELECT '01A20A64-0AA0-722B-A089-000000000001', Id, 99, 'x', 'y' FROM members LIMIT 1", "", "" },
        { "UPDATE audit SET Detail='{' , Before=NULL, After=NULL", "", "" },
        { "UPDATE gates SET Audience='not not role:dealer' WHERE Key='dealer-stock'", "", "" },
    };

    [Theory]
    [MemberData(nameof(Rows))]
    public async Task No_stored_row_keeps_it_from_starting_and_what_it_covered_is_closed(string change, string closed, string fault)
    {
        await using var site = await RunningSite.StartAsync();
        (await site.NewBrowser().StatusAsync("/shop/books")).ShouldBe(HttpStatusCode.OK);
        await using (var database = new SqliteConnection($"Data Source={site.Data}/sentinel.db"))
        {
            await database.OpenAsync(Stop);
            await using var command = new SqliteCommand("PRAGMA foreign_keys=off; " + change, database);
            (await command.ExecuteNonQueryAsync(Stop)).ShouldBeGreaterThan(0);
        }

        await site.RestartAsync();
        using var guest = site.NewBrowser();
        foreach (var page in new[] { "/", "/shop", "/account/sign-in", "/account/unlock", "/shop/dealer-stock" })
        {
            ((int)await guest.StatusAsync(page)).ShouldBeLessThan(500, page);
        }

        if (closed.Length > 0)
        {
            (await guest.StatusAsync(closed)).ShouldNotBe(HttpStatusCode.OK);
        }

        (await guest.StatusAsync("/shop/dealer-stock")).ShouldNotBe(HttpStatusCode.OK);
        var told = (await site.Client.StatusAsync(Stop)).Faults;
        told.Count.ShouldBe(fault.Length == 0 ? 0 : told.Count);
        if (fault.Length > 0)
        {
            told.ShouldContain(f => $"{f.Kind} {f.Key}".StartsWith(fault, StringComparison.Ordinal) && f.Reason.Length > 10
                && f.Mend.Length > 10, string.Join('\n', told));
        }

        // Every list of the API can still be read, and the mend that is offered works.
        using var api = new Caller(site);
        foreach (var list in new[] { "gates", "items?limit=1000", "members", "roles", "history?limit=200", "redirects", "passwords", "settings", "board",
            "seen", "site.yaml", "sessions", "viewpoints" })
        {
            using var http = new HttpClient { DefaultRequestHeaders = { { "Authorization", "Bearer " + site.Token } } };
            (await http.GetAsync($"{site.Admin}/api/v1/{list}", Stop)).StatusCode.ShouldBe(HttpStatusCode.OK, list);
        }

        foreach (var wrong in told)
        {
            await api.AskAsync("POST", "mend", new { kind = wrong.Kind, key = wrong.Kind == "settings" ? "settings" : wrong.Key });
        }

        if (told.Any(f => f.Kind == "gate"))
        {
            (await site.Client.StatusAsync(Stop)).Faults.ShouldBeEmpty();
        }
    }

    [Fact]
    public async Task An_unreadable_gate_is_mended_by_saying_it_again()
    {
        await using var site = await RunningSite.StartAsync();
        await using (var database = new SqliteConnection($"Data Source={site.Data}/sentinel.db"))
        {
            await database.OpenAsync(Stop);
            await using var command = new SqliteCommand("UPDATE gates SET Audience='nonsense', Covers='nonsense' WHERE Key='clearance-vault'", database);
            await command.ExecuteNonQueryAsync(Stop);
        }

        await site.RestartAsync();
        using var guest = site.NewBrowser();
        (await guest.StatusAsync("/shop/books")).ShouldBe(HttpStatusCode.Forbidden);
        var (gate, tag) = await site.Client.GateAsync("clearance-vault", Stop);
        gate.Unreadable.ShouldNotBeNull();
        await site.Client.SetGateAsync("clearance-vault", new GateDraft
        { Title = "Vault", Covers = ["category:clearance-vault"], Audience = "password" }, tag!, Stop);
        (await site.Client.StatusAsync(Stop)).Faults.ShouldBeEmpty();
        (await guest.StatusAsync("/shop/books")).ShouldBe(HttpStatusCode.OK);
        // Its shared password still opens it.
        (await guest.UnlockAsync(RunningSite.VaultPassword)).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await guest.StatusAsync("/shop/clearance-vault")).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task Killed_at_any_moment_of_its_start_it_starts_again()
    {
        var folder = Directory.CreateTempSubdirectory("wary-kill-").FullName;
        var random = new Random(11);
        for (var round = 0; round < Trials.Of(2, 100); round++)
        {
            var data = Path.Combine(folder, round.ToString(System.Globalization.CultureInfo.InvariantCulture));
            await using (var first = ServiceProcess.Start(data))
            {
                var watch = Stopwatch.StartNew();
                // From the moment at which it begins to write, into the upgrade and past it.
                while (!Directory.Exists(data) && watch.Elapsed < TimeSpan.FromSeconds(20))
                {
                    await Task.Delay(5, Stop);
                }

                await Task.Delay(random.Next(0, 2500), Stop);
                await first.KillAsync();
            }

            await using var second = await ServiceProcess.Start(data).ReadyAsync();
            await second.SaysAsync("No owner yet");
        }

        Directory.Delete(folder, true);
    }

    [Fact]
    public async Task A_left_over_lock_of_an_upgrade_and_half_a_key_are_waited_for_by_nobody()
    {
        var folder = Directory.CreateTempSubdirectory("wary-lock-").FullName;
        await using (var database = new SqliteConnection($"Data Source={folder}/sentinel.db"))
        {
            await database.OpenAsync(Stop);
            await using var command = new SqliteCommand(
                """
                CREATE TABLE "__EFMigrationsLock" ("Id" INTEGER PRIMARY KEY, "Timestamp" TEXT NOT NULL);
                INSERT INTO "__EFMigrationsLock" VALUES (1, '2026-01-01')
                """, database);
            await command.ExecuteNonQueryAsync(Stop);
        }

        SqliteConnection.ClearAllPools();
        await File.WriteAllTextAsync(Path.Combine(folder, "sentinel.db.upgrading"), "", Stop);
        File.SetUnixFileMode(Path.Combine(folder, "sentinel.db"), (UnixFileMode)0b110_100_100);
        await using (await ServiceProcess.Start(folder).ReadyAsync())
        {
            // A folder that was there before: what is in it is made readable to its owner alone.
            foreach (var file in Directory.GetFiles(folder))
            {
                File.GetUnixFileMode(file).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite, file);
            }
        }

        Directory.Delete(folder, true);
    }

    [Fact]
    public async Task Two_that_start_at_once_on_one_folder_both_come_up_and_the_one_that_waits_says_so()
    {
        var folder = Directory.CreateTempSubdirectory("wary-two-").FullName;
        await using (var held = new FileStream(Path.Combine(folder, "sentinel.db.upgrading"), FileMode.Create, FileAccess.ReadWrite, FileShare.None))
        {
            await using var waits = ServiceProcess.Start(folder);
            for (var n = 0; n < 400 && !waits.Log.Contains("Waiting for another process", StringComparison.Ordinal); n++)
            {
                await Task.Delay(50, Stop);
            }

            waits.Log.ShouldContain("Waiting for another process that is bringing the database up to date");
            held.Close();
            await waits.ReadyAsync();
        }

        var fresh = Path.Combine(folder, "fresh");
        await using var one = ServiceProcess.Start(fresh);
        await using var other = ServiceProcess.Start(fresh);
        await Task.WhenAll(one.ReadyAsync(), other.ReadyAsync());
    }

    [Theory]
    [InlineData("sqlite")]
    [InlineData("postgres")]
    public async Task Many_calls_at_once_with_one_code_make_one_owner(string provider)
    {
        var folder = Directory.CreateTempSubdirectory("wary-owner-").FullName;
        string[] settings = provider == "sqlite" ? [] : ["--Wary:Connection=" + await NewDatabaseAsync()];
        await using var one = await ServiceProcess.Start(folder, settings).ReadyAsync();
        // On PostgreSQL a second machine, with a code of its own, takes half of the calls.
        await using var other = await (provider == "sqlite" ? Task.FromResult(one) : ServiceProcess.Start(folder, settings).ReadyAsync());
        using var http = new HttpClient();
        async Task<HttpStatusCode> CallAsync(int n)
        {
            var node = n % 2 == 0 ? one : other;
            var code = System.Text.RegularExpressions.Regex.Match(await LogAsync(node), "code=([0-9a-f]+)").Groups[1].Value;
            using var answer = await http.PostAsJsonAsync(
                node.Admin + "/api/v1/first-owner", new { code, email = $"o{n}@fernlight.example", name = "O", password = "a-quiet-hill-at-night" }, Stop);
            return answer.StatusCode;
        }

        var answers = await Task.WhenAll(Enumerable.Range(0, 10).Select(CallAsync));
        answers.Count(a => a == HttpStatusCode.OK).ShouldBe(1, string.Join(' ', answers));
        answers.Count(a => a == HttpStatusCode.Conflict).ShouldBe(9);
        if (provider == "sqlite")
        {
            await one.KillAsync();
            await using var database = new SqliteConnection($"Data Source={folder}/sentinel.db");
            await database.OpenAsync(Stop);
            await using var command = new SqliteCommand("SELECT count(*) FROM members", database);
            (await command.ExecuteScalarAsync(Stop)).ShouldBe(1L);
        }
    }

    [Fact]
    public async Task A_full_disk_is_told_in_words_and_mends_itself_when_there_is_room()
    {
        var folder = Directory.CreateTempSubdirectory("wary-full-").FullName;
        (await RunAsync("mount", "-t", "tmpfs", "-o", "size=3m", "tmpfs", folder)).ShouldBe(0, "a small disk of its own is needed");
        try
        {
            await using var site = await RunningSite.StartAsync(settings: [$"--Wary:Data={folder}/data"]);
            await File.WriteAllBytesAsync(Path.Combine(folder, "filler"), new byte[100], Stop);
            await FillAsync(folder);
            using var api = new Caller(site);
            var refused = await Until(async () =>
                await api.AskAsync("POST", "groups", new { title = "G" + Guid.NewGuid().ToString("N") + new string('x', 80) }), a =>
                a.Status == (HttpStatusCode)507);
            refused.Body.GetProperty("code").GetString().ShouldBe("storage-full");
            refused.Body.GetProperty("detail").GetString()!.ShouldContain("disk of the database is full");
            using var http = new HttpClient();
            await Until(async () => (await http.GetAsync(site.Admin + "/health/ready", Stop)).StatusCode, s => s == HttpStatusCode.ServiceUnavailable);
            // What is stored already is served as before; whoever wants in reads why not.
            using var guest = site.NewBrowser();
            (await guest.StatusAsync("/shop")).ShouldBe(HttpStatusCode.OK);
            (await guest.StatusAsync("/shop/dealer-stock")).ShouldBe(HttpStatusCode.Unauthorized);
            var signIn = await guest.SignInAsync("nell", "orchard-quiet-91");
            signIn.StatusCode.ShouldBe((HttpStatusCode)507);
            (await signIn.Content.ReadAsStringAsync(Stop)).ShouldContain("Nothing can be kept right now");
            File.Delete(Path.Combine(folder, "filler"));
            await Until(async () => (await http.GetAsync(site.Admin + "/health/ready", Stop)).StatusCode, s => s == HttpStatusCode.OK);
            (await api.AskAsync("POST", "groups", new { title = "Room again" })).Status.ShouldBe(HttpStatusCode.Created);
            (await guest.SignInAsync("nell", "orchard-quiet-91")).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        }
        finally
        {
            (await RunAsync("umount", "-l", folder)).ShouldBe(0);
        }
    }

    private static async Task FillAsync(string folder)
    {
        await using var filler = new FileStream(Path.Combine(folder, "filler"), FileMode.Append);
        try
        {
            for (var piece = 65_536; ; filler.Write(new byte[piece]))
            {
                filler.Flush();
            }
        }
        catch (IOException)
        {
            // Full.
        }
    }

    private static async Task<T> Until<T>(Func<Task<T>> ask, Func<T, bool> holds)
    {
        for (var n = 0; ; n++)
        {
            var answer = await ask();
            if (holds(answer) || n > 300)
            {
                holds(answer).ShouldBeTrue(answer!.ToString());
                return answer;
            }

            await Task.Delay(20, Stop);
        }
    }

    private static async Task<string> LogAsync(ServiceProcess node)
    {
        for (var n = 0; n < 200 && !node.Log.Contains("code=", StringComparison.Ordinal); n++)
        {
            await Task.Delay(50, Stop);
        }

        return node.Log;
    }

    private static async Task<int> RunAsync(string command, params string[] arguments)
    {
        using var process = Process.Start(command, arguments);
        await process.WaitForExitAsync(Stop);
        return process.ExitCode;
    }

    private static async Task<string> NewDatabaseAsync()
    {
        var server =
            Environment.GetEnvironmentVariable("WARY_TEST_POSTGRES") ?? throw new InvalidOperationException("WARY_TEST_POSTGRES names no PostgreSQL; "
                + "./test.sh starts one.");
        var name = "wary_" + Guid.NewGuid().ToString("N");
        await using var connection = new NpgsqlConnection(server + ";Database=postgres;Pooling=false");
        await connection.OpenAsync(Stop);
        await using var create = new NpgsqlCommand("CREATE DATABASE " + name, connection);
        await create.ExecuteNonQueryAsync(Stop);
        return $"{server};Database={name};Maximum Pool Size=20";
    }
}
