using System.Diagnostics;
using System.Net;
using System.Text;
using System.Text.Json;
using Shouldly;
using WarySentinel.Client;
using WarySentinel.Contract.Access;
using WarySentinel.Contract.Gates;
using WarySentinel.Contract.SiteFile;
using WarySentinel.Testing;
using Xunit;
using SiteFileReader = WarySentinel.Service.SiteFile.SiteFileReader;

namespace WarySentinel.Service.Tests.Access;

/// <summary>A site that these tests change.</summary>
public sealed class ApplyFixture : IAsyncLifetime
{
    public RunningSite Site { get; private set; } = null!;

    public async ValueTask InitializeAsync() => Site = await RunningSite.StartAsync();

    public ValueTask DisposeAsync() => Site.DisposeAsync();
}

/// <summary>The site as text, over HTTP.</summary>
public sealed class ApplyTests(ApplyFixture fixture) : IClassFixture<ApplyFixture>
{
    private readonly RunningSite site = fixture.Site;

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    [Fact]
    public async Task What_was_written_changes_nothing_when_it_is_read()
    {
        await site.Client.SetGateAsync("clearance-vault", GateDraft.Of((await site.Client.GateAsync("clearance-vault", Stop)).Value) with
        {
            Prompt = new PromptWords("Down: the hill", "Two\nlines", null, "null", "true"),
            Link = new SiteLink("mailto:x@y.example", "Ask # us"),
            Rotation = new RotationDraft("P30D", "P2D", ["a@x.example"]),
            UnlockFor = "session",
            Message = "- not a list: really",
        }, "*", Stop);
        await site.Client.PutRedirectAsync("home", "sign-in", "role:dealer", "/shop/dealer-stock", 3, Stop);
        var text = await site.Client.ExportAsync(Stop);
        var line = await ApplyAsync(text, false, false);
        line.Stage.ShouldBe("done", line.Detail + string.Join('\n', line.Difference?.Faults ?? []));
        (line.Difference!.Added, line.Difference.Changed, line.Difference.Removed, line.Stored).ShouldBe((0, 0, 0, false));
        (await ApplyAsync(text, true, false)).Difference!.Removed.ShouldBe(0);
    }

    [Fact]
    public async Task Words_of_letters_travel_in_the_file_whatever_is_in_them()
    {
        var random = new Random(11);
        string[] pieces = ["{{ member.name }}", "\n", "  ", "- ", "# ", ": ", "'",
            "\"", "<p>Grüße</p>", "{% if member.name %}x{% endif %}", "|", "\t", "null", "a"];
        foreach (var language in new[] { "en", "de", "sv", "pt-BR" })
        {
            var html = "<p>x</p>" + string.Concat(Enumerable.Range(0, 40).Select(_ => pieces[random.Next(pieces.Length)]));
            var text = string.Concat(Enumerable.Range(0, 40).Select(_ => pieces[random.Next(pieces.Length)])) + "z";
            await site.Client.SetLetterTemplateAsync("welcome", language, new("Hello: # {{ member.name }}", html, text), "*", Stop);
        }

        var file = await site.Client.ExportAsync(Stop);
        (await ApplyAsync(file, false, false)).Difference!.ShouldSatisfyAllConditions(
            d => d.Faults.ShouldBeEmpty(), d => (d.Added, d.Changed, d.Removed).ShouldBe((0, 0, 0)));
        var before = (await site.Client.LetterTemplateAsync("welcome", "sv", Stop)).Value;
        (await ApplyAsync("letters: []\n", true, false)).Difference!.Removed.ShouldBe(4);
        (await site.Client.LetterTemplateAsync("welcome", "sv", Stop)).Value.Own.ShouldBeFalse();
        (await ApplyAsync(file, false, false)).Difference!.Added.ShouldBe(4);
        var after = (await site.Client.LetterTemplateAsync("welcome", "sv", Stop)).Value;
        (after.Subject, after.Html, after.Text).ShouldBe((before.Subject, before.Html, before.Text));
        (await ApplyAsync("letters: []\n", true, false)).Stored.ShouldBeTrue();
    }

