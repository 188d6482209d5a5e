using Shouldly;
using Xunit;

namespace WarySentinel.Cli.Tests;

/// <summary>Pages that are written here, by the command line and as a folder.</summary>
public sealed partial class CliJoiningTests
{
    [Fact]
    public async Task A_page_is_written_published_compared_and_taken_back()
    {
        var file = Path.GetTempFileName();
        (await RunAsync("section", "set", "notebook", "--title", "Notebook", "--address", "/notebook")).Out.ShouldContain("/notebook");
        await File.WriteAllTextAsync(file, "First.\n\n::: for role:dealr\nx\n:::\n");
        (await RunAsync("page", "write", "dusk", file, "--section", "notebook", "--title", "At dusk")).Exit.ShouldBe(0);
        (await RunAsync("page", "publish", "dusk")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("Line 3, column 14"), r => r.Error.ShouldContain("dealer"));
        await File.WriteAllTextAsync(file, "First.\n\n::: for role:dealer\nWholesale.\n:::\n");
        (await RunAsync("page", "write", "dusk", file)).Exit.ShouldBe(0);
        (await RunAsync("page", "publish", "dusk")).Out.ShouldContain("version 1");
        (await RunAsync("page", "publish", "dusk")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(4), r => r.Error.ShouldContain("Nothing is written"));
        (await RunAsync("page", "search", "wholesale")).Exit.ShouldBe(1);
        (await RunAsync("page", "search", "wholesale", "--as", "role:dealer")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("At dusk"));
        (await RunAsync("page", "gate", "dusk", "role:guide")).Out.ShouldContain("its own: role:guide");
        (await RunAsync("may", "guest", "open", "page:dusk")).Exit.ShouldBe(1);
        (await RunAsync("page", "gate", "dusk", "anyone")).Out.ShouldContain("open to everybody");
        (await RunAsync("page", "gate", "dusk", "--inherit")).Exit.ShouldBe(0);
        (await RunAsync("page", "gate", "dusk")).Exit.ShouldBe(2);
        await File.WriteAllTextAsync(file, "Second.\n");
        (await RunAsync("page", "write", "dusk", file)).Exit.ShouldBe(0);
        (await RunAsync("page", "diff", "dusk")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(1), r => r.Out.ShouldContain("+ Second."));
        (await RunAsync("page", "publish", "dusk", "--at", "2090-01-01")).Out.ShouldContain("version 2 from 2090-01-01");
        (await RunAsync("page", "restore", "dusk", "1")).Exit.ShouldBe(0);
        (await RunAsync("page", "restore", "dusk", "9")).Exit.ShouldBe(3);
        (await RunAsync("page", "copy", "dusk", "dawn", "--title", "At dawn")).Out.ShouldContain("/notebook/dawn");
        (await RunAsync("section", "remove", "notebook")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(4), r => r.Error.ShouldContain("2 pages"));
        (await RunAsync("section", "set", "notebook", "--address", "/nightbook")).Exit.ShouldBe(0);
        (await RunAsync("page", "list", "--section", "notebook")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("/nightbook/dusk"), o => o.ShouldContain("/nightbook/dawn"));
        (await RunAsync("page", "remove", "dawn")).Exit.ShouldBe(0);
        (await RunAsync("page", "show", "dawn")).Exit.ShouldBe(3);
    }

