using System.Net;
using System.Text;
using System.Text.Json;
using Microsoft.Data.Sqlite;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;
using Shouldly;
using WarySentinel.Contract.Hosted;
using WarySentinel.Service.Access;
using WarySentinel.Service.Tests.Nodes;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Hosted;

/// <summary>Pages that are written here, as visitors get them; on one machine with SQLite, and on the second of two with PostgreSQL.</summary>
public abstract class HostedPagesOn
{
    private int made;

    protected static CancellationToken Stop => TestContext.Current.CancellationToken;

    protected abstract RunningSite Site { get; }

    /// <summary>Where visitors ask; the machine that is not written to, where there are two.</summary>
    protected abstract string Asked { get; }

    /// <summary>Waits until the machine that visitors ask has heard of everything.</summary>
    protected abstract Task HeardAsync();

    [Fact]
    public async Task What_a_page_says_to_some_is_in_no_answer_that_others_get_whoever_asked_before()
    {
        var section = await SectionAsync();
        await PublishAsync(section, "blocks", """
            Said to all.

            ```
            ::: for role:dealer
            For dealers, [x]: by a hand that forgot its fence.
            ::: for guest
            Nobody is a dealer and a guest.
            :::
            ::: otherwise
            For everybody else.
            :::

            - ordinary [link](/shop/dealer-stock) and [another](/shop/books)
            """);
        using var guest = new Browser(Asked);
        using var dealer = await SignedInAsync("nell", "orchard-quiet-91");
        using var member = await SignedInAsync("pia@lanternlane.example", "lantern-lane-12");
        var (random, browsers) = (new Random(5), new[] { guest, dealer, member });
        for (var trial = 0; trial < 60; trial++)
        {
            var who = random.Next(3);
            var page = await browsers[who].PageAsync($"/{section}/blocks{(random.Next(2) == 0 ? "" : "?x=" + trial)}");
            page.ShouldContain("Said to all.");
            page.Contains("For dealers", StringComparison.Ordinal).ShouldBe(who == 1);
            page.Contains("For everybody else", StringComparison.Ordinal).ShouldBe(who != 1);
            page.ShouldNotContain("Nobody is a dealer");
            page.ShouldNotContain(":::");
        }
    }