    [Theory]
    [InlineData("gates:\n- key: g\n  colour: red\n", 3, 3, "“colour” is not known here")]
    [InlineData("gatez: []\n", 1, 1, "Did you mean “gates”?")]
    [InlineData("gates:\n- key: g\n  covers: category:books\n  audience: role:dealer and (role:guide\n", 4, 40, "not closed")]
    [InlineData("gates:\n- key: g\n  covers: [category:bookz]\n  audience: signed-in\n", 3, 11, "category:books")]
    [InlineData("gates:\n- key: g\n  covers: category:books\n  audience: signed-in\n  from: soon\n", 5, 9, "neither a day such as")]
    [InlineData("gates:\n- key: g\n  covers: category:books\n  audience: signed-in\n  enabled: 'yes'\n", 5, 13, "neither true nor false")]
    [InlineData("letters:\n- kind: welcome\n  language: en\n  subject: Hi\n  html: |\n    <p>a</p>\n    {{ member.nam }}\n", 7, 8, "member.name")]
    [InlineData("letters:\n- kind: welcom\n  language: en\n  subject: Hi\n  text: Hi\n", 2, 9, "welcome")]
    [InlineData("gates: nonsense\n", 1, 8, "A list must stand here")]
    [InlineData("gates:\n- just words\n", 2, 3, "Names and values")]
    [InlineData("gates:\n- key: a\n  key: b\n", 3, 3, "stands here twice")]
    [InlineData("items:\n- &x id: page:a\n  title: A\n- *x\n", 2, 3, "aliases")]
    [InlineData("items:\n- id: page:a\n  title: A\n  parents: [page:b]\n- id: page:b\n  title: B\n  parents: [page:a]\n", 2, 3, "in a ring")]
    [InlineData("roles:\n- key: Nope!\n  title: x\n", 2, 8, "not a key")]
    [InlineData("version: 7\n", 1, 10, "version 7")]
    [InlineData("redirects:\n- key: r\n  on: lunch\n  to: /x\n", 3, 7, "sign-in, sign-out")]
    [InlineData("gates:\n- key: g\n  covers: 'path:/account/**'\n  audience: nobody\n", 3, 12, "nobody could come in")]
    [InlineData("joining:\n  way: sometimes\n", 2, 8, "closed, approval")]
    [InlineData("joining:\n  confirm: perhaps\n", 2, 12, "confirm")]
    [InlineData("joining:\n  blocked: [good.example, 'no domain']\n", 2, 12, "no domain")]
    [InlineData("joining:\n  ways: open\n", 2, 3, "Did you mean “way”?")]
    [InlineData("joining: [open]\n", 1, 10, "Names and values")]
    [InlineData("site:\n  name: Hill\n  timeZone: Mars/Olympus\n", 3, 13, "Mars/Olympus")]
    [InlineData("site:\n  page: 'https://elsewhere.example/'\n", 2, 10, "elsewhere.example")]
    [InlineData("look:\n  accent: '#12345'\n", 2, 12, "#12345")]
    [InlineData("look:\n  accent: '#8a5a00'\n  theme: dusk\n", 3, 10, "light, dark, auto")]
    [InlineData("look:\n  css: '.x { position: fixed }'\n", 2, 9, "position")]
    [InlineData("look:\n  colour: red\n", 2, 3, "colour")]
    [InlineData("directory:\n  audience: signed-in and\n", 2, 26, "missing at the end")]
    [InlineData("directory:\n  audience: signed-in\n  fields: [nothing-such]\n", 3, 11, "nothing-such")]
    [InlineData("gates: [\n", 2, 1, "not readable YAML")]
    [InlineData("just words", 1, 1, "must hold the sections")]
    public async Task What_is_wrong_has_its_line_and_column(string text, int lineAt, int column, string words)
    {
        var revision = (await site.Client.StatusAsync(Stop)).Revision;
        var line = await ApplyAsync(text, false, false);
        line.Stage.ShouldBe("failed");
        var fault = line.Difference!.Faults[0];
        fault.Message.ShouldContain(words);
        (fault.Line, fault.Column).ShouldBe((lineAt, column), fault.Message);
        (await site.Client.StatusAsync(Stop)).Revision.ShouldBe(revision);
    }

