using Shouldly;
using Xunit;

namespace WarySentinel.Cli.Tests;

/// <summary>Forms, terms and the directory, by the command line.</summary>
public sealed partial class CliJoiningTests(CliFixture fixture) : OnCli(fixture)
{
    [Fact]
    public async Task Terms_are_published_in_versions_and_the_directory_is_opened_and_closed()
    {
        var file = Path.GetTempFileName();
        await File.WriteAllTextAsync(file, "# Rules\n\nKeep it *dark*.\n");
        (await RunAsync("terms", "list")).Out.ShouldContain("No terms yet");
        (await RunAsync("terms", "publish", "rules", file, "--for", "member:pia@lanternlane.example")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("Published version 1"));
        (await RunAsync("terms", "publish", "rules", file)).Out.ShouldContain("no new one was published");
        (await RunAsync("why", "pia@lanternlane.example", "open", "/shop")).Out.ShouldContain("yet to agree");
        await File.WriteAllTextAsync(file, "# Rules\n\nKeep it dark and still.\n");
        (await RunAsync("terms", "publish", "rules", file, "--from", "2090-01-01", "--note", "Still, too.")).Out.ShouldContain("version 2");
        (await RunAsync("terms", "publish", "rules", file, "--from", "2089-01-01", "--title", "Other")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("from"));
        (await RunAsync("terms", "show", "rules")).Out.ShouldSatisfyAllConditions(o => o.ShouldContain("announced"), o => o.ShouldContain("in-force"));
        (await RunAsync("terms", "show", "rules", "--version-number", "1")).Out.ShouldContain("Keep it *dark*.");
        (await RunAsync("terms", "withdraw", "rules", "1")).Exit.ShouldBe(4);
        (await RunAsync("terms", "withdraw", "rules", "2")).Exit.ShouldBe(0);
        (await RunAsync("terms", "set", "rules", "--for", "group:gone")).Exit.ShouldBe(2);
        (await RunAsync("terms", "set", "rules", "--for", "nobody", "--optional", "true")).Out.ShouldContain("nobody");
        (await RunAsync("member", "terms", "pia@lanternlane.example")).Out.ShouldContain("never asked");
        (await RunAsync("terms", "remove", "rules")).Exit.ShouldBe(0);
        (await RunAsync("terms", "remove", "rules")).Exit.ShouldBe(3);

        (await RunAsync("directory", "show")).Out.ShouldContain("no directory");
        (await RunAsync("directory", "set", "--for", "plan:patron", "--title", "Who")).Out.ShouldContain("/account/directory");
        (await RunAsync("directory", "set", "--field", "gone")).Exit.ShouldBe(2);
        (await RunAsync("directory", "member", "pia@lanternlane.example")).Out.ShouldContain("do not stand");
        (await RunAsync("directory", "unlist", "pia@lanternlane.example")).Exit.ShouldBe(0);
        (await RunAsync("directory", "off")).Out.ShouldContain("no directory");
        (await RunAsync("member", "list", "--answer", "a>b")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("town:port"));
    }

    [Fact]
    public async Task A_form_is_made_of_fields_tried_and_taken_away()
    {
        (await RunAsync("field", "set", "resale", "--label", "For resale?", "--kind", "yes-no")).Out.ShouldContain("asks: For resale?");
        (await RunAsync("field", "set", "vat", "--label", "VAT number", "--format", "vat")).Exit.ShouldBe(0);
        (await RunAsync("field", "set", "sky", "--label", "What?", "--kind", "several-of", "--option", "sun=The sun", "--option",
            "moon=The moon")).Exit.ShouldBe(0);
        (await RunAsync("field", "set", "sky", "--label", "What?", "--kind", "number"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("several-of"));
        (await RunAsync("field", "set", "odd", "--label", "Odd", "--pattern", "(")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("regular expression"));
        (await RunAsync("field", "list")).Out.ShouldSatisfyAllConditions(o => o.ShouldContain("several-of"), o => o.ShouldContain("VAT number"));
        var file = Path.GetTempFileName();
        await File.WriteAllTextAsync(file, """
            {"title": "Trade", "way": "approval", "sections": [{"fields": [{"field": "resale", "required": true},
             {"field": "vat", "required": true, "shownIf": {"field": "resale", "is": ["yes"]}}]}],
             "grants": [{"grant": "role:dealer", "when": {"field": "vat", "given": true}, "days": 30}]}
            """);
        (await RunAsync("form", "set", "trade", file)).Out.ShouldContain("/account/register/trade");
        (await RunAsync("field", "set", "vat", "--help-line", "As on your invoices")).Exit.ShouldBe(0);
        (await RunAsync("field", "order", "vat", "--json")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("As on your invoices"), o => o.ShouldContain("\"format\": \"vat\""));
        (await RunAsync("form", "order", "nothing")).Error.ShouldContain("nothing");
        (await RunAsync("form", "show", "trade")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("vat, required, only if"), o => o.ShouldContain("role:dealer for 30 days"));
        (await RunAsync("form", "try", "trade", "resale=no")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("Asks: resale\n"), r => r.Out.ShouldContain("Gives: nothing"));
        (await RunAsync("form", "try", "trade", "resale=yes", "vat=PT1")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(1), r => r.Out.ShouldContain("no VAT number"));
        (await RunAsync("form", "try", "trade", "resale=yes", "vat=PT501964843")).Out.ShouldContain("Gives: role:dealer");
        var shown = await RunAsync("form", "show", "trade", "--json");
        await File.WriteAllTextAsync(file, shown.Out.Replace("Trade", "Trade account", StringComparison.Ordinal));
        (await RunAsync("form", "set", "trade", file)).Exit.ShouldBe(0);
        (await RunAsync("form", "list")).Out.ShouldContain("Trade account");
        await File.WriteAllTextAsync(file, "{\"title\": ");
        (await RunAsync("form", "set", "trade", file)).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("cannot be read"));
        File.Delete(file);
        (await RunAsync("field", "remove", "vat")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(4), r => r.Error.ShouldContain("trade"));
        (await RunAsync("form", "remove", "trade")).Exit.ShouldBe(0);
        (await RunAsync("form", "show", "trade")).Exit.ShouldBe(3);
        (await RunAsync("field", "erase", "vat")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("--yes"));
        (await RunAsync("field", "erase", "vat", "--yes")).Out.ShouldContain("0 members");
        (await RunAsync("field", "remove", "vat")).Exit.ShouldBe(0);
        (await RunAsync("request", "list", "--state", "held")).Out.ShouldContain("Nobody asks");
        (await RunAsync("request", "list", "--state", "lost")).Exit.ShouldBe(2);
        (await RunAsync("request", "show", "pia@lanternlane.example")).Exit.ShouldBe(3);
        (await RunAsync("request", "approve", "pia@lanternlane.example", "nobody@x.example")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(4), r => r.Out.ShouldContain("was decided already"), r => r.Out.ShouldContain("nobody@x.example"));
        (await RunAsync("request", "ask", "pia@lanternlane.example")).Exit.ShouldBe(2);
    }
}