    [Fact]
    public async Task A_page_speaks_the_language_of_its_reader_and_is_found_in_it()
    {
        var section = await SectionAsync();
        await PublishAsync(section, "tongues", $"""
            ::: in de
            Der Meridian {section}.
            ::: for role:dealer
            Der Quadrant {section}.
            :::
            ::: otherwise
            The almanac {section}.
            :::
            """);
        using var caller = new Caller(Site);
        var words = new Dictionary<string, string> { [$"item:page:tongues{section}.title"] = "Zungen " + section };
        (await caller.AskAsync("PATCH", "texts/de", new { words }, "*")).Status.ShouldBe(HttpStatusCode.OK);
        await HeardAsync();
        using var guest = new Browser(Asked);
        using var dealer = await SignedInAsync("nell", "orchard-quiet-91");
        async Task<string> InAsync(Browser by, string tongue, string path)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, Asked + path) { Headers = { { "Accept-Language", tongue } } };
            using var answer = await by.SendAsync(request);
            return await answer.Content.ReadAsStringAsync(Stop);
        }

        var at = $"/{section}/tongues";
        for (var again = 0; again < 2; again++)
        {
            var (german, english) = (await InAsync(guest, "de-AT,en;q=0.5", at), await InAsync(guest, "en", at));
            german.ShouldContain("Der Meridian");
            german.ShouldContain($"<h1>Zungen {section}</h1>");
            german.ShouldNotContain("almanac");
            german.ShouldNotContain("Quadrant");
            english.ShouldContain("The almanac");
            english.ShouldContain("<h1>Page tongues</h1>");
            english.ShouldNotContain("Meridian");
            (await InAsync(dealer, "de", at)).ShouldContain("Der Quadrant");
            (await InAsync(dealer, "fr", at)).ShouldContain("The almanac");
        }

        async Task FindsAsync(Browser by, string tongue, string asked, bool finds) =>
            (await InAsync(by, tongue, "/account/search?q=" + Uri.EscapeDataString($"{asked} {section}")))
                .Contains($"href=\"{at}\"", StringComparison.Ordinal).ShouldBe(finds, $"{asked} in {tongue}");
        await FindsAsync(guest, "de", "Meridian", true);
        await FindsAsync(guest, "de", "Zungen", true);
        await FindsAsync(guest, "en", "Meridian", false);
        await FindsAsync(guest, "en", "Zungen", false);
        await FindsAsync(guest, "en", "almanac", true);
        await FindsAsync(guest, "de", "almanac", false);
        await FindsAsync(guest, "de", "Quadrant", false);
        await FindsAsync(dealer, "de", "Quadrant", true);
        await FindsAsync(dealer, "en", "Quadrant", false);
    }

    [Fact]
    public async Task What_is_written_here_goes_by_its_own_door_and_no_other()
    {
        var section = await SectionAsync();
        await PublishAsync(section, "held", "Here to stay.");
        using var caller = new Caller(Site);
        foreach (var item in new[] { $"page:held{section}", $"section:{section}" })
        {
            (await caller.AskAsync("DELETE", "items/" + item, null, "*")).Status.ShouldBe(HttpStatusCode.Conflict, item);
        }

        // Nor where a site file would have everything go that it does not name.
        var last = new Contract.SiteFile.ApplyLine("", 0, 0);
        await foreach (var line in Site.Client.ApplyAsync(new MemoryStream(Encoding.UTF8.GetBytes("items: []\n")), true, true, null, Stop))
        {
            last = line;
        }

        last.Difference!.Changes.ShouldNotContain(c => c.Section == "items" && c.Key == $"page:held{section}");
        last.Difference.Kept.ShouldContain(k => k.Contains("held" + section, StringComparison.Ordinal));
        using var guest = new Browser(Asked);
        (await guest.PageAsync($"/{section}/held")).ShouldContain("Here to stay.");
    }

    [Fact]
    public async Task A_picture_keeps_its_place_on_the_page()
    {
        var section = await SectionAsync();
        using var caller = new Caller(Site);
        await PublishAsync(section, "pictured", "![A map](map.svg) ![None](none.png)");
        using var http = new HttpClient();
        using var put = new HttpRequestMessage(HttpMethod.Put, $"{Site.Admin}/api/v1/pages/pictured{section}/files/map.svg")
        {
            Content = new StringContent("<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 320 200'/>", Encoding.UTF8, "application/octet-stream"),
            Headers = { Authorization = new("Bearer", Site.Token) },
        };
        (await http.SendAsync(put, Stop)).EnsureSuccessStatusCode();
        await HeardAsync();
        using var guest = new Browser(Asked);
        var page = await guest.PageAsync($"/{section}/pictured");
        page.ShouldContain("width=\"320\" height=\"200\"");
        page.ShouldContain("none.png\" alt=\"None\"");
    }

    [Fact]
    public async Task A_link_to_what_is_hidden_goes_and_forms_are_the_visitor_s_own()
    {
        var section = await SectionAsync();
        await PublishAsync(
            section, "links", "[Open](/shop/books)\n\n- [Stock](/shop/dealer-stock)\n- [Books](page:links)\n\n::: form sign-in\n\n::: form search\n");
        using var guest = new Browser(Asked);
        using var dealer = await SignedInAsync("nell", "orchard-quiet-91");
        for (var again = 0; again < 3; again++)
        {
            var (to, them) = (await guest.PageAsync($"/{section}/links"), await dealer.PageAsync($"/{section}/links"));
            (to.Contains("dealer-stock", StringComparison.Ordinal), them.Contains("dealer-stock", StringComparison.Ordinal)).ShouldBe((false, true));
            (to.Contains("wary-sign-in", StringComparison.Ordinal), them.Contains("wary-sign-out", StringComparison.Ordinal)).ShouldBe((true, true));
            to.ShouldContain($"href=\"/{section}/links\"");
        }
    }

    [Fact]
    public async Task A_file_is_given_to_whoever_may_see_a_place_that_names_it()
    {
        var section = await SectionAsync();
        await PublishAsync(section, "files", "![Chart](chart.svg)\n\n::: for role:dealer\n[Prices](prices.csv)\n:::\n");
        foreach (var (name, content) in new[] { ("chart.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\"/>"), ("prices.csv", "a;b"), ("spare.txt", "spare") })
        {
            await using var file = new MemoryStream(Encoding.UTF8.GetBytes(content));
            await Site.Client.PutPageFileAsync("files" + section, name, file, Stop);
        }

        await HeardAsync();
        using var guest = new Browser(Asked);
        using var dealer = await SignedInAsync("nell", "orchard-quiet-91");
        var at = $"/sentinel/pages/files{section}/";
        (await guest.PageAsync($"/{section}/files")).ShouldContain($"src=\"{at}chart.svg\"");
        (await guest.StatusAsync(at + "chart.svg")).ShouldBe(HttpStatusCode.OK);
        (await guest.StatusAsync(at + "prices.csv")).ShouldBe(HttpStatusCode.NotFound);
        (await dealer.StatusAsync(at + "prices.csv")).ShouldBe(HttpStatusCode.OK);
        (await dealer.StatusAsync(at + "spare.txt")).ShouldBe(HttpStatusCode.NotFound);
        using (var chart = await guest.GetAsync(at + "chart.svg"))
        {
            chart.Headers.GetValues("Content-Security-Policy").Single().ShouldContain("sandbox");
            chart.Headers.CacheControl!.ToString().ShouldContain("no-store");
        }

        await Site.Client.GuardPageAsync("files" + section, "role:dealer", Stop);
        await HeardAsync();
        (await guest.StatusAsync(at + "chart.svg")).ShouldBe(HttpStatusCode.Unauthorized);
        (await guest.StatusAsync($"/{section}/files")).ShouldBe(HttpStatusCode.Unauthorized);
        (await dealer.StatusAsync(at + "chart.svg")).ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task A_search_finds_by_what_one_may_read_and_never_tells_of_the_rest()
    {
        var section = await SectionAsync();
        await PublishAsync(section, "open", $"The meridian transit {section}.\n\n::: for role:dealer\nWholesale quadrant {section}.\n:::\n");
        await PublishAsync(section, "closed", $"A quadrant of the meridian {section}.");
        await Site.Client.GuardPageAsync("closed" + section, "role:guide", Stop);
        await HeardAsync();
        using var guest = new Browser(Asked);
        using var dealer = await SignedInAsync("nell", "orchard-quiet-91");
        async Task<string> SearchAsync(Browser by, string words) => await by.PageAsync("/account/search?q=" + Uri.EscapeDataString(words));
        (await SearchAsync(guest, "merid " + section)).ShouldContain($"href=\"/{section}/open\"");
        (await SearchAsync(guest, "MÉRIDIAN " + section)).ShouldNotContain($"/{section}/closed");
        (await SearchAsync(guest, "quadrant " + section)).ShouldNotContain($"/{section}/");
        (await SearchAsync(guest, "meridian quadrant " + section)).ShouldNotContain($"/{section}/");
        (await SearchAsync(dealer, "meridian quadrant " + section)).ShouldContain($"href=\"/{section}/open\"");
        (await SearchAsync(dealer, "wholesale " + section)).ShouldNotContain($"/{section}/closed");
        foreach (var odd in new[] { "\"", "'", "*", "a* OR b", "':*", "\"x\" NEAR/2", "\\", "%", "__", "天", "\0", "💫", new string('x', 300), "" })
        {
            using var answer = await guest.GetAsync("/account/search?q=" + Uri.EscapeDataString(odd));
            ((int)answer.StatusCode).ShouldBeOneOf(200, 400);
        }
    }

    [Fact]
    public async Task What_is_written_is_nobody_s_until_it_is_published_and_what_was_comes_back()
    {
        var section = await SectionAsync();
        var key = "life" + section;
        await Site.Client.AddPageAsync(new HostedPageNew(section, "Life", key, $"/{section}/life", null, "first words"), Stop);
        await HeardAsync();
        using var guest = new Browser(Asked);
        (await guest.StatusAsync($"/{section}/life")).ShouldBe(HttpStatusCode.NotFound);
        await Site.Client.PublishPageAsync(key, new PublishDraft(), Stop);
        await HeardAsync();
        (await guest.PageAsync($"/{section}/life")).ShouldContain("first words");
        await Site.Client.WritePageAsync(key, new HostedTextDraft("Life", "second words"), Stop);
        (await guest.PageAsync($"/{section}/life")).ShouldNotContain("second words");
        await Site.Client.PublishPageAsync(key, new PublishDraft(), Stop);
        await HeardAsync();
        (await guest.PageAsync($"/{section}/life")).ShouldContain("second words");
        var difference = await Site.Client.PageDifferenceAsync(key, "1", "2", Stop);
        difference.Lines.Where(l => l.Mark != " ").Select(l => l.Mark + l.Text).ShouldBe(["-first words", "+second words"]);
        await Site.Client.RestorePageAsync(key, 1, Stop);
        await Site.Client.PublishPageAsync(key, new PublishDraft(), Stop);
        await HeardAsync();
        (await guest.PageAsync($"/{section}/life")).ShouldContain("first words");
        (await Site.Client.PageVersionsAsync(key, Stop)).Select(v => (v.Number, v.Served)).ShouldBe([(3, true), (2, false), (1, false)]);
        await Site.Client.UnpublishPageAsync(key, Stop);
        await HeardAsync();
        (await guest.StatusAsync($"/{section}/life")).ShouldBe(HttpStatusCode.NotFound);
    }

    [Fact]
    public async Task Twenty_who_publish_at_once_make_twenty_versions_and_only_one_writes_over_a_draft_that_it_saw()
    {
        var section = await SectionAsync();
        await PublishAsync(section, "race", "version one");
        var key = "race" + section;
        await Task.WhenAll(Enumerable.Range(0, 20).Select(
            n => Site.Client.PublishPageAsync(key, new PublishDraft(null, new HostedTextDraft("Race", $"words {n}")), Stop)));
        (await Site.Client.PageVersionsAsync(key, Stop)).Select(v => v.Number).ShouldBe(Enumerable.Range(1, 21).Reverse());
        using var caller = new Caller(Site);
        var answers = await Task.WhenAll(Enumerable.Range(0, 10).Select(
            n => caller.AskAsync("PUT", $"pages/{key}/text", new HostedTextDraft("Race", $"draft {n}"), "\"0\"")));
        answers.Count(a => a.Status == HttpStatusCode.OK).ShouldBe(1);
        answers.Count(a => a.Status == HttpStatusCode.PreconditionFailed).ShouldBe(9);
        await caller.RefusedAsync(
            HttpStatusCode.PreconditionFailed, "stale", "POST", $"pages/{key}/publish", new PublishDraft(null, new HostedTextDraft("R", "x"), 3));
    }

    protected async Task<string> SectionAsync()
    {
        var key = $"s{Interlocked.Increment(ref made)}{Guid.NewGuid():N}"[..10];
        await Site.Client.PutSectionAsync(key, new HostedSectionDraft("Section " + key, "/" + key), Stop);
        return key;
    }

    protected async Task PublishAsync(string section, string name, string text)
    {
        await Site.Client.AddPageAsync(new HostedPageNew(section, "Page " + name, name + section, $"/{section}/{name}", null, text.Replace("page:" + name,
            $"page:{name}{section}", StringComparison.Ordinal)), Stop);
        await Site.Client.PublishPageAsync(name + section, new PublishDraft(), Stop);
        await HeardAsync();
    }

    private async Task<Browser> SignedInAsync(string name, string password)
    {
        var browser = new Browser(Asked);
        using var answer = await browser.SignInAsync(name, password);
        answer.StatusCode.ShouldBe(HttpStatusCode.SeeOther);
        return browser;
    }
}

