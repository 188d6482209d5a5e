using System.Text.Json;
using Shouldly;
using Xunit;

namespace WarySentinel.Cli.Tests;

/// <summary>Orders on the command line.</summary>
public sealed partial class CliWaresTests(CliFixture fixture) : OnCli(fixture)
{
    [Fact]
    public async Task Orders_are_told_of_shown_and_end_and_what_they_give_is_said()
    {
        (await RunAsync("plan", "add", "season", "--length", "P30D", "--grace", "P3D")).Exit.ShouldBe(0);
        (await RunAsync("plan", "show", "season")).Out.ShouldContain("grace P3D");
        (await RunAsync("order", "add", "--order", "C-1", "--email", "cli@order.example", "--code", "SEASON=2", "--amount", "18.00", "--currency", "EUR"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("waiting for somebody to look (code)"));
        (await RunAsync("fulfilment", "set", "season", "--code", "SEASON", "--gives", "plan:seasn")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("season"));
        (await RunAsync("fulfilment", "set", "season", "--code", "SEASON", "--gives", "plan:season", "--quantity", "lengths")).Out.ShouldContain(
            "An order for SEASON gives the plan season, as many times over as are bought.");
        (await RunAsync("fulfilment", "try", "--code", "SEASON", "--code", "OTHER")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("They have the plan season until"), o => o.ShouldContain("No rule is for OTHER"));
        (await RunAsync("order", "again", "C-1")).Out.ShouldContain("fulfilled");
        (await RunAsync("order", "show", "C-1")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("2 × SEASON  by season"), o => o.ShouldContain("gave season (plan:season)"), o => o.ShouldContain("order.paid 18.00 EUR"));
        (await RunAsync("order", "tell", "C-1", "refunded", "--amount", "1.005")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("2 decimals"));
        (await RunAsync("ends", "--days", "90")).Exit.ShouldBe(0);
        (await RunAsync("order", "tell", "C-1", "refunded", "--amount", "8.00")).Out.ShouldContain("part-refunded");
        (await RunAsync("order", "tell", "C-1", "refunded", "--amount", "10.00")).Out.ShouldContain("is refunded");
        (await RunAsync("order", "show", "C-9")).Exit.ShouldBe(2);
        (await RunAsync("order", "list", "--handling", "odd")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("waiting"));
        (await RunAsync("order", "unreadable")).Out.ShouldContain("Everything that came could be read.");
    }

    [Fact]
    public async Task What_is_bought_is_begun_rests_goes_on_and_becomes_something_else()
    {
        (await RunAsync("plan", "add", "course", "--length", "P10D", "--starts", "by-hand")).Exit.ShouldBe(0);
        (await RunAsync("plan", "show", "course")).Out.ShouldContain("starts by-hand");
        (await RunAsync("plan", "set", "course", "--starts", "some-day")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("at-once, by-hand, on-use"));
        (await RunAsync("plan", "set", "course", "--length", "none")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("has a length"));
        (await RunAsync("plan", "add", "master", "--length", "P10D")).Exit.ShouldBe(0);
        (await RunAsync("fulfilment", "set", "course", "--code", "COURSE", "--gives", "plan:course")).Exit.ShouldBe(0);
        (await RunAsync("fulfilment", "set", "class", "--code", "CLASS", "--gives", "plan:master", "--quantity", "seats")).Out.ShouldContain(
            "for as many people as are bought");
        (await RunAsync("fulfilment", "set", "word", "--code", "WORD", "--way", "shared-password", "--gate", "clearance-vault")).Out.ShouldContain(
            "tells the shared password that “Clearance vault” has");
        (await RunAsync("fulfilment", "set", "word", "--code", "WORD", "--way", "shared-password", "--gate", "clearance-vault", "--gives", "plan:course")).Exit
            .ShouldBe(2);
        (await RunAsync("order", "add", "--order", "P-1", "--email", "plan@order.example", "--code", "COURSE")).Exit.ShouldBe(0);
        (await RunAsync("order", "show", "P-1")).Out.ShouldContain("waits to be begun: course");
        (await RunAsync("order", "tell", "P-1", "started")).Exit.ShouldBe(0);
        (await RunAsync("order", "tell", "P-1", "paused")).Out.ShouldContain("is paused");
        (await RunAsync("order", "show", "P-1")).Out.ShouldContain("rests since");
        (await RunAsync("order", "tell", "P-1", "resumed")).Out.ShouldContain("is paid");
        (await RunAsync("order", "tell", "P-1", "changed")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("line"));
        (await RunAsync("order", "tell", "P-1", "changed", "--code", "CLASS=4")).Exit.ShouldBe(0);
        (await RunAsync("order", "show", "P-1")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("1 × COURSE  by course, until", Case.Insensitive, o), o => o.ShouldContain("1 of 4 seats taken", Case.Insensitive, o));
    }

    [Fact]
    public async Task Orders_of_before_come_from_a_file_that_is_looked_through_first()
    {
        var file = Path.GetTempFileName();
        await File.WriteAllTextAsync(
            file,
            "Order number;E-Mail;SKU;Qty;Total;Currency;Date;Status\n"
            + "L-1;last@year.example;LAST;1;49,00;EUR;2025-11-03;paid\nL-1;last@year.example;EXTRA;2;5,00;EUR;2025-11-03;paid\n"
            + "L-1;last@year.example;;;10,00;EUR;2025-11-09;refunded\nL-2;odd@year.example;LAST;0;;;2025-12-01;\n"
            + "L-3;third@year.example;LAST;1;9,999;EUR;2025-12-01;paid\nL-4;x@year.example;LAST;1;;;someday;paid\n");
        (await RunAsync("order", "import", file, "--dry-run")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(1), r => r.Out.ShouldContain("6 rows, 1 orders: 2 new, 0 known. Nothing is stored yet."),
            r => r.Out.ShouldContain("line 5, lines.0.quantity"), r => r.Out.ShouldContain("line 6, lines.0.amount"), r => r.Out.ShouldContain("line 7, at"),
            r => r.Out.ShouldContain("LAST (1): no rule"));
        (await RunAsync("order", "import", file, "--yes")).Out.ShouldContain("2 new, 0 known. Taken in.");
        (await RunAsync("order", "import", file, "--yes")).Out.ShouldContain("0 new, 2 known");
        for (var n = 0; !(await RunAsync("order", "list", "--find", "L-1")).Out.Contains("part-refunded", StringComparison.Ordinal); n++)
        {
            n.ShouldBeLessThan(50);
            await Task.Delay(100, TestContext.Current.CancellationToken);
        }

        (await RunAsync("order", "show", "L-1")).Out.ShouldNotContain("letter:");
        await File.WriteAllTextAsync(file, "Colour;Size\nred;1\n");
        (await RunAsync("order", "import", file, "--yes")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r =>
            r.Error.ShouldContain("order, email, code"));
    }

    [Fact]
    public async Task Whoever_tells_of_orders_is_set_up_mapped_and_given_a_secret_once()
    {
        var example = Path.GetTempFileName();
        await File.WriteAllTextAsync(example, "ref=A-7&mail=ada%40quill.example&sku=SEASON&total=1800&state=done");
        string[] fields = ["--field", "order=/ref", "--field", "email=/mail", "--field", "code=/sku", "--field", "amount=/total", "--field", "kind=/state",
            "--kind", "done=order.paid", "--in-units", "--currency", "EUR", "--proof", "body", "--header", "X-Sig", "--prefix", "sha256="];
        (await RunAsync(["order-source", "try", "--example", example, .. fields])).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("order.paid"), o => o.ShouldContain("amount: 18.00 EUR"), o => o.ShouldContain("email: ada@quill.example"));
        (await RunAsync(["order-source", "set", "till", "--title", "The till", .. fields])).Out.ShouldContain("wary order-source secret till");
        var secret = JsonDocument.Parse((await RunAsync("order-source", "secret", "till", "--json")).Out).RootElement.GetProperty("secret").GetString()!;
        secret.Length.ShouldBeGreaterThan(20);
        (await RunAsync("order-source", "list", "--json")).Out.ShouldNotContain(secret);
        (await RunAsync("order-source", "set", "hand")).Exit.ShouldBe(2);
        (await RunAsync("order-source", "remove", "till")).Exit.ShouldBe(0);
        (await RunAsync("order-source", "secret", "till")).Exit.ShouldBe(3);
    }
}
