using System.Globalization;
using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract;
using WarySentinel.Contract.Check;
using WarySentinel.Oracle;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.EndToEnd;

/// <summary>
/// The decision rules, differentially: made-up sites are brought into a running service, and what the API, the decision protocol, the check and the
/// command line say of random questions is held against an evaluator that was written from the rules alone and shares no code with the service.
/// </summary>
public sealed class DifferentialTests : IAsyncLifetime
{
    private static readonly int Decisions = Trials.Of(12_000, 1_000_000, "WARY_DIFFERENTIAL");
    private static readonly string[] Acts = ["list", "open", "price", "buy", "download", "listen"];
    private RunningSite site = null!;
    private HttpClient api = null!;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    public async ValueTask InitializeAsync()
    {
        site = await RunningSite.StartAsync(origin: "");
        api = new HttpClient { BaseAddress = new Uri(site.Admin), DefaultRequestHeaders = { { "Authorization", "Bearer " + site.Token } } };
    }

    public async ValueTask DisposeAsync()
    {
        api.Dispose();
        await site.DisposeAsync();
    }

    [Fact]
    public async Task Service_check_command_line_and_decision_protocol_agree_with_the_rules()
    {
        // Few questions each where it is short: sites differ more than the questions of one.
        var worlds = Trials.Of(8, 100);
        await SetTheStageAsync();
        var asked = 0;
        for (var seed = 0; seed < worlds; seed++)
        {
            var random = new Random(seed);
            var world = World.Make(random, 14, 14);
            await BringInAsync(world);
            var each = Decisions / worlds;
            asked += await BulkAsync(world, random, each * 40 / 100);
            asked += await ProtocolAsync(world, random, each * 30 / 100);
            asked += await CommandLineAsync(world, random, each * 22 / 100);
            asked += await CheckAsync(world, random, each - (each * 92 / 100));
        }

        asked.ShouldBeGreaterThanOrEqualTo(Decisions - worlds * 8);
    }

    private async Task SetTheStageAsync()
    {
        var yaml = new StringBuilder("version: 1\n");
        foreach (var group in World.Facts.GroupBy(f => f.Split(':')[0]))
        {
            yaml.Append(group.Key + "s:\n").AppendJoin("", group.Select(f => $"- {{ key: {f.Split(':')[1]}, title: {f.Split(':')[1]} }}\n"));
        }

        await ApplyAsync(yaml.ToString(), false);
        for (var n = 0; n < 6; n++)
        {
            await site.Client.AddMemberAsync($"m{n}@site.example", "M" + n, null, "a-quiet-hill-at-night", [], [], [], Stop);
        }
    }

    private async Task BringInAsync(World world)
    {
        var (_, tag) = await site.Client.SettingsAsync(Stop);
        await site.Client.SetSettingsAsync(JsonSerializer.SerializeToElement(new { staffPasses = true }), tag!, Stop);
        // Gates first go, then items; what the last world left is pruned.
        await ApplyAsync("gates: []\nexemptions: []\n", true);
        await ApplyAsync("items:\n" + (world.Items.Any(i => i.Id == "site") ? ""
            : "- { id: site, title: S, addresses: [] }\n") + string.Concat(
            world.Items.Select(i => $"- {{ id: '{i.Id}', title: T, parents: [{Quoted(i.Parents)}], addresses: [{Quoted(i.Addresses)}] }}\n"))
            + Gates("gates", world.Gates.Where(g => !g.Exempts)) + Gates("exemptions", world.Gates.Where(g => g.Exempts)), true);
        if (!world.StaffPasses)
        {
            (_, tag) = await site.Client.SettingsAsync(Stop);
            using var request = new HttpRequestMessage(HttpMethod.Put, "/api/v1/settings")
            { Headers = { { "If-Match", tag } }, Content = JsonContent.Create(new { staffPasses = false }) };
            // Refused where it would keep every owner out; then staff passes on.
            staffPasses = (await api.SendAsync(request, Stop)).StatusCode != HttpStatusCode.OK;
        }
        else
        {
            staffPasses = true;
        }

        foreach (var member in world.Visitors.Where(v => v.Email is not null && v.Unlocked.Length == 0))
        {
            await SetAsync(member);
        }
    }

    private bool staffPasses;

    private readonly Dictionary<string, string> held = [];