/// <summary>On one machine with SQLite.</summary>
public sealed class HostedPagesTests(SiteFixture fixture) : HostedPagesOn, IClassFixture<SiteFixture>
{
    protected override RunningSite Site => fixture.Site;

    protected override string Asked => fixture.Site.Site;

    protected override Task HeardAsync() => Task.CompletedTask;

    [Theory]
    [InlineData("{% if page %}", "template-syntax", 1)]
    [InlineData("{{ content }}{{ page.titel }}", "template-variable", 1)]
    [InlineData("<main>\n{{ page.title }}</main>", "page-template-content", null)]
    [InlineData("{{ content }}<script src=x></script>", "page-template-element", null)]
    [InlineData("{{ content }}<p onclick=\"x\">", "page-template-attribute", null)]
    [InlineData("{% for a in (1..99999) %}{{ content }}{% endfor %}", "template-tag", 1)]
    public async Task A_layout_that_would_not_do_is_refused_with_its_place(string template, string code, int? line)
    {
        using var caller = new Caller(Site);
        var problem = await caller.RefusedAsync(HttpStatusCode.UnprocessableEntity, "page-invalid", "PUT", "sections/laid", new HostedSectionDraft(
            "Laid", "/laid", null, "own", template), "*");
        var fault = problem.GetProperty("errors")[0];
        fault.GetProperty("field").GetString().ShouldBe("template");
        (fault.TryGetProperty("line", out var at) && at.ValueKind == JsonValueKind.Number ? at.GetInt32() : (int?)null).ShouldBe(line, code);
    }

