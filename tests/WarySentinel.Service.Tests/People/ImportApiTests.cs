using System.Net;
using System.Text;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.People;
using WarySentinel.Storage;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.People;

/// <summary>Members from files, in whatever form they come.</summary>
public sealed class ImportApiTests : IAsyncLifetime
{
    private static readonly CancellationToken Stop = CancellationToken.None;
    private RunningSite site = null!;

    public async ValueTask InitializeAsync() => site = await RunningSite.StartAsync();

    public async ValueTask DisposeAsync() => await site.DisposeAsync();

    [Theory]
    [InlineData("utf-8", ',')]
    [InlineData("utf-16", ';')]
    [InlineData("utf-16BE", '\t')]
    [InlineData("windows-1252", ';')]
    public async Task Any_encoding_sign_and_order_of_columns_is_read(string encoding, char sign)
    {
        Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);
        var (random, inName) = (new Random(encoding.Length + sign), sign == '\t' ? ',' : sign);
        for (var round = 0; round < 4; round++)
        {
            string[] heads = ["E-Mail", "Vorname", "Nachname", "Roles", "Member since", "Notes"];
            var order = Enumerable.Range(0, heads.Length).OrderBy(_ => random.Next()).ToArray();
            var people = Enumerable.Range(0, 30).Select(n => new[]
            {
                $"{encoding}{sign % 7}{round}p{n}@x.example", "Zoë" + n, "Müller \"the\" " + inName + n, n % 2 == 0 ? "guide|dealer"
                    : "", "2025-0" + (1 + (n % 9)) + "-03",
                "line one\nline two",
            }).ToList();
            string Cell(string text) => text.IndexOfAny(['"', '\n', sign]) >= 0 ? $"\"{text.Replace("\"", "\"\"", StringComparison.Ordinal)}\"" : text;
            var text = string.Join("\r\n", people.Prepend(heads).Select(p => string.Join(sign, order.Select(o => Cell(p[o])))));
            var bytes = Encoding.GetEncoding(encoding) is var used && encoding.StartsWith("utf-16", StringComparison.Ordinal)
                ? [.. used.GetPreamble(), .. used.GetBytes(text)] : used.GetBytes(text);
            var would = await ImportAsync(bytes, true);
            (would.Stage, would.Fresh, would.Refused).ShouldBe(("done", 30, 0), would.Detail + string.Join(" ", would.Refusals));
            would.Columns.Single(c => c.Column == "Notes").Field.ShouldBe("");
            (await site.Client.AllAsync<MemberView>($"members?search={encoding}{sign % 7}{round}p", 100, Stop).ToListAsync()).ShouldBeEmpty();
            (await ImportAsync(bytes, false)).Fresh.ShouldBe(30);
            var (one, _) = await site.Client.MemberAsync(people[4][0], Stop);
            (one.Name, one.Status).ShouldBe(($"Zoë4 Müller \"the\" {inName}4", "invited"));
            one.Roles.ShouldBe(["dealer", "guide"]);
            one.Grants[0].Source.ShouldBe("import:members");
            one.CreatedAt.Year.ShouldBe(2025);
            (await ImportAsync(bytes, false)).Same.ShouldBe(30);
        }
    }

    [Fact]
    public async Task The_language_of_letters_comes_in_is_changed_goes_out_and_a_wrong_one_is_told()
    {
        const string file = "E-Mail;Name;Locale\nlin@x.example;Lin;de_AT\nmo@x.example;Mo;\nodd@x.example;Odd;no such language\n";
        var last = await ImportAsync(System.Text.Encoding.UTF8.GetBytes(file), false);
        (last.Fresh, last.Refused).ShouldBe((2, 1));
        (await site.Client.MemberAsync("lin@x.example", Stop)).Value.Language.ShouldBe("de-AT");
        (await ImportAsync("email,language\nlin@x.example,sv\nmo@x.example,\n"u8.ToArray(), false)).Changed.ShouldBe(1);
        (await site.Client.MemberAsync("lin@x.example", Stop)).Value.Language.ShouldBe("sv");
        using var to = new MemoryStream();
        await site.Client.ExportMembersAsync(new MemberFilter("x.example"), to, Stop);
        System.Text.Encoding.UTF8.GetString(to.ToArray()).ShouldContain(",sv,");
    }

    [Fact]
    public async Task Bad_rows_are_told_with_line_and_reason_and_the_good_ones_come_in()
    {
        var rows = Enumerable.Range(0, 5000).Select(n => (n % 135) switch
        {
            7 => $"nobody{n},N,guide",
            77 => $"bad{n}@x.example,=1+1,guide",
            107 => $"bad{n}@x.example,N,gide",
            _ => $"good{n}@x.example,Name {n},guide",
        }).ToList();
        rows[4999] = "good1@x.example,Twice,guide";
        var file = Encoding.UTF8.GetBytes("email,name,role\n" + string.Join('\n', rows) + "\n");
        var line = await ImportAsync(file, false);
        line.Rows.ShouldBe(5000);
        var bad = rows.Count(r => !r.StartsWith("good", StringComparison.Ordinal)) + 1;
        (line.Refused, line.Fresh).ShouldBe((bad, 5000 - bad));
        line.Refusals.Select(r => r.Line).ShouldBe(
            rows.Select((r, at) => (r, at)).Where(r => !r.r.StartsWith("good", StringComparison.Ordinal) || r.at == 4999)
                .Select(r => r.at + 2), ignoreOrder: true);
        line.Refusals.Single(r => r.Line == 9).Field.ShouldBe("email");
        line.Refusals.Single(r => r.Line == 79).Field.ShouldBe("name");
        line.Refusals.Single(r => r.Line == 109).Reason.ShouldContain("Did you mean “guide”");
        line.Refusals.Single(r => r.Line == 5001).Reason.ShouldContain("line 3");
        (await ImportAsync(file, false)).Same.ShouldBe(5000 - bad);
    }

    [Theory]
    [InlineData("just some words\nand more\n")]
    [InlineData("a,b\n1,2\n")]
    [InlineData("")]
    [InlineData("\0\u0001\u0002binary")]
    public async Task What_is_no_file_of_members_is_refused_whole(string text) =>
        (await ImportAsync(Encoding.UTF8.GetBytes(text), false)).Stage.ShouldBe("failed");

    [Fact]
    public async Task Junk_of_many_megabytes_is_refused_and_held_nowhere()
    {
        var junk = new byte[60 << 20];
        new Random(3).NextBytes(junk);
        (await ImportAsync(junk, false)).Stage.ShouldBe("failed");
        Encoding.UTF8.GetBytes("email,name\n").CopyTo(junk, 0);
        Array.Fill(junk, (byte)'x', 11, junk.Length - 11);
        (await ImportAsync(junk, false)).Stage.ShouldBe("failed");
    }

    [Fact]
    public async Task However_many_in_whatever_order_each_is_looked_at_once_and_the_second_of_two_names_the_line_of_the_first()
    {
        var random = new Random(11);
        var rows = Enumerable.Range(0, 70_000).Select(_ => $"m{random.Next(400_000)}@Order.example").ToList();
        var line = await ImportAsync(Encoding.UTF8.GetBytes("email\n" + string.Join('\n', rows) + "\n"), true);
        var first = new Dictionary<string, int>();
        var twice = rows.Select((email, at) => (email, Line: at + 2)).Where(r => !first.TryAdd(r.email, r.Line)).ToList();
        (line.Stage, line.Rows, line.Total, line.Fresh, line.Refused).ShouldBe(("done", rows.Count, rows.Count, first.Count, twice.Count));
        line.Refusals.Select(r => r.Line).ShouldBe(twice.Take(200).Select(r => r.Line));
        line.Refusals.ShouldAllBe(r => r.Reason.Contains($"line {first[r.Email!]}", StringComparison.Ordinal));
        line.Samples.Select(s => s.Line).ShouldBe(Enumerable.Range(2, 50));
    }

    [Fact]
    public async Task A_file_that_is_none_from_some_line_on_stores_nobody()
    {
        var rows = Enumerable.Range(0, 20_000).Select(n => $"whole{n}@x.example,Somebody").Append($"last@x.example,{new string('x', 21_000)}");
        var line = await ImportAsync(Encoding.UTF8.GetBytes("email,name\n" + string.Join('\n', rows) + "\n"), false);
        (line.Stage, line.Fresh).ShouldBe(("failed", 0), line.Detail);
        await Should.ThrowAsync<SentinelException>(() => site.Client.MemberAsync("whole0@x.example", Stop));
    }

    [Fact]
    public async Task A_password_file_comes_along_and_is_renewed_at_the_first_sign_in()
    {
        var hash = BCrypt.Net.BCrypt.HashPassword("quiet-orchard-9", 5);
        var line = await ImportAsync(Encoding.UTF8.GetBytes($"ivy:{hash}\nmoss:$apr1$8sFt66rZ$i3DjKy/7xYQ0E6sNJVtcT1\n"), false, "domain=hill.example");
        (line.Fresh, line.Refused).ShouldBe((2, 0));
        using var browser = site.NewBrowser();
        (await browser.SignInAsync("ivy", "wrong-words-1")).StatusCode.ShouldBe(HttpStatusCode.Unauthorized);
        (await browser.SignInAsync("ivy@hill.example", "quiet-orchard-9")).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await site.Client.HistoryAsync("ivy@hill.example", 5, Stop)).ShouldContain(h => h.Action == "password.renew");
        using var again = site.NewBrowser();
        (await again.SignInAsync("ivy", "quiet-orchard-9")).StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        (await site.Client.HistoryAsync("ivy@hill.example", 9, Stop)).Count(h => h.Action == "password.renew").ShouldBe(1);
    }

    [Fact]
    public async Task What_is_written_out_comes_in_again_as_it_is()
    {
        await ImportAsync(Encoding.UTF8.GetBytes("email,name,role,plan\nround@x.example,\"Round, Trip\",guide,patron\n"), false);
        using var file = new MemoryStream();
        await site.Client.ExportMembersAsync(new MemberFilter("round@"), file, Stop);
        Encoding.UTF8.GetString(file.ToArray()).ShouldContain("round@x.example,\"Round, Trip\",,invited,guide,,patron,");
        using var all = new MemoryStream();
        await site.Client.ExportMembersAsync(new MemberFilter(), all, Stop);
        var line = await ImportAsync(all.ToArray(), false);
        (line.Fresh, line.Changed, line.Refused).ShouldBe((0, 0, 0), string.Join(" ", line.Refusals));
    }

    [Theory]
    [InlineData("sqlite", 6)]
    [InlineData("postgres", 6)]
    public async Task Broken_off_anywhere_and_begun_again_by_two_at_once_nobody_is_there_twice_and_nobody_left_out(string provider, int trials)
    {
        var server = Environment.GetEnvironmentVariable("WARY_TEST_POSTGRES") ?? throw new InvalidOperationException("WARY_TEST_POSTGRES names no PostgreSQL.");
        var name = "wary_" + Guid.NewGuid().ToString("N");
        if (provider == "postgres")
        {
            await AdminAsync(server, "CREATE DATABASE " + name);
        }

        string[] settings = provider == "postgres" ? [$"--Wary:Connection={server};Database={name}"] : [];
        await using (var own = await RunningSite.StartAsync(settings: settings))
        {
            var random = new Random(17);
            for (var trial = 0; trial < trials; trial++)
            {
                var all = Enumerable.Range(0, 2000).Select(n => $"t{trial}n{n}@x.example").ToList();
                var file = Encoding.UTF8.GetBytes("email,name,role\n" + string.Join('\n', all.Select(e => $"{e},Some One,guide")));
                using (var breaking = new CancellationTokenSource(TimeSpan.FromMilliseconds(random.Next(400))))
                {
                    await IgnoringAsync(() => ImportAsync(own, file, breaking.Token));
                }

                var both = await Task.WhenAll(ImportAsync(own, file, Stop), ImportAsync(own, file, Stop));
                both.ShouldAllBe(l => l.Stage == "done" && l.Refused == 0 && l.Rows == 2000);
                var there = await own.Client.AllAsync<MemberView>($"members?search=t{trial}n", 5000, Stop).ToListAsync();
                there.Select(m => m.Email).Order(StringComparer.Ordinal).ShouldBe(all.Order(StringComparer.Ordinal));
                there.ShouldAllBe(m => m.Grants.Count == 1);
            }
        }

        if (provider == "postgres")
        {
            NpgsqlConnection.ClearAllPools();
            await AdminAsync(server, $"DROP DATABASE {name} WITH (FORCE)");
        }
    }

    [Fact]
    public async Task Whom_the_owner_chose_is_told_once_however_often_the_file_comes()
    {
        await using var own = await RunningSite.StartAsync();
        var store = own.Services.GetRequiredService<Store>();
        async Task<MemberImportLine> TellAsync(string whom, string csv, bool dryRun = false)
        {
            MemberImportLine? last = null;
            using var stream = new MemoryStream(Encoding.UTF8.GetBytes("email,name,role\n" + csv));
            var letter = new MemberImportLetter(whom, "Dear {name}", "You are in, {name}.");
            await foreach (var line in own.Client.ImportMembersAsync(stream, dryRun, [], null, null, letter, Stop))
            {
                last = line;
            }

            return last!;
        }

        async Task<string[]> ToldAsync() => [.. (await store.MessagesAsync(100, stop: Stop)).Select(m => $"{m.To}: {m.Subject}").Order()];
        const string two = "one@told.example,One,guide\npia@lanternlane.example,,guide\nodd,Odd,guide\n";
        (await TellAsync("fresh", two, true)).Told.ShouldBe(1);
        (await ToldAsync()).ShouldBeEmpty();
        (await TellAsync("fresh", two)).Told.ShouldBe(1);
        (await ToldAsync()).ShouldBe(["one@told.example: Dear One"]);
        (await TellAsync("all", two)).Told.ShouldBe(0, "nobody is told again");
        (await TellAsync("changed", "pia@lanternlane.example,,keeper\ntwo@told.example,Two,\n")).Told.ShouldBe(1);
        (await TellAsync("all", "three@told.example,Three,\none@told.example,,keeper\n")).Told.ShouldBe(2);
        (await ToldAsync()).ShouldBe(
            ["one@told.example: Dear One", "one@told.example: Dear One", "pia@lanternlane.example: Dear Pia Lantern", "three@told.example: Dear Three"]);

        using var http = new HttpClient { DefaultRequestHeaders = { Authorization = new("Bearer", own.Token) } };
        async Task<(int Status, string Body)> PostAsync(MultipartFormDataContent parts)
        {
            using var answer = await http.PostAsync(own.Admin + "/api/v1/members/import", parts, Stop);
            return ((int)answer.StatusCode, await answer.Content.ReadAsStringAsync(Stop));
        }

        var file = new ByteArrayContent(Encoding.UTF8.GetBytes("email\nx@told.example\n"));
        (await PostAsync(new() { { new StringContent("{"), "letter" }, { file, "file" } })).Body.ShouldContain("import-parts");
        (await PostAsync(new() { { new StringContent("{\"tell\":\"all\"}"), "letter" }, { file, "file" } })).Status.ShouldBe(422);
        (await PostAsync(new() { { new StringContent("{\"tell\":\"them\",\"subject\":\"x\",\"text\":\"y\"}"), "letter" },
            { file, "file" } })).Status.ShouldBe(422);
        (await PostAsync(new() { { new StringContent(new string(' ', 70_000)), "letter" }, { file, "file" } })).Body.ShouldContain("import-parts");
        (await PostAsync(new() { { new StringContent("x"), "other" } })).Body.ShouldContain("import-parts");
        using var cut = new ByteArrayContent("--b\r\nContent-Disposition: form-data; name=\"file\"\r\n\r\nemail\nx@told"u8.ToArray());
        cut.Headers.TryAddWithoutValidation("Content-Type", "multipart/form-data; boundary=b");
        using var half = await http.PostAsync(own.Admin + "/api/v1/members/import", cut, Stop);
        ((int)half.StatusCode).ShouldBe(422);
        (await store.IsMemberAsync("x@told.example", Stop)).ShouldBeFalse();
    }

    private static async Task IgnoringAsync(Func<Task> work)
    {
        try
        {
            await work();
        }
        catch (Exception gone) when (gone is OperationCanceledException or HttpRequestException or IOException)
        {
            // Broken off.
        }
    }

    private static async Task AdminAsync(string server, string sql)
    {
        await using var connection = new NpgsqlConnection(server + ";Database=postgres;Pooling=false");
        await connection.OpenAsync(Stop);
        await using var command = new NpgsqlCommand(sql, connection);
        await command.ExecuteNonQueryAsync(Stop);
    }

    private Task<MemberImportLine> ImportAsync(byte[] file, bool dryRun, string more = "") => ImportAsync(site, file, Stop, dryRun, more);

    private static async Task<MemberImportLine> ImportAsync(RunningSite site, byte[] file, CancellationToken stop, bool dryRun = false, string more = "")
    {
        MemberImportLine? last = null;
        using var stream = new MemoryStream(file);
        await foreach (var line in site.Client.ImportMembersAsync(stream, dryRun, [], null, more.Length > 0 ? more.Split('=')[1] : null, null, stop))
        {
            last = line;
        }

        return last!;
    }
}