    /// <summary>Gives a member what the world says; roles by the API, groups and plans as well as they can be given: anew.</summary>
    private async Task SetAsync(OracleVisitor member)
    {
        var wanted = string.Join(',', member.Facts);
        if (!held.TryGetValue(member.Email!, out var has) || has != wanted)
        {
            // There is no call that takes a group away yet: the store says it.
            await using var database = new Microsoft.Data.Sqlite.SqliteConnection($"Data Source={site.Data}/sentinel.db");
            await database.OpenAsync(Stop);
            await using var command = database.CreateCommand();
            command.CommandText = "DELETE FROM grants WHERE MemberId IN (SELECT Id FROM members WHERE Email=$email);" + string.Concat(
                member.Facts.Select((f, n) =>
                $"INSERT INTO grants (Id, MemberId, Kind, Key, Source) SELECT '{Guid.NewGuid().ToString().ToUpperInvariant()}', Id, "
                    + $"{Array.IndexOf(["role", "group", "plan"], f.Split(':')[0])}, '{f.Split(':')[1]}', 'test' FROM members WHERE Email=$email;"));
            command.Parameters.AddWithValue("$email", member.Email);
            await command.ExecuteNonQueryAsync(Stop);
            held[member.Email!] = wanted;
        }

        await site.Client.SetStatusAsync(member.Email!, member.Status, null, Stop);
    }

    private World Effective(World world) => world with { StaffPasses = staffPasses };

    private async Task<int> BulkAsync(World world, Random random, int count)
    {
        var questions = Questions(world, random, count).ToList();
        var csv = new StringBuilder("visitor,act,item,path,at\n");
        foreach (var q in questions)
        {
            csv.Append(CultureInfo.InvariantCulture, $"\"{NameOf(q.Visitor)}\",{q.Act},{q.Item},{q.Path},{q.At:yyyy-MM-ddTHH:mm:ssZ}\n");
        }

        using var answer = await api.PostAsync("/api/v1/decisions/bulk", new StringContent(csv.ToString(), Encoding.UTF8, "text/csv"), Stop);
        var lines = (await answer.Content.ReadAsStringAsync(Stop)).Split('\n', StringSplitOptions.RemoveEmptyEntries);
        lines.Length.ShouldBe(count);
        for (var n = 0; n < count; n++)
        {
            var said = JsonSerializer.Deserialize<BulkLine>(lines[n], ApiJson.Options)!;
            Same(world, questions[n], said.Allowed, said.Gate, said.Answer, "bulk", lines[n]);
        }

        return count;
    }

    private async Task<int> ProtocolAsync(World world, Random random, int count)
    {
        foreach (var batch in Questions(world, random, count).Chunk(1000))
        {
            var body = new
            {
                evaluations = batch.Select(q => new
                {
                    subject = new { type = "visitor", id = NameOf(q.Visitor) },
                    action = new { name = q.Act },
                    resource = q.Path is not null ? new { type = "path", id = q.Path } : new { type = q.Item!.Split(':')[0], id = q.Item.Split(':')[^1] },
                    context = new { time = q.At },
                }),
            };
            using var answer = await api.PostAsJsonAsync("/access/v1/evaluations", body, Stop);
            answer.StatusCode.ShouldBe(HttpStatusCode.OK);
            var all = JsonDocument.Parse(await answer.Content.ReadAsStringAsync(Stop)).RootElement.GetProperty("evaluations");
            for (var n = 0; n < batch.Length; n++)
            {
                var context = all[n].TryGetProperty("context", out var c) ? c : default;
                string? Of(string name) => context.ValueKind == JsonValueKind.Object && context.TryGetProperty(name, out var v) ? v.GetString() : null;
                Same(world, batch[n], all[n].GetProperty("decision").GetBoolean(), Of("gate"), Of("answer"), "protocol", all[n].ToString());
            }
        }

        return count;
    }

    private async Task<int> CommandLineAsync(World world, Random random, int count)
    {
        var questions = Questions(world, random, count).ToList();
        var file = Path.Combine(Path.GetTempPath(), $"wary-{Guid.NewGuid():N}.jsonl");
        await File.WriteAllLinesAsync(
            file, questions.Select(q => JsonSerializer.Serialize(new
            {
                visitor = NameOf(q.Visitor), act = q.Act, item = q.Item, path = q.Path,
                at = q.At.ToString("yyyy-MM-ddTHH:mm:ssZ", CultureInfo.InvariantCulture)
            })), Stop);
        var (output, _) = await Cli.RunAsync(site, "may", "--from", file);
        File.Delete(file);
        var lines = output.Split('\n', StringSplitOptions.RemoveEmptyEntries);
        lines.Length.ShouldBe(count, output.Length > 500 ? output[..500] : output);
        for (var n = 0; n < count; n++)
        {
            var said = JsonSerializer.Deserialize<BulkLine>(lines[n], ApiJson.Options)!;
            Same(world, questions[n], said.Allowed, said.Gate, said.Answer, "command line", lines[n]);
        }

        return count;
    }