    [Fact]
    public async Task A_layout_of_one_s_own_holds_the_page_and_its_words_are_encoded()
    {
        await Site.Client.PutSectionAsync("own", new HostedSectionDraft(
            "Own <b>", "/own", null, "own", "<main><h1>{{ page.title }}</h1>{{ section.title }}<div>{{ content }}</div></main>"), Stop);
        await Site.Client.AddPageAsync(new HostedPageNew("own", "A <i>title</i>", "titled", null, null, "*words* <script>alert(1)</script>"), Stop);
        await Site.Client.PublishPageAsync("titled", new PublishDraft(), Stop);
        using var guest = new Browser(Asked);
        var page = await guest.PageAsync("/own/titled");
        page.ShouldContain("<h1>A &lt;i&gt;title&lt;/i&gt;</h1>Own &lt;b&gt;<div><p><em>words</em> &lt;script&gt;");
        (await guest.PageAsync("/own")).ShouldContain("href=\"/own/titled\"");
        using var post = await guest.PostAsync("/own/titled", ("a", "b"));
        post.StatusCode.ShouldBe(HttpStatusCode.MethodNotAllowed);
    }

    [Fact]
    public async Task A_new_name_of_a_role_holds_in_pages_that_were_published_before()
    {
        var section = await SectionAsync();
        await Site.Client.AddFactDefinitionAsync("roles", "wardens", "Wardens", Stop);
        await PublishAsync(section, "named", "::: for role:wardens\nfor wardens\n::: otherwise\nfor others\n:::\n");
        using var caller = new Caller(Site);
        (await caller.AskAsync("POST", "roles/wardens/rename", new { to = "porters" })).Status.ShouldBe(HttpStatusCode.OK);
        using var guest = new Browser(Asked);
        (await guest.PageAsync($"/{section}/named")).ShouldContain("for others");
        await Site.Client.AddMemberAsync("porter@hill.example", "Porter", null, "up-the-hill-at-nine", ["porters"], [], [], Stop);
        using var porter = new Browser(Asked);
        (await porter.SignInAsync("porter@hill.example", "up-the-hill-at-nine")).Dispose();
        (await porter.PageAsync($"/{section}/named")).ShouldContain("for wardens");
    }