    [Fact]
    public async Task A_folder_and_the_service_are_kept_in_step_and_what_both_changed_stops_it()
    {
        var (here, there) = (Directory.CreateTempSubdirectory("wary-pages-").FullName, Directory.CreateTempSubdirectory("wary-pages-").FullName);
        var page = Path.Combine(here, "almanac", "moon.md");
        Directory.CreateDirectory(Path.Combine(here, "almanac", "moon"));
        await File.WriteAllTextAsync(Path.Combine(here, "almanac", "section.yaml"), "title: Almanac\naddress: /almanac\n");
        await File.WriteAllTextAsync(page, "---\ntitle: \"The moon: a year\"\ngate: role:dealer\n---\n\n![Chart](chart.svg)\n");
        await File.WriteAllTextAsync(Path.Combine(here, "almanac", "moon", "chart.svg"), "<svg xmlns='http://www.w3.org/2000/svg'/>");
        (await RunAsync("page", "push", here, "--dry-run")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(1), r => r.Out.ShouldContain("+ section almanac"), r => r.Out.ShouldContain("+ page moon"));
        (await RunAsync("page", "push", here, "--yes")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("3 changes"));
        (await RunAsync("page", "push", here, "--dry-run")).Exit.ShouldBe(0);
        (await RunAsync("may", "guest", "open", "page:moon")).Exit.ShouldBe(1);
        (await RunAsync("page", "pull", there)).Exit.ShouldBe(0);
        (await File.ReadAllTextAsync(Path.Combine(there, "almanac", "moon", "chart.svg"))).ShouldContain("<svg");
        (await RunAsync("page", "pull", there, "--dry-run")).Exit.ShouldBe(0);

        // Only there, then only here, then on both sides.
        await File.AppendAllTextAsync(Path.Combine(there, "almanac", "moon.md"), "\nTwelve of them.\n");
        (await RunAsync("page", "push", there, "--yes")).Exit.ShouldBe(0);
        (await RunAsync("page", "pull", here)).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("~ page moon"));
        (await File.ReadAllTextAsync(page)).ShouldContain("Twelve of them.");
        await File.AppendAllTextAsync(page, "\nHere.\n");
        await File.AppendAllTextAsync(Path.Combine(there, "almanac", "moon.md"), "\nThere.\n");
        (await RunAsync("page", "push", there, "--yes")).Exit.ShouldBe(0);
        (await RunAsync("page", "push", here, "--yes")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(4), r => r.Error.ShouldContain("Nothing is stored"));
        (await RunAsync("page", "pull", here)).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(4), r => r.Error.ShouldContain("Nothing is written"));
        (await File.ReadAllTextAsync(page)).ShouldContain("Here.");
        (await RunAsync("page", "push", here, "--yes", "--force")).Exit.ShouldBe(0);
        (await RunAsync("page", "show", "moon")).Out.ShouldContain("Here.");

        foreach (var (text, said) in new[]
        {
            ("no fence\n", "moon.md:1"), ("---\ntitle: x\nsize: 3\n---\n", "moon.md:3"), ("---\ntitle: [a\n---\n", "moon.md"),
            ("---\ntitle: x\ndraft: perhaps\n---\n", "draft is true or false"),
        })
        {
            await File.WriteAllTextAsync(page, text);
            (await RunAsync("page", "push", here, "--yes")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain(said));
        }
    }

    [Fact]
    public async Task A_site_is_set_up_by_a_file_of_answers_tried_and_nothing_changes_when_it_is_said_again()
    {
        var answers = Path.GetTempFileName();
        await File.WriteAllTextAsync(answers, """
            name: Fernlight by answers
            closed: [/downloads, /downloads/**]
            sells: [Night pass, {key: keeper-year, title: "A year: keeper"}]
            joining: approval
            signIn: letter
            lands: /downloads
            look: /visit
            """);
        var first = await RunAsync("setup", "--answers", answers, "--yes", "--json");
        Checks(first.Out).Where(c => c.What is "pages" or "guest" or "member").ShouldAllBe(c => c.State == "good");
        Checks(first.Out).ShouldContain(("mail", "wrong"));
        first.Exit.ShouldBe(1, "no mail server is set here");
        (await RunAsync("may", "guest", "open", "/downloads")).Exit.ShouldBe(1);
        (await RunAsync("may", "guest", "open", "/shop")).Exit.ShouldBe(0);
        (await RunAsync("plan", "list")).Out.ShouldSatisfyAllConditions(o => o.ShouldContain("night-pass"), o => o.ShouldContain("A year: keeper"));
        (await RunAsync("settings")).Out.ShouldContain("Fernlight by answers");
        (await RunAsync("setup", "--answers", answers, "--yes")).Out.ShouldContain("Nothing had to be changed.");

        // What lets a guest in is found by trying, whatever the gates say.
        (await RunAsync("gate", "add", "--title", "Open", "--covers", "path:/downloads/**", "--exemption")).Exit.ShouldBe(0);
        Checks((await RunAsync("setup", "--answers", answers, "--yes", "--json")).Out).ShouldContain(("guest", "good"));
        (await RunAsync("gate", "set", "members", "--enabled", "false")).Exit.ShouldBe(0);
        Checks((await RunAsync("setup", "--check", "--json")).Out).ShouldContain(("letter", "waiting"));
        (await RunAsync("gate", "remove", "members")).Exit.ShouldBe(0);

        foreach (var (text, said) in new[]
        {
            ("closd: [/x]\n", "there is no answer “closd”"), ("name: [a]\n", "one value"), ("sells: all\n", "a list of memberships"),
            ("just words\n", "names and values"),
            ("closed: [/x]\n\nwho: role:keepr\n", "line 3: "), ("joining: perhaps\n", "closed, approval"), ("name: {\n", ":"),
        })
        {
            await File.WriteAllTextAsync(answers, text);
            (await RunAsync("setup", "--answers", answers, "--yes")).ShouldSatisfyAllConditions(
                r => r.Exit.ShouldNotBe(0, text), r => (r.Error + r.Out).ShouldContain(said));
        }
    }

    private static List<(string What, string State)> Checks(string json) =>
        [.. System.Text.Json.JsonDocument.Parse(json).RootElement.GetProperty("checks").EnumerateArray()
            .Select(c => (c.GetProperty("what").GetString()!, c.GetProperty("state").GetString()!))];
}
