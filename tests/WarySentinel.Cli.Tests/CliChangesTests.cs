using System.Text.Json;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Cli.Tests;

/// <summary>The site as text, sweeps, passwords and the like, on a site of their own.</summary>
public sealed class CliChangesTests : IAsyncLifetime
{
    private readonly string folder = Directory.CreateTempSubdirectory("wary-cli-").FullName;
    private RunningSite site = null!;

    public async ValueTask InitializeAsync() => site = await RunningSite.StartAsync();

    public async ValueTask DisposeAsync()
    {
        await site.DisposeAsync();
        Directory.Delete(folder, true);
    }

    [Fact]
    public async Task A_site_file_goes_out_and_in_again()
    {
        var file = Path.Combine(folder, "site.yaml");
        (await RunAsync("export", "--to", file)).Exit.ShouldBe(0);
        (await RunAsync("apply", file)).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("Nothing to change"));
        var text = await File.ReadAllTextAsync(file);
        await File.WriteAllTextAsync(file, text.Replace("title: Dealer stock", "title: Trade stock", StringComparison.Ordinal));
        (await RunAsync("apply", file, "--dry-run"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(1), r => r.Out.ShouldContain("title: Dealer stock → Trade stock"));
        // From a pipe nobody can agree.
        (await RunAsync("apply", file)).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(1), r => r.Error.ShouldContain("nothing is stored"));
        (await RunAsync("apply", file, "--yes")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("Stored."));
        (await RunAsync("apply", file, "--yes")).Out.ShouldContain("Nothing to change");
        await File.WriteAllTextAsync(file, text + "colour: red\n");
        (await RunAsync("apply", file, "--yes"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("column 1: “colour” is not known here"));
        (await RunAsync("apply", Path.Combine(folder, "none.yaml"))).Exit.ShouldBe(2);
        JsonDocument.Parse((await RunAsync("export", "--schema")).Out).RootElement.GetProperty("type").GetString().ShouldBe("object");
    }

    [Fact]
    public async Task A_sweep_ends_with_1_where_something_leaks_and_0_where_nothing_does()
    {
        (await RunAsync("sweep", "--last")).Exit.ShouldBe(3);
        var leaking = await RunAsync("sweep", "--as", "role:dealer");
        leaking.Exit.ShouldBe(1);
        leaking.Out.ShouldContain("/products.json");
        var covers = "path:/products.json,path:/search-index.js,path:/print/**";
        (await RunAsync("gate", "add", "--title", "Search", "--covers", covers, "--audience", "role:dealer")).Exit.ShouldBe(0);
        (await RunAsync("sweep", "--as", "role:dealer")).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(0), r => r.Out.ShouldContain("Nothing leaks."));
        var json = JsonDocument.Parse((await RunAsync("sweep", "--last", "--json")).Out).RootElement;
        json.GetProperty("leaks").GetInt32().ShouldBe(0);
        (await RunAsync("sweep", "--as", "role:none"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("no visitor that is known"));
    }

    [Fact]
    public async Task A_password_is_made_told_once_listed_and_changed()
    {
        var made = await RunAsync("password", "add", "clearance-vault", "--label", "Club", "--most-uses", "5", "--asked", "not role:keeper");
        made.Exit.ShouldBe(0);
        made.Out.ShouldContain("/account/unlock");
        var list = await RunAsync("password", "list");
        list.Out.ShouldContain("0 of 5");
        list.Out.ShouldContain("not role:keeper");
        var id = JsonDocument.Parse((await RunAsync("password", "list", "--json")).Out).RootElement.EnumerateArray()
            .First(p => p.GetProperty("label").GetString() == "Club").GetProperty("id").GetString()!;
        (await RunAsync("password", "rotate", id, "--overlap", "PT0S", "--json"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(0), r => JsonDocument.Parse(r.Out).RootElement.GetProperty("replaces").GetString().ShouldBe(id));
        (await RunAsync("password", "rotate", id)).Exit.ShouldBe(4);
        (await RunAsync("password", "rotate", id, "--overlap", "soon")).Exit.ShouldBe(2);
        (await RunAsync("password", "add", "clearance-vault", "--label", "X", "--asked", "role:")).Error.ShouldContain("key is missing");
    }

    [Fact]
    public async Task Changes_are_on_record_and_taken_back()
    {
        (await RunAsync("gate", "set", "dealer-stock", "--audience", "role:dealer", "--until", "2099-01-01")).Exit.ShouldBe(0);
        (await RunAsync("history", "dealer-stock")).Out.ShouldContain("audience: role:dealer or role:keeper → role:dealer");
        (await RunAsync("gate", "set", "dealer-stock", "--until", "none")).Out.ShouldNotContain("Until");
        (await RunAsync("gate", "set", "dealer-stock", "--until", "soon")).Exit.ShouldBe(2);
        (await RunAsync("gate", "undo", "dealer-stock")).Out.ShouldContain("Until 1 January 2099");
        (await RunAsync("gate", "add", "--key", "short", "--title", "Short", "--covers", "category:books", "--audience", "signed-in")).Exit.ShouldBe(0);
        (await RunAsync("gate", "undo", "short")).Out.ShouldContain("is gone again");
        (await RunAsync("redirect", "set", "r", "--on", "sign-in", "--to", "https://evil.example")).Exit.ShouldBe(2);
        (await RunAsync("redirect", "set", "r", "--on", "sign-in", "--to", "/visit")).Exit.ShouldBe(0);
        (await RunAsync("redirect", "list")).Out.ShouldContain("/visit");
        (await RunAsync("redirect", "remove", "r")).Exit.ShouldBe(0);
    }

    [Fact]
    public async Task The_catalogue_comes_from_the_site_itself()
    {
        (await RunAsync("item", "import", "sitemap", "--dry-run")).Out.ShouldContain("0 to add, 0 to change");
        var walk = await RunAsync("item", "import", "walk", "--pause", "0", "--most-pages", "3", "--dry-run");
        walk.Out.ShouldContain("--resume");
        var file = Path.Combine(folder, "new.xml");
        await File.WriteAllTextAsync(file, "<urlset><url><loc>/wares/one</loc></url></urlset>");
        (await RunAsync("item", "import", file, "--map", "/wares/*=product"))
            .ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(1), r => r.Out.ShouldContain("+ items product:one"));
        (await RunAsync("item", "import", file, "--map", "/wares/*=product", "--yes")).Out.ShouldContain("Stored.");
        (await RunAsync("item", "import", file, "--map", "nonsense")).Exit.ShouldBe(2);
        (await RunAsync("item", "import", "notes.txt")).Exit.ShouldBe(2);
        var log = Path.Combine(Path.GetTempPath(), Guid.NewGuid().ToString("N") + "-access.log.1");
        await File.WriteAllTextAsync(
            log, string.Concat(Enumerable.Repeat("198.51.100.7 - - [x] \"GET /asked/often HTTP/1.1\" 200 9 \"-\" \"Mozilla/5.0\"\n", 7)));
        (await RunAsync("item", "import", log, "--dry-run")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("7 × /asked/often"), o => o.ShouldContain("7 lines, 7 requests"), o => o.ShouldContain("1 to add"));
        (await RunAsync("item", "import", log, "--least", "8", "--yes")).Out.ShouldContain("0 to add");
        File.Delete(log);
    }

    private Task<(int Exit, string Out, string Error)> RunAsync(params string[] words) => Wary.RunAsync(site, words, null);
}
