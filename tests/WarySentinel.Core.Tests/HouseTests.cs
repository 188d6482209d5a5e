using System.Text.RegularExpressions;
using System.Xml.Linq;
using Shouldly;
using Xunit;

namespace WarySentinel.Core.Tests;

/// <summary>The order of the house.</summary>
public sealed partial class HouseTests
{
    internal static readonly string Root = FindRoot();

    [Theory]
    [InlineData("Core", "")]
    [InlineData("Storage", "Core")]
    [InlineData("Contract", "")]
    [InlineData("Service", "Storage,Contract")]
    [InlineData("Client", "Contract")]
    [InlineData("Cli", "Client")]
    [InlineData("StandIns", "")]
    public void Arrows_point_one_way(string project, string expected)
    {
        var file = XDocument.Load(Path.Combine(Root, "src", "WarySentinel." + project, $"WarySentinel.{project}.csproj"));
        var found = file.Descendants("ProjectReference").Select(r => Path.GetFileNameWithoutExtension(r.Attribute("Include")!.Value)["WarySentinel.".Length..]);
        string.Join(',', found).ShouldBe(expected);
    }

    [Fact]
    public void The_heart_knows_no_web_and_no_database()
    {
        // Beside the framework two libraries, of plans of telephone numbers and of HTML and CSS as browsers read them: they read, and ask nothing.
        typeof(Problem).Assembly.GetReferencedAssemblies().ShouldAllBe(
            a => a.Name!.StartsWith("System.", StringComparison.Ordinal) || a.Name == "PhoneNumbers"
                || a.Name!.StartsWith("AngleSharp", StringComparison.Ordinal));
    }

    [Fact]
    public void Every_sentence_that_the_code_asks_for_is_there()
    {
        var asked = Sources("WarySentinel.Core", "WarySentinel.Service", "WarySentinel.Storage").SelectMany(text =>
            WordKey().Matches(text).Select(m => m.Groups[1].Value)
                .Concat(CountKey().Matches(text).SelectMany(m => new[] { m.Groups[1].Value, m.Groups[1].Value + ".one" }))
                .Concat(ProblemCode().Matches(text).Select(m => "problem." + m.Groups[1].Value))
                .Concat(InCode().Matches(text).Select(m => "problem." + m.Groups[1].Value))
                .Concat(BadCode().Matches(text).Select(m => "problem." + m.Groups[1].Value))
                .Concat(UnlessCode().Matches(text).Select(m => "problem." + m.Groups[1].Value))).Distinct().ToList();
        asked.Count.ShouldBeGreaterThan(80);
        asked.Where(key => !key.EndsWith('.') && !key.EndsWith('-') && !Words.Has(key)).ShouldBeEmpty();
    }

    [Fact]
    public void Files_stay_small() =>
        Directory.EnumerateFiles(Path.Combine(Root, "src"), "*.cs", SearchOption.AllDirectories)
            .Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && !f.Contains("/bin/", StringComparison.Ordinal)
            && !f.Contains("/Migrations/", StringComparison.Ordinal))
            .Where(f => File.ReadLines(f).Count() > 400).ShouldBeEmpty();

    [Fact]
    public void Lines_end_before_column_160() =>
        (from folder in new[] { "src", "tests", "bench" }
         from kind in new[] { "*.cs", "*.razor" }
         from file in Directory.EnumerateFiles(Path.Combine(Root, folder), kind, SearchOption.AllDirectories)
         select file).Where(f => !f.Contains("/obj/", StringComparison.Ordinal) && !f.Contains("/bin/", StringComparison.Ordinal)
            && !f.Contains("/Migrations/", StringComparison.Ordinal))
            .SelectMany(f => File.ReadLines(f).Select((line, n) => (Where: $"{f}:{n + 1}", line.Length))).Where(l => l.Length > 160).Select(l => l.Where)
            .ShouldBeEmpty();

    private static IEnumerable<string> Sources(params string[] projects) => projects.SelectMany(p =>
        Directory.EnumerateFiles(Path.Combine(Root, "src", p), "*.cs", SearchOption.AllDirectories)
            .Where(f => !f.Contains("/obj/", StringComparison.Ordinal))).Select(File.ReadAllText);

    private static string FindRoot()
    {
        var at = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(at, "WarySentinel.slnx")))
        {
            at = Path.GetDirectoryName(at) ?? throw new InvalidOperationException("The tests do not run inside the repository.");
        }

        return at;
    }

    [GeneratedRegex("""(?<!Page)(?:Words|Wording)\.Of\("([a-z0-9.-]+)"[,)]""")]
    private static partial Regex WordKey();

    [GeneratedRegex("""(?:Words|Wording)\.Count\("([a-z0-9.-]+)"[,)]""")]
    private static partial Regex CountKey();

    [GeneratedRegex("""Problem\.Of\(ProblemKind\.\w+, "([a-z0-9-]+)"[,)]""")]
    private static partial Regex ProblemCode();

    [GeneratedRegex("""Problem\.In\("[^"]+", "([a-z0-9-]+)"[,)]""")]
    private static partial Regex InCode();

    [GeneratedRegex("""\bBad\("[a-zA-Z.]+", "([a-z0-9-]+)"[,)]""")]
    private static partial Regex BadCode();

    [GeneratedRegex("""\bUnless\([^;]*?, "[a-zA-Z.]+", "([a-z0-9-]+)"[,)]""")]
    private static partial Regex UnlessCode();
}