    [Fact]
    public async Task Site_look_and_joining_change_together_and_an_empty_text_takes_away()
    {
        (await ApplyAsync(
            """
            site: {name: The hill, language: de, page: /visit, element: main}
            look: {accent: '#8a5a00', background: '#0d1620', sky: '#24384d', theme: auto, links: [{address: /shop, words: Shop}]}
            joining: {way: open, first: true}
            """,
            false, false)).Stored.ShouldBeTrue();
        var yaml = await site.Client.ExportAsync(Stop);
        foreach (var said in new[] { "name: The hill", "theme: auto", "way: open", "sky: '#24384d'", "page: /visit", "first: true" })
        {
            yaml.ShouldContain(said);
        }

        (await ApplyAsync(yaml, false, false)).Difference!.IsEmpty.ShouldBeTrue("what a site says of itself changes nothing");
        (await ApplyAsync("site: {page: ''}\nlook: {sky: '', links: []}\njoining: {way: closed, first: false}\n", false, false)).Stored.ShouldBeTrue();
        yaml = await site.Client.ExportAsync(Stop);
        yaml.ShouldNotContain("sky:");
        yaml.ShouldNotContain("page: /visit");
        yaml.ShouldContain("name: The hill");
    }

    [Theory]
    [InlineData("items")]
    [InlineData("nonsense")]
    public async Task Depth_is_refused_in_a_section_that_is_known_and_in_one_that_is_not(string section)
    {
        // The square of such a depth would be hours.
        const int levels = 200_000;
        string[] shapes =
        [
            new string('[', levels), string.Concat(Enumerable.Repeat("{a: ", levels)), string.Concat(Enumerable.Repeat("[{", levels / 2)),
            "\n" + string.Concat(Enumerable.Repeat("- ", levels)) + "x", "\n" + string.Concat(Enumerable.Repeat("? ", levels)) + "x",
            "\n" + string.Join('\n', Enumerable.Range(1, 2000).Select(i => new string(' ', 2 * i) + "a:")),
        ];
        foreach (var shape in shapes)
        {
            var line = await ApplyAsync($"{section}: {shape}\n", false, false);
            line.Stage.ShouldBe("failed");
            line.Difference!.Faults.ShouldContain(f => f.Message.Contains("levels"), string.Join('\n', line.Difference.Faults));
        }
    }

