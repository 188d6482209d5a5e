using System.Text.Json;
using Shouldly;
using Xunit;

namespace WarySentinel.Cli.Tests;

/// <summary>Shows and feeds, on the command line.</summary>
public sealed partial class CliWaresTests
{
    [Fact]
    public async Task A_show_is_set_filled_and_gives_each_member_a_feed()
    {
        await RunAsync("item", "add", "show:hours", "--title", "Hours");
        await RunAsync("item", "add", "episode:one", "--title", "The first", "--parents", "show:hours");
        (await RunAsync("audio", "set", "hour")).ShouldSatisfyAllConditions(
            r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("Did you mean “show:hours”?"));
        (await RunAsync("audio", "set", "hours", "--by", "The dome", "--notes", "A show a month.")).Out.ShouldContain("wary audio episode hours EPISODE");
        var file = Path.Combine(Path.GetTempPath(), Guid.NewGuid().ToString("N") + ".mp3");
        await File.WriteAllTextAsync(file, "a sound", TestContext.Current.CancellationToken);
        try
        {
            (await RunAsync("audio", "episode", "hours", "one", "--file", file, "--length", "42")).ShouldSatisfyAllConditions(
                r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain("42:10"));
            (await RunAsync("audio", "episode", "hours", "one", "--file", file, "--at", "2026-03-01", "--length", "1:05")).ShouldSatisfyAllConditions(
                r => r.Error.ShouldBe(""), r => r.Out.ShouldContain("The first is out"));
            (await RunAsync("audio", "put", "hours", file, "--as", "one.m4a")).Exit.ShouldBe(0);
            (await RunAsync("audio", "put", "hours", file, "--as", "one.exe")).ShouldSatisfyAllConditions(
                r => r.Exit.ShouldBe(2), r => r.Error.ShouldContain(".mp3"));
        }
        finally
        {
            File.Delete(file);
        }

        (await RunAsync("audio", "episode", "hours", "one", "--notes", "Of lamps")).Exit.ShouldBe(0);
        (await RunAsync("audio", "show", "hours")).Out.ShouldSatisfyAllConditions(
            o => o.ShouldContain("2026-03-01"), o => o.ShouldContain("1:05"), o => o.ShouldContain("7 bytes"), o => o.ShouldContain("no gate guards it"));
        string AddressOf(string json) => JsonDocument.Parse(json).RootElement.GetProperty("address").GetString()!;
        var told = AddressOf((await RunAsync("audio", "feed", "hours", "nell@orchard-optics.example", "--json")).Out);
        AddressOf((await RunAsync("audio", "feed", "hours", "nell@orchard-optics.example", "--json")).Out).ShouldBe(told);
        AddressOf((await RunAsync("audio", "change-feed", "hours", "nell@orchard-optics.example", "--json")).Out).ShouldNotBe(told);
        (await RunAsync("audio", "feed", "hours", "nobody@x.example")).Exit.ShouldBe(3);
        (await RunAsync("audio", "subscribers", "hours")).Out.ShouldSatisfyAllConditions(o => o.ShouldContain("nell@"), o => o.ShouldContain("never"));
        (await RunAsync("audio", "list")).Out.ShouldContain("open to everybody");
        (await RunAsync("export")).Out.ShouldContain("shows:");
        (await RunAsync("audio", "take", "hours", "one.m4a")).Exit.ShouldBe(0);
        (await RunAsync("audio", "drop-episode", "hours", "one")).Out.ShouldContain("Its file stays");
        (await RunAsync("audio", "drop-episode", "hours", "one")).Exit.ShouldBe(3);
        (await RunAsync("audio", "remove", "hours")).Out.ShouldContain("Its files stay");
        (await RunAsync("audio", "show", "hours")).Exit.ShouldBe(3);
    }
}