    [Fact]
    public async Task A_page_that_is_published_for_later_is_served_from_then_on_and_not_before()
    {
        var clock = new FakeTimeProvider(DateTimeOffset.UtcNow);
        await using var site = await RunningSite.StartAsync(time: clock);
        await site.Client.PutSectionAsync("timed", new HostedSectionDraft("Timed", "/timed"), Stop);
        await site.Client.AddPageAsync(new HostedPageNew("timed", "News", "news", null, null, "old news"), Stop);
        await site.Client.PublishPageAsync("news", new PublishDraft(), Stop);
        await site.Client.PublishPageAsync("news", new PublishDraft(
            clock.GetUtcNow().AddHours(2).ToString("O"), new HostedTextDraft("Fresh news", "fresh words")), Stop);
        using var guest = site.NewBrowser();
        (await guest.PageAsync("/timed/news")).ShouldContain("old news");
        (await guest.PageAsync("/account/search?q=fresh")).ShouldNotContain("/timed/news");
        clock.Advance(TimeSpan.FromHours(3));
        (await guest.PageAsync("/timed/news")).ShouldContain("fresh words");
        (await guest.PageAsync("/account/search?q=fresh")).ShouldContain("/timed/news");
        (await guest.PageAsync("/timed")).ShouldContain("Fresh news");
    }