    /// <summary>The check knows real sessions only, and now: whoever is signed in asks it for addresses.</summary>
    private async Task<int> CheckAsync(World world, Random random, int count)
    {
        var cookies = new Dictionary<string, string?> { ["guest"] = null };
        foreach (var member in world.Visitors.Where(v => v is { Email: not null, Status: "active", Unlocked.Length: 0 }))
        {
            using var browser = site.NewBrowser();
            var signedIn = await browser.SignInAsync(member.Email!, "a-quiet-hill-at-night");
            cookies[member.Email!] = signedIn.Headers.GetValues("Set-Cookie").First(c => c.StartsWith("wary=", StringComparison.Ordinal)).Split(';')[0];
        }

        using var http = new HttpClient(new SocketsHttpHandler { UseCookies = false, MaxConnectionsPerServer = 4 });
        var visitors = world.Visitors.Where(v => v.Unlocked.Length == 0 && cookies.ContainsKey(v.Email ?? "guest")).ToList();
        var now = DateTimeOffset.UtcNow;
        var oracle = new Evaluator(Effective(world));
        await Parallel.ForEachAsync(Enumerable.Range(0, count).Select(_ => (Visitor: visitors[random.Next(visitors.Count)], Path: World.Address(random)))
            .ToList(), new ParallelOptions { MaxDegreeOfParallelism = 4 }, async (q, stop) =>
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, site.Site + "/sentinel/check");
            request.Headers.TryAddWithoutValidation("X-Original-URI", q.Path);
            if (cookies[q.Visitor.Email ?? "guest"] is { } cookie)
            {
                request.Headers.TryAddWithoutValidation("Cookie", cookie);
            }

            using var answer = await http.SendAsync(request, stop);
            var expected = oracle.AtPath(q.Visitor, q.Path, "open", now);
            var status = answer.Headers.TryGetValues("X-Wary-Status", out var values) ? values.First() : "";
            var wanted = expected.Answer switch { null => "", "sign-in" or "password" => "401", "not-found" => "404", _ => "403" };
            Assert.True((answer.StatusCode == HttpStatusCode.NoContent, status) == (expected.Allowed, wanted),
                $"check {q.Visitor} {q.Path}: {(int)answer.StatusCode} {status}, not {expected}\n{world}");
        });
        return count;
    }

    private sealed record Asked(OracleVisitor Visitor, string Act, string? Item, string? Path, DateTimeOffset At);

    private static IEnumerable<Asked> Questions(World world, Random random, int count)
    {
        for (var n = 0; n < count; n++)
        {
            var byPath = world.Items.Count == 0 || random.Next(2) == 0;
            yield return new Asked(
                world.Visitors[random.Next(world.Visitors.Count)], Acts[random.Next(Acts.Length)], byPath ? null
                : world.Items[random.Next(world.Items.Count)].Id, byPath ? World.Address(random) : null,
                World.Noon.AddHours(random.Next(-80, 160)));
        }
    }

    private void Same(World world, Asked q, bool? allowed, string? gate, string? answer, string surface, string said)
    {
        var oracle = new Evaluator(Effective(world));
        var expected = q.Path is not null ? oracle.AtPath(q.Visitor, q.Path, q.Act, q.At) : oracle.OnItem(q.Visitor, q.Item!, q.Act, q.At);
        Assert.True((allowed, gate, answer) == (expected.Allowed, expected.Gate, expected.Answer),
            $"{surface}: {q.Visitor} {q.Act} {q.Item}{q.Path} {q.At:O}: {said}, not {expected}\n{world}");
    }

    private static string NameOf(OracleVisitor visitor) => string.Join(',', visitor.Unlocked.Select(g => "password:" + g).Prepend(visitor.Email ?? "guest"));

    private static string Gates(string section, IEnumerable<OracleGate> gates)
    {
        var text = new StringBuilder(section + ":" + (gates.Any() ? "\n" : " []\n"));
        foreach (var g in gates)
        {
            text.Append(CultureInfo.InvariantCulture,
                $"- key: {g.Key}\n  title: {g.Key}\n  covers: [{Quoted(g.Covers)}]\n  reach: {(g.ItemOnly ? "item" : "branch")}\n  enabled: "
                    + $"{(g.Enabled ? "true" : "false")}\n");
            text.Append(g.From is null ? "" : $"  from: {g.From:yyyy-MM-ddTHH:mm:ssZ}\n")
                .Append(g.Until is null ? "" : $"  until: {g.Until:yyyy-MM-ddTHH:mm:ssZ}\n");
            if (!g.Exempts)
            {
                text.Append(CultureInfo.InvariantCulture,
                    $"  audience: '{g.Audience.Text}'\n  presence: {(g.Hidden ? "hidden" : "listed")}\n  answer: {g.Answer}\n");
                text.Append(g.Acts.Length == 0 ? "" : $"  acts: [{string.Join(", ", g.Acts)}]\n");
            }
        }

        return text.ToString();
    }

    private static string Quoted(IEnumerable<string> values) => string.Join(", ", values.Select(v => $"'{v}'"));

    private async Task ApplyAsync(string yaml, bool prune)
    {
        var last = await site.Client.ApplyAsync(new MemoryStream(Encoding.UTF8.GetBytes(yaml)), prune, false, null, Stop).LastAsync(Stop);
        last.Stage.ShouldBe("done", $"{last.Detail} {string.Join('\n', last.Difference?.Faults ?? [])}\n{yaml}");
    }
}
