using System.Text.RegularExpressions;
using Shouldly;
using Xunit;

namespace WarySentinel.Cli.Tests;

/// <summary>Passes on the command line.</summary>
public sealed partial class CliWaresTests
{
    [Fact]
    public async Task Passes_are_made_told_once_changed_and_ended()
    {
        (await RunAsync("pass", "add", "plates", "--for", "Lab")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("There is no pass “plates”"));
        (await RunAsync("pass-kind", "add", "plates", "--title", "Photographic plates")).Out.ShouldContain("plates");
        (await RunAsync("pass-kind", "show", "plates")).Out.ShouldContain("pass:plates");
        var made = await RunAsync("pass", "add", "plates", "--for", "Hill Lab", "--name", "hill-lab", "--until", "2031-01-31", "--most-uses", "9");
        made.Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("77 random bits"), o => o.ShouldContain("Name: hill-lab"), o => o.ShouldContain("It works until 31 January 2031."),
            o => Regex.Count(o, "[a-z]{3,8}(-[a-z]{3,8}){6}").ShouldBe(1));
        (await RunAsync("pass", "add", "plates", "--for", "Other", "--name", "HILL-lab")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("is taken"));
        (await RunAsync("pass", "show", "hill-lab")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("for Hill Lab"), o => o.ShouldContain("until 2031-01-31"), o => o.ShouldContain("uses: 0 of 9"),
            o => o.ShouldNotContain("assword:"));
        (await RunAsync("pass", "set", "hill-lab", "--most-uses", "none", "--most-networks", "2", "--for", "Hill Laboratory")).Exit.ShouldBe(0);
        (await RunAsync("pass", "set", "hill-lab", "--most-networks", "two")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("takes a number, or none"));
        (await RunAsync("pass", "list", "--search", "laboratory")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("Hill Laboratory"), o => o.ShouldContain("0 of 2"));
        (await RunAsync("pass", "renew", "hill-lab", "--until", "none")).Out.ShouldContain("without an end");
        (await RunAsync("pass", "rotate", "hill-lab", "--overlap", "PT1H")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("the one before works until"), o => o.ShouldContain("Password: "));
        (await RunAsync("pass", "withdraw", "hill-lab")).Out.ShouldContain("Withdrew the pass hill-lab");
        (await RunAsync("pass", "rotate", "hill-lab")).Exit.ShouldBe(4);
        (await RunAsync("pass", "list", "--standing", "withdrawn")).Out.ShouldContain("hill-lab");
        (await RunAsync("pass", "list", "--standing", "odd")).Exit.ShouldBe(2);
        (await RunAsync("pass", "show", "nobody")).Exit.ShouldBe(3);
    }

    [Fact]
    public async Task Passes_come_from_a_file_all_or_none_and_their_passwords_go_into_another()
    {
        await RunAsync("pass-kind", "add", "maps", "--title", "Maps");
        var file = Path.GetTempFileName();
        await File.WriteAllTextAsync(file, "holder;kind;name\nDale School;maps;dale\nMoor School;mapps;\n");
        (await RunAsync("pass", "import", file)).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("line 3, kind"), r => r.Error.ShouldContain("None of them was made."));
        (await RunAsync("pass", "list", "--kind", "maps")).Out.ShouldContain("No passes yet.");
        await File.WriteAllTextAsync(file, "holder;kind;name\n\"Dale; School\";maps;dale\nMoor School;maps;\n");
        (await RunAsync("pass", "import", file, "--dry-run")).Out.ShouldContain("2 passes would be made.");
        var made = (await RunAsync("pass", "import", file)).Out.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        made[0].ShouldBe("name,password,holder,kind,until");
        made[1].ShouldMatch("^dale,[a-z]{3,8}(-[a-z]{3,8}){6},Dale; School,maps,$");
        made.Length.ShouldBe(3);
        File.Delete(file);
    }
}