    [Theory]
    [InlineData("UPDATE hosted_pages SET Body='{' WHERE Key='kept'", "hosted-page")]
    [InlineData("UPDATE hosted_pages SET Body='{\"Title\":\"T\","
        + "\"Now\":{\"Number\":1,\"From\":\"2020-01-01T00:00:00Z\",\"Title\":\"T\",\"Asks\":[\"role:\"]}}' "
        + "WHERE Key='kept'", "hosted-page")]
    [InlineData("UPDATE sections SET Body='[]' WHERE Key='rows'", "section")]
    [InlineData("UPDATE page_versions SET Text='::: for role:dealer' WHERE Page='kept'", null)]
    [InlineData("DELETE FROM page_versions WHERE Page='kept'", null)]
    public async Task What_is_stored_and_cannot_be_read_shows_nothing_and_keeps_nothing_from_starting(string change, string? fault)
    {
        await using var site = await RunningSite.StartAsync();
        await site.Client.PutSectionAsync("rows", new HostedSectionDraft("Rows", "/rows"), Stop);
        await site.Client.AddPageAsync(new HostedPageNew("rows", "Kept", "kept", null, null, "::: for role:dealer\nsecret words\n:::\n"), Stop);
        await site.Client.PublishPageAsync("kept", new PublishDraft(), Stop);
        await using (var database = new SqliteConnection($"Data Source={site.Data}/sentinel.db"))
        {
            await database.OpenAsync(Stop);
            await using var command = new SqliteCommand(change, database);
            (await command.ExecuteNonQueryAsync(Stop)).ShouldBe(1);
        }

        await site.RestartAsync();
        using var guest = site.NewBrowser();
        (await guest.PageAsync("/rows/kept")).ShouldNotContain("secret words");
        (await guest.StatusAsync("/rows/kept")).ShouldBe(fault == "section" ? HttpStatusCode.OK : HttpStatusCode.NotFound);
        site.Services.GetRequiredService<PolicyHolder>().Faults.Select(f => f.Kind).ShouldBe(fault is null ? [] : [fault]);
    }
}

/// <summary>On the second of two machines with PostgreSQL; what is written is written to the first.</summary>
public sealed class HostedPagesOnPostgresTests(TwoMachines machines) : HostedPagesOn, IClassFixture<TwoMachines>
{
    protected override RunningSite Site => machines.First;

    protected override string Asked => machines.Second;

    protected override async Task HeardAsync()
    {
        var (first, second) = (machines.First.Services.GetRequiredService<PolicyHolder>(), machines.SecondServices.GetRequiredService<PolicyHolder>());
        for (var tries = 0; second.Revision != first.Revision && tries < 400; tries++)
        {
            await Task.Delay(5, Stop);
        }

        second.Revision.ShouldBe(first.Revision);
    }
}