    [Fact]
    public async Task Who_may_join_and_the_directory_travel_in_the_file()
    {
        const string file = """
            fields:
            - {key: town-of-file, label: Town}
            joining:
              way: approval
              blocked: ['@Bulk.Example ', bulk.example]
              trusted: [school.example]
            directory:
              audience: role:dealer
              title: Who is here
              fields: [town-of-file]

            """;
        async Task<Contract.Gates.JoinSettings> JoiningAsync() =>
            (await site.Client.SettingsAsync(Stop)).Value.Deserialize<Contract.Gates.SettingsView>(Contract.ApiJson.Options)!.Joining;
        var before = await JoiningAsync();
        var first = await ApplyAsync(file, false, false);
        first.Difference!.Faults.ShouldBeEmpty();
        (first.Difference.Added, first.Difference.Changed).ShouldBe((2, 1));
        var joining = await JoiningAsync();
        (joining.Way, joining.Confirm, string.Join(',', joining.Blocked!), string.Join(',', joining.Trusted!))
            .ShouldBe(("approval", before.Confirm, "bulk.example", "school.example"));
        (await ApplyAsync(file, false, false)).Difference!.ShouldSatisfyAllConditions(d => (d.Added, d.Changed, d.Same).ShouldBe((0, 0, 3)));
        var whole = await site.Client.ExportAsync(Stop);
        whole.ShouldContain("title: Who is here");
        (await ApplyAsync("directory: {}\njoining: {way: closed, blocked: []}\n", false, false)).Stored.ShouldBeTrue();
        (await site.Client.DirectoryAsync(Stop)).Directory.Audience.ShouldBeNull();
        (await JoiningAsync()).Trusted.ShouldBe(["school.example"]);
        (await ApplyAsync(whole, true, false)).Difference!.ShouldSatisfyAllConditions(d => d.Faults.ShouldBeEmpty(), d => d.Changed.ShouldBe(2));
        (await site.Client.DirectoryAsync(Stop)).Directory.Fields.ShouldBe(["town-of-file"]);
        (await ApplyAsync("joining: {way: closed, blocked: [], trusted: []}\ndirectory: {}\n", false, false)).Stored.ShouldBeTrue();
        (await ApplyAsync("fields: []\n", true, false)).Difference!.Faults.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_file_compared_with_an_older_site_is_not_stored_over_a_newer()
    {
        const string text = "plans:\n- key: gold\n  title: Gold\n";
        var seen = await ApplyAsync(text, false, true);
        seen.Stored.ShouldBeFalse();
        await site.Client.AddFactDefinitionAsync("groups", "others", "Others", Stop);
        var late = await ApplyAsync(text, false, false, seen.Revision);
        late.Stage.ShouldBe("failed");
        late.Detail!.ShouldContain("changed by somebody else");
        (await ApplyAsync(text, false, false, (await ApplyAsync(text, false, true)).Revision)).Stored.ShouldBeTrue();
    }

    [Fact]
    public async Task A_role_that_somebody_holds_is_not_pruned()
    {
        var line = await ApplyAsync("roles: []\n", true, false);
        line.Difference!.Faults.ShouldContain(f => f.Message.Contains("held by 1 members", StringComparison.Ordinal)
            || f.Message.Contains("named by", StringComparison.Ordinal) || f.Message.Contains("still names it", StringComparison.Ordinal));
        line.Stored.ShouldBeFalse();
    }

    [Theory]
    [InlineData("nell@orchard-optics.example", true)]
    [InlineData("nobody@nowhere.example", false)]
    public async Task An_audience_may_name_a_member_who_is_there(string member, bool good)
    {
        var line = await ApplyAsync($"gates:\n- key: own\n  covers: category:books\n  audience: role:dealer or member:{member}\n", false, true);
        line.Difference!.Faults.Count.ShouldBe(good ? 0 : 1, line.Detail);
        using var caller = new Caller(site);
        var (status, _, _) = await caller.AskAsync("POST", "gates/preview", new
        { draft = new { title = "Own", covers = new[] { "category:books" }, audience = $"member:{member}" } });
        status.ShouldBe(good ? HttpStatusCode.OK : HttpStatusCode.UnprocessableEntity);
    }

    [Fact]
    public async Task The_published_schema_knows_the_very_names_that_are_read()
    {
        var schema = JsonSerializer.Deserialize<JsonElement>(await site.Client.SchemaAsync(Stop));
        var properties = schema.GetProperty("properties");
        properties.EnumerateObject().Select(p => p.Name).Order().ShouldBe(SiteFileReader.Known.Keys.Append("version").Order());
        foreach (var (section, names) in SiteFileReader.Known)
        {
            var written = properties.GetProperty(section);
            (written.TryGetProperty("items", out var entry) ? entry : written).GetProperty("properties").EnumerateObject().Select(p => p.Name).Order()
                .ShouldBe(names.Order(), section);
        }

        (await File.ReadAllTextAsync(Path.Combine(RunningSite.Root, "docs", "reference", "site.schema.json"), Stop))
            .ShouldBe(await site.Client.SchemaAsync(Stop));
    }

    [Fact]
    public async Task Items_by_the_thousand_are_applied_at_once()
    {
        var (text, items) = (new StringBuilder("items:\n"), Trials.Of(12_000, 30_000));
        for (var n = 0; n < items; n++)
        {
            text.Append(n < 1000 ? $"- id: category:big-{n}\n  title: Big {n}\n"
                : $"- id: product:big-{n}\n  title: Thing {n}\n  parents: [category:big-{n % 1000}]\n  addresses: [/big/{n}]\n");
        }

        await using var large = await RunningSite.StartAsync();
        var watch = Stopwatch.StartNew();
        var line = await ApplyAsync(text.ToString(), false, false, to: large);
        TestContext.Current.TestOutputHelper?.WriteLine($"{items} items applied in {watch.Elapsed.TotalSeconds:0.0} s");
        line.Difference!.Added.ShouldBe(items);
        line.Difference.MoreChanges.ShouldBe(items - 500);
        (await ApplyAsync(text.ToString(), false, true, to: large)).Difference!.Same.ShouldBe(items);
    }

    [Fact]
    public async Task A_gate_is_undone_over_the_api_and_its_history_read()
    {
        using var caller = new Caller(site);
        var (old, tag) = await site.Client.GateAsync("dealer-stock", Stop);
        await site.Client.SetGateAsync("dealer-stock", GateDraft.Of(old) with { Audience = "nobody", Presence = "listed" }, tag!, Stop);
        var last = (await site.Client.HistoryAsync("dealer-stock", 5, Stop))[0];
        last.Changes.Select(c => c.Field).ShouldBe(["audience", "presence"]);
        last.By.ShouldContain(RunningSite.Owner);
        (await site.Client.UndoGateAsync("dealer-stock", Stop))!.Audience.ShouldBe(old.Audience);
        await site.Client.RemoveGateAsync("dealer-stock", "*", Stop);
        (await site.Client.UndoGateAsync("dealer-stock", Stop))!.Audience.ShouldBe(old.Audience);
        await caller.RefusedAsync(HttpStatusCode.NotFound, "nothing-to-undo", "POST", "gates/never-there/undo");
    }

    [Fact]
    public async Task Redirects_say_where_people_land()
    {
        using var caller = new Caller(site);
        await caller.RefusedAsync(HttpStatusCode.UnprocessableEntity, "redirect-invalid", "PUT", "redirects/x", new
        { on = "sign-in", audience = "role:dealer", to = "https://evil.example/" });
        await site.Client.PutRedirectAsync("trade", "sign-in", "role:dealer", "/shop/dealer-stock", 1, Stop);
        await site.Client.PutRedirectAsync("bye", "sign-out", "anyone", "/visit", 1, Stop);
        using var nell = site.NewBrowser();
        (await nell.FillAsync("/account/sign-in", "/account/sign-in", ("name", "nell"), ("password", "orchard-quiet-91"))).Headers.Location!.ToString()
            .ShouldBe("/shop/dealer-stock");
        (await nell.FillAsync("/account/", "/account/sign-out")).Headers.Location!.ToString().ShouldBe("/visit");
        (await nell.SignInAsync("nell", "orchard-quiet-91", "/shop")).Headers.Location!.ToString().ShouldBe("/shop");
        await site.Client.RemoveRedirectAsync("trade", Stop);
        await caller.RefusedAsync(HttpStatusCode.NotFound, "redirect-unknown", "DELETE", "redirects/trade");
    }

    private async Task<ApplyLine> ApplyAsync(string text, bool prune, bool dryRun, long? revision = null, RunningSite? to = null)
    {
        using var file = new MemoryStream(Encoding.UTF8.GetBytes(text));
        return await (to ?? site).Client.ApplyAsync(file, prune, dryRun, revision, Stop).LastAsync(Stop);
    }
}
