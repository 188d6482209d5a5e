using System.Text.Json;
using System.Text.RegularExpressions;
using Shouldly;
using WarySentinel.Testing;
using Xunit;

namespace WarySentinel.Service.Tests.Web;

/// <summary>The console has words for each action that is written into the trail.</summary>
public sealed partial class TrailWordsTests
{
    /// <summary>An edit that changes nothing is not written down.</summary>
    private const string Silent = "grant.same";

    [Fact]
    public void Each_action_that_is_written_down_has_its_words()
    {
        var source = Path.Combine(RunningSite.Root, "src");
        var actions = Directory.EnumerateFiles(source, "*.cs", SearchOption.AllDirectories)
            .Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && !f.Contains("/bin/", StringComparison.Ordinal))
            .SelectMany(f => Action().Matches(File.ReadAllText(f)).Select(m => m.Groups[1].Value)).Where(a => a != Silent).ToHashSet();
        actions.ShouldContain("gate.add");
        actions.Count.ShouldBeGreaterThan(15);
        using var words = JsonDocument.Parse(File.ReadAllText(Path.Combine(RunningSite.Root, "console", "src", "words", "en.json")));
        var known = words.RootElement.GetProperty("history").GetProperty("actions");
        actions.Where(a => !known.TryGetProperty(a.Replace('.', '-'), out _)).ShouldBeEmpty();
    }

    [Fact]
    public void Each_kind_of_thing_that_names_a_fact_has_its_words()
    {
        var kinds = Directory.EnumerateFiles(Path.Combine(RunningSite.Root, "src", "WarySentinel.Core"), "*.cs", SearchOption.AllDirectories)
            .SelectMany(f => Naming().Matches(File.ReadAllText(f)).Select(m => m.Groups[1].Value)).ToHashSet();
        kinds.ShouldContain("fulfilment");
        using var words = JsonDocument.Parse(File.ReadAllText(Path.Combine(RunningSite.Root, "console", "src", "words", "en.json")));
        var known = words.RootElement.GetProperty("roles").GetProperty("useKinds");
        kinds.Where(k => !known.TryGetProperty(k, out _)).ShouldBeEmpty();
    }

    [GeneratedRegex("new NamedAudience\\(\\s*\"([a-z]+)\"")]
    private static partial Regex Naming();

    [GeneratedRegex("""(?:new Edit|new AuditNote|new)\((?:by, |Caller\.Of\(http\)\.Name, |[a-z.]+Name, )?"([a-z]+\.[a-z]+)",""")]
    private static partial Regex Action();
}
