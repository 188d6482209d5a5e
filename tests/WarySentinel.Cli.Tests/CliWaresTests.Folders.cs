using System.Text.Json;
using Shouldly;
using Xunit;

namespace WarySentinel.Cli.Tests;

/// <summary>Folders to download from, on the command line.</summary>
public sealed partial class CliWaresTests
{
    [Fact]
    public async Task Folders_are_set_filled_found_and_given_another_address()
    {
        await RunAsync("item", "add", "download:plates", "--title", "Plates");
        (await RunAsync("folder", "set", "plates", "--item", "download:plate")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("Did you mean “download:plates”?"));
        (await RunAsync("folder", "set", "plates", "--item", "download:plates", "--every", "P1M")).Out.ShouldContain("wary folder put plates FILE");
        (await RunAsync("folder", "show", "plates")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("Opens to everybody: no gate guards its item"), o => o.ShouldContain("changes every P1M"));
        var file = Path.Combine(Path.GetTempPath(), Guid.NewGuid().ToString("N") + ".txt");
        await File.WriteAllTextAsync(file, "a plate", TestContext.Current.CancellationToken);
        try
        {
            (await RunAsync("folder", "put", "plates", file, "--as", "first/plate.txt")).Out.ShouldContain("7 bytes");
        }
        finally
        {
            File.Delete(file);
        }

        (await RunAsync("folder", "put", "plates", file)).ShouldSatisfyAllConditions(r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("There is no file"));
        (await RunAsync("folder", "files", "plates")).Out.ShouldContain("first/");
        (await RunAsync("folder", "files", "plates", "--within", "first")).Out.ShouldContain("plate.txt");
        string AddressOf(string json) => JsonDocument.Parse(json).RootElement.GetProperty("address").GetString()!;
        var told = AddressOf((await RunAsync("folder", "address", "plates", "--json")).Out);
        (await RunAsync("folder", "set", "plates", "--title", "Old plates", "--every", "never")).Out.ShouldContain("Old plates");
        AddressOf((await RunAsync("folder", "address", "plates", "--json")).Out).ShouldBe(told, "what is set of it changes no address");
        AddressOf((await RunAsync("folder", "change-address", "plates", "--json")).Out).ShouldNotBe(told);
        (await RunAsync("folder", "list")).Out.ShouldSatisfyAllConditions(o => o.ShouldContain("by hand"), o => o.ShouldContain("1 (7 bytes)"));
        (await RunAsync("export")).Out.ShouldContain("areas:");
        (await RunAsync("folder", "take", "plates", "first/plate.txt")).Exit.ShouldBe(0);
        (await RunAsync("folder", "take", "plates", "first/plate.txt")).Exit.ShouldBe(3);
        (await RunAsync("folder", "remove", "plates")).Out.ShouldContain("Its files stay");
        (await RunAsync("folder", "address", "plates")).Exit.ShouldBe(3);
    }
}
