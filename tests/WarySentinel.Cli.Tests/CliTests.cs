using System.Text.Json;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Cli.Tests;

/// <summary>The command line, as a process.</summary>
public sealed partial class CliTests(CliFixture fixture) : OnCli(fixture)
{
    [Fact]
    public async Task Yes_and_no_are_told_by_the_exit_code()
    {
        (await RunAsync("may", "guest", "open", "product:fern-25")).Exit.ShouldBe(0);
        (await RunAsync("may", "guest", "open", "product:case-fern-40")).Exit.ShouldBe(1);
        (await RunAsync("may", "nell@orchard-optics.example", "open", "/shop/dealer-stock")).Exit.ShouldBe(0);
    }

    [Fact]
    public async Task What_members_hold_is_given_dated_and_ended()
    {
        const string pia = "pia@lanternlane.example";
        (await RunAsync("grant", "give", pia, "plan:patron", "--until", "2030-05-03", "--source", "order:4711"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("Gave plan:patron"));
        (await RunAsync("grant", "give", pia, "plan:patron", "--source", "order:4711")).Out.ShouldContain("Nothing changed");
        (await RunAsync("grant", "set", pia, "plan:patron", "--until", "2031-01-01")).Out.ShouldContain("2031-01");
        (await RunAsync("grant", "list", pia)).Out.ShouldSatisfyAllConditions(o => o.ShouldContain("order:4711"), o => o.ShouldContain("in force"));
        (await RunAsync("grant", "end", pia, "plan:patron")).Out.ShouldContain("Ended");
        (await RunAsync("grant", "end", pia, "plan:night-pass")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(3), r => r.Error.ShouldContain("no grant"));
        (await RunAsync("grant", "give", pia, "role:deeler")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("dealer"));
        (await RunAsync("member", "show", pia)).Out.ShouldNotContain("patron");
        (await RunAsync("letter", "list")).Exit.ShouldBe(0);
        (await RunAsync("letter", "drop", Guid.NewGuid().ToString())).Exit.ShouldBe(3);
    }

    [Fact]
    public async Task A_plan_has_a_length_that_is_said_changed_and_taken_away()
    {
        (await RunAsync("plan", "add", "moon-pass", "--title", "Moon pass", "--length", "P1M")).Exit.ShouldBe(0);
        (await RunAsync("plan", "list")).Out.ShouldContain("P1M");
        (await RunAsync("plan", "set", "moon-pass", "--title", "Pass by the moon")).Exit.ShouldBe(0);
        (await RunAsync("plan", "show", "moon-pass")).Out.ShouldContain("lasts P1M");
        (await RunAsync("plan", "set", "moon-pass", "--length", "a while"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("P30D"));
        (await RunAsync("plan", "set", "moon-pass", "--length", "none")).Exit.ShouldBe(0);
        (await RunAsync("plan", "show", "moon-pass")).Out.ShouldNotContain("lasts");
        (await RunAsync("plan", "remove", "moon-pass")).Exit.ShouldBe(0);
    }

    [Fact]
    public async Task An_organisation_is_given_what_its_people_hold()
    {
        const string pia = "pia@lanternlane.example";
        (await RunAsync("organisation", "add", "brook", "--title", "Brook School", "--seats", "2", "--give", "role:guide", "--until", "2090-01-31"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("0 of 2 taken"), r => r.Out.ShouldContain("2090-01-31"));
        (await RunAsync("organisation", "add", "brook", "--title", "Again")).Exit.ShouldBe(4);
        (await RunAsync("organisation", "join", "brook", pia, "--manager")).Out.ShouldContain("manager");
        (await RunAsync("member", "show", pia)).Out.ShouldSatisfyAllConditions(o => o.ShouldContain("Brook School"), o => o.ShouldContain("role:guide"));
        (await RunAsync("organisation", "invite", "brook", "Lou@Brook.example")).Out.ShouldContain("lou@brook.example");
        (await RunAsync("organisation", "invite", "brook", "more@brook.example"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(4), r => r.Error.ShouldContain("all 2 of its seats"));
        (await RunAsync("organisation", "remind", "brook", "lou@brook.example")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldNotBe(0), r => r.Error.ShouldContain("a moment ago"));
        (await RunAsync("organisation", "withdraw", "brook", "LOU@brook.example")).Exit.ShouldBe(0);
        (await RunAsync("organisation", "withdraw", "brook", "lou@brook.example")).Exit.ShouldBe(3);
        (await RunAsync("organisation", "give", "brook", "plan:patron", "--until", "2089-12-31")).Out.ShouldContain("plan:patron, until 2089-12-31");
        (await RunAsync("organisation", "take", "brook", "role:guide")).Exit.ShouldBe(0);
        (await RunAsync("organisation", "take", "brook", "role:guide")).Exit.ShouldBe(3);
        (await RunAsync("grant", "list", pia)).Out.ShouldContain("organisation:brook");
        (await RunAsync("organisation", "set", "brook", "--seats", "9", "--until", "none")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("1 of 9"), o => o.ShouldContain("for good"), o => o.ShouldContain("plan:patron"));
        (await RunAsync("organisation", "list", "--search", "BROOK")).Out.ShouldContain("Brook School");
        (await RunAsync("organisation", "end", "brook")).Out.ShouldContain("ended");
        (await RunAsync("organisation", "leave", "brook", pia)).Exit.ShouldBe(0);
        (await RunAsync("organisation", "remove", "brook", "--yes")).Exit.ShouldBe(0);
        (await RunAsync("organisation", "show", "brook")).Exit.ShouldBe(3);
    }

    [Fact]
    public async Task A_site_that_moves_while_a_file_is_applied_is_compared_once_more()
    {
        var folder = Directory.CreateTempSubdirectory("wary-apply-").FullName;
        var file = Path.Combine(folder, "moved.yaml");
        using var end = new CancellationTokenSource();
        // Somebody who changes the site all the time.
        var moving = Task.Run(async () =>
        {
            for (var n = 0; !end.IsCancellationRequested; n++)
            {
                await site.Client.PutRedirectAsync("restless", "sign-in", "role:guide", "/visit?" + n, 10, CancellationToken.None);
            }
        });
        for (var round = 0; round < 4; round++)
        {
            await File.WriteAllTextAsync(file, $"version: 1\nroles:\n  - key: moved\n    title: Moved {round}\n");
            var (exit, said, error) = await RunAsync("apply", file, "--yes");
            // It is stored, or at last it is said that it was not: never stored over something unseen, never half.
            (exit == 0 ? said.Contains("Stored.", StringComparison.Ordinal) : exit == 4 && error.Contains("changed by somebody else", StringComparison.Ordinal))
                .ShouldBeTrue($"{exit} {said} {error}");
        }

        await end.CancelAsync();
        await moving;
        (await RunAsync("apply", file, "--yes")).Exit.ShouldBe(0);
        (await RunAsync("role", "list")).Out.ShouldContain("Moved 3");
        (await RunAsync("redirect", "remove", "restless")).Exit.ShouldBe(0);
        (await RunAsync("role", "remove", "moved")).Exit.ShouldBe(0);
        Directory.Delete(folder, true);
    }

    [Fact]
    public async Task Each_kind_of_failure_has_its_exit_code()
    {
        (await RunAsync("gate", "add", "--title", "X", "--covers", "category:none", "--audience", "signed-in")).Exit.ShouldBe(2);
        (await RunAsync("may", "guest", "open")).Exit.ShouldBe(2);
        (await RunAsync("gate", "show", "dealer-stok")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(3), r => r.Error.ShouldContain("dealer-stok"));
        (await RunAsync("role", "add", "dealer")).Exit.ShouldBe(4);
        (await RunAsync("--url", "http://127.0.0.1:1", "status"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(5), r => r.Error.ShouldContain("does not answer"));
        (await RunAsync("--token", "wrong", "status")).Exit.ShouldBe(2);
    }

    [Fact]
    public async Task Questions_of_a_file_are_answered_beside_each()
    {
        var csv = Path.Combine(Path.GetTempPath(), Guid.NewGuid().ToString("N") + ".csv");
        await File.WriteAllTextAsync(csv,
            "visitor,act,item\nguest,open,product:fern-25\nguest,open,category:dealer-stock\n\"role:dealer,group:institutions\",open,/shop/dealer-stock\n");
        var answers = await RunAsync("may", "--from", csv);
        answers.Exit.ShouldBe(1);
        answers.Out.ReplaceLineEndings("\n")
            .ShouldBe("line,visitor,act,what,at,allowed,answer,gate,problem\n2,guest,open,product:fern-25,,yes,,,\n"
                + "3,guest,open,category:dealer-stock,,no,sign-in,dealer-stock,\n4,\"role:dealer,group:institutions\",open,/shop/dealer-stock,,yes,,,\n");
        await File.WriteAllTextAsync(csv, "visitor,act,item\nguest,open,product:none\n");
        (await RunAsync("may", "--from", csv)).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Out.ShouldContain("There is no item"));
        (await RunAsync("may", "--from", csv + ".none")).Exit.ShouldBe(2);
        File.Delete(csv);
        (await RunAsync("may", "guest", "open", "shop/dealer-stock")).Exit.ShouldBe(1);
        (await RunAsync("may", "guest", "open", site.Site + "/shop/dealer-stock")).Exit.ShouldBe(1);
        (await RunAsync("may", "guest", "open", "https://elsewhere.example/x"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("not an address of this site"));
    }

    [Fact]
    public async Task A_member_is_suspended_and_let_back_in()
    {
        (await RunAsync("member", "suspend", "pia@lanternlane.example")).Out.ShouldContain("suspended");
        (await RunAsync("may", "pia@lanternlane.example", "open", "section:members")).Exit.ShouldBe(1);
        (await RunAsync("member", "reinstate", "pia@lanternlane.example")).Out.ShouldContain("active");
        (await RunAsync("may", "pia@lanternlane.example", "open", "section:members")).Exit.ShouldBe(0);
    }

    [Fact]
    public async Task What_removing_an_item_opens_is_shown_before_it_takes_a_yes()
    {
        var shown = await RunAsync("item", "remove", "product:barlow-boxed");
        shown.Exit.ShouldBe(1);
        shown.Out.ShouldContain("/product/barlow-boxed hidden → open to Guest");
        shown.Out.ShouldContain("Nothing was removed.");
        (await RunAsync("item", "show", "product:barlow-boxed")).Exit.ShouldBe(0);
        (await RunAsync("item", "add", "page:short", "--title", "Short-lived")).Exit.ShouldBe(0);
        (await RunAsync("item", "remove", "page:short")).Out.ShouldContain("Removed Short-lived");
        (await RunAsync("item", "show", "page:short")).Exit.ShouldBe(3);
    }

    [Fact]
    public async Task A_day_means_that_whole_day_in_the_site_s_zone()
    {
        (await RunAsync("gate", "add", "--key", "dated", "--title", "Dated", "--covers", "category:mounts", "--audience", "signed-in", "--from",
            "2026-05-01", "--until", "2026-05-03")).Out.ShouldContain("From 1 May 2026 until 3 May 2026");
        JsonDocument.Parse((await RunAsync("gate", "show", "dated", "--json")).Out).RootElement.GetProperty("until").GetDateTimeOffset()
            .ShouldBe(new DateTimeOffset(2026, 5, 4, 0, 0, 0, TimeSpan.Zero));
        (await RunAsync("gate", "set", "dated", "--until", "soon"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("neither a day"));
        (await RunAsync("gate", "remove", "dated")).Exit.ShouldBe(0);
        (await RunAsync("status")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain(" members"));
    }

    [Fact]
    public async Task Why_reads_like_an_explanation()
    {
        var why = await RunAsync("why", "guest", "open", "product:barlow-boxed");
        why.Exit.ShouldBe(1);
        why.Out.ShouldContain("A guest may not open Barlow lens, boxed, and doesn’t see it listed.");
        why.Out.ShouldContain("by way of Dealer eyepieces › Dealer stock.");
        why.Out.ShouldContain("What would open it");
        why.Out.ShouldNotContain("\u001b[");
    }

    [Fact]
    public async Task A_gate_lives_its_life()
    {
        (await RunAsync("gate", "add", "--key", "night", "--title", "Night comfort", "--covers", "category:comfort", "--audience", "signed-in",
            "--preview")).Out.ShouldContain("Nothing is saved.");
        (await RunAsync("gate", "add", "--key", "night", "--title", "Night comfort", "--covers", "category:comfort", "--audience",
            "signed-in")).Exit.ShouldBe(0);
        (await RunAsync("gate", "set", "night", "--presence", "hidden")).Out.ShouldContain("don’t see it listed");
        (await RunAsync("gate", "list")).Out.ShouldContain("night");
        (await RunAsync("gate", "remove", "night")).Exit.ShouldBe(0);
        (await RunAsync("gate", "show", "night")).Exit.ShouldBe(3);
    }

    [Fact]
    public async Task Json_is_for_programs()
    {
        var list = JsonDocument.Parse((await RunAsync("gate", "list", "--json")).Out).RootElement;
        list.EnumerateArray().Select(g => g.GetProperty("key").GetString()).ShouldContain("dealer-stock");
        var refused = JsonDocument.Parse((await RunAsync("gate", "show", "nothing", "--json")).Error).RootElement;
        refused.GetProperty("code").GetString().ShouldBe("gate-unknown");
    }

    [Fact]
    public async Task View_counts_what_is_seen()
    {
        (await RunAsync("view", "--as", "guest")).Out.ShouldContain("are hidden.");
        (await RunAsync("view", "--as", "role:dealr")).Error.ShouldContain("role:dealer");
        (await RunAsync("view", "--as", "guest", "--live")).Out.Trim().ShouldStartWith(site.Site + "/sentinel/view?ticket=");
    }

    [Fact]
    public async Task An_import_tells_lines_and_stores_nothing_or_the_good()
    {
        var file = Path.Combine(Path.GetTempPath(), Guid.NewGuid() + ".csv");
        await File.WriteAllTextAsync(file, "id,title,parents\npage:cli-good,Good,\npage:cli-bad,Bad,page:nowhere\n", TestContext.Current.CancellationToken);
        var refused = await RunAsync("item", "import", file);
        refused.Exit.ShouldBe(2);
        refused.Out.ShouldContain("line 3, column 3");
        (await RunAsync("item", "show", "page:cli-good")).Exit.ShouldBe(3);
        (await RunAsync("item", "import", file, "--keep-good")).Exit.ShouldBe(0);
        (await RunAsync("item", "show", "page:cli-good")).Exit.ShouldBe(0);
        (await RunAsync("item", "import", "/no/such.csv")).Exit.ShouldBe(2);
        File.Delete(file);
    }

    [Fact]
    public async Task Secrets_come_by_standard_input()
    {
        (await RunAsync(["member", "add", "cli@x.example", "--name", "Cli", "--password", "-"], "long-enough-1\n")).Exit.ShouldBe(0);
        var made = await RunAsync(["token", "add", "by-cli", "--scope", "read", "--sign-in", RunningSite.Owner, "--json"], RunningSite.Password + "\n");
        JsonDocument.Parse(made.Out).RootElement.GetProperty("token").GetString()!.ShouldStartWith("wary_");
        (await RunAsync(["password", "add", "clearance-vault", "--label", "Cli"], "another-word\n")).Exit.ShouldBe(0);
        var list = await RunAsync("password", "list", "--json");
        list.Out.ShouldNotContain("another-word");
        var id = JsonDocument.Parse(list.Out).RootElement[0].GetProperty("id").GetString()!;
        (await RunAsync("password", "withdraw", id)).Exit.ShouldBe(0);
    }

    [Fact]
    public async Task Every_noun_lists()
    {
        foreach (var noun in new[] { "member", "role", "group", "plan", "session", "token", "item" })
        {
            (await RunAsync(noun, "list")).Exit.ShouldBe(0, noun);
        }

        (await RunAsync("status")).Out.ShouldContain("items");
        (await RunAsync("settings")).Out.ShouldContain("siteName");
    }

    [Theory]
    [InlineData("de_CH.UTF-8", "wary: Ein Tor „nowhere“ gibt es nicht.")]
    [InlineData("de", "wary: Ein Tor „nowhere“ gibt es nicht.")]
    [InlineData("sv_SE@euro", "wary: There is no gate “nowhere”.")]
    [InlineData("C", "wary: There is no gate “nowhere”.")]
    [InlineData("xx_YY.UTF-8", "wary: There is no gate “nowhere”.")]
    public async Task A_refusal_is_read_in_the_language_of_the_terminal(string language, string said)
    {
        var (exit, _, error) = await Wary.RunAsync(site, ["gate", "show", "nowhere"], null, language);
        (exit, error.Trim()).ShouldBe((3, said));
    }
}
