using System.Text;
using System.Text.Json;
using Shouldly;
using WarySentinel.Core.Markup;
using Xunit;

namespace WarySentinel.Core.Tests.Markup;

/// <summary>JSONPath selects what RFC 9535 says.</summary>
public sealed class JsonPathTests
{
    private const string Examples = """
        {"a":[3,5,1,2,4,6,{"b":"j"},{"b":"k"},{"b":{}},{"b":"kilo"}],"o":{"p":1,"q":2,"r":3,"s":5,"t":{"u":6}},"e":"f"}
        """;

    /// <summary>RFC 9535 §2.3.5.3, table 12, and others of its tables.</summary>
    [Theory]
    [InlineData("$.a[?@.b == 'kilo']", "$['a'][9]")]
    [InlineData("$.a[?(@.b == 'kilo')]", "$['a'][9]")]
    [InlineData("$.a[?@>3.5]", "$['a'][1] $['a'][4] $['a'][5]")]
    [InlineData("$.a[?@.b]", "$['a'][6] $['a'][7] $['a'][8] $['a'][9]")]
    [InlineData("$[?@.*]", "$['a'] $['o']")]
    [InlineData("$[?@[?@.b]]", "$['a']")]
    [InlineData("$.o[?@<3, ?@<3]", "$['o']['p'] $['o']['q']")]
    [InlineData("$.a[?@<2 || @.b == \"k\"]", "$['a'][2] $['a'][7]")]
    [InlineData("$.a[?match(@.b, \"[jk]\")]", "$['a'][6] $['a'][7]")]
    [InlineData("$.a[?search(@.b, \"[jk]\")]", "$['a'][6] $['a'][7] $['a'][9]")]
    [InlineData("$.o[?@>1 && @<4]", "$['o']['q'] $['o']['r']")]
    [InlineData("$.o[?@.u || @.x]", "$['o']['t']")]
    [InlineData("$.a[?@.b == $.x]", "$['a'][0] $['a'][1] $['a'][2] $['a'][3] $['a'][4] $['a'][5]")]
    [InlineData("$.a[?@ == @]", "$['a'][0] $['a'][1] $['a'][2] $['a'][3] $['a'][4] $['a'][5] $['a'][6] $['a'][7] $['a'][8] $['a'][9]")]
    [InlineData("$.a[1:3]", "$['a'][1] $['a'][2]")]
    [InlineData("$.a[8:]", "$['a'][8] $['a'][9]")]
    [InlineData("$.a[1:9:3]", "$['a'][1] $['a'][4] $['a'][7]")]
    [InlineData("$.a[::-4]", "$['a'][1] $['a'][5] $['a'][9]")]
    [InlineData("$.a[0, -1]", "$['a'][0] $['a'][9]")]
    [InlineData("$..[?length(@.b) > 1]", "$['a'][9]")]
    public void Examples_of_the_standard(string path, string selected) =>
        Selected(path, Examples)!.Order(StringComparer.Ordinal).ShouldBe(selected.Split(' '));

    [Theory]
    [InlineData("$.a[?]", 6)]
    [InlineData("$.a[?@.b == ]", 13)]
    [InlineData("$.a[?@.b == 'x]", 16)]
    [InlineData("$.a[?length(@..b) > 1]", 17)]
    [InlineData("$.a[?match(@.b, @.c)]", 17)]
    [InlineData("$.a[?match(@.b, '(')]", 17)]
    [InlineData("$.a[?match(@.b, 'a*?')]", 17)]
    [InlineData("$.a[?@.* == 1]", 9)]
    [InlineData("$.a[?foo(@)]", 6)]
    [InlineData("$.a[01]", 5)]
    [InlineData("$.a[1", 6)]
    [InlineData("$.a]", 4)]
    [InlineData("$.a['\\q']", 7)]
    [InlineData("$.a['\\ud83d-']", 12)]
    [InlineData("$.a[?((((((((((@.b))))))))))]", 14)]
    public void What_is_no_path_is_refused_at_its_place(string path, int column)
    {
        JsonPath.TryParse(path, '$', out var at).ShouldBeNull();
        at.ShouldBe(column);
    }

    /// <summary>Paths and data made at random, and what two other implementations select alike.</summary>
    [Fact]
    public void Selects_what_others_do()
    {
        using var cases = JsonDocument.Parse(File.ReadAllBytes(Path.Combine(HouseTests.Root, "tests/WarySentinel.Core.Tests/Markup/jsonpath-cases.json")));
        var other = cases.RootElement.EnumerateArray().Select(one =>
        {
            var (path, data) = (one.GetProperty("path").GetString()!, one.GetProperty("data").GetString()!);
            var theirs = one.GetProperty("selects") is { ValueKind: JsonValueKind.Array } list
                ? string.Join(' ', list.EnumerateArray().Select(s => s.GetString()).Order(StringComparer.Ordinal)) : "refused";
            var ours = Selected(path, data) is { } selected ? string.Join(' ', selected.Order(StringComparer.Ordinal)) : "refused";
            return ours == theirs ? null : $"{path} of {data}: {ours}, not {theirs}";
        }).OfType<string>().ToList();
        cases.RootElement.GetArrayLength().ShouldBeGreaterThan(1000);
        other.ShouldBeEmpty();
    }

    /// <summary>A path of many steps to any depth costs no more than its steps times the data.</summary>
    [Fact]
    public void Steps_to_any_depth_do_not_multiply()
    {
        var deep = string.Concat(Enumerable.Repeat("[1,", 200)) + "1" + new string(']', 200);
        Selected("$" + string.Concat(Enumerable.Repeat("..*", 20)), deep)!.Count.ShouldBeGreaterThan(300);
        Selected("$..[?@..[?@..*]]", deep)!.Count.ShouldBeGreaterThan(150);
    }

    private static List<string>? Selected(string path, string data)
    {
        var tree = JsonTree.Read(Encoding.UTF8.GetBytes(data), false).ShouldNotBeNull();
        return JsonPath.TryParse(path, '$', out _) is not { } read ? null : [.. read.Select(tree, tree.Outermost()).Select(at => Place(tree, at))];
    }

    /// <summary>The normalized path of a value (RFC 9535 §2.7).</summary>
    private static string Place(JsonTree tree, int at)
    {
        if (tree[at].Parent < 0)
        {
            return "$";
        }

        var step = tree[at].Name is { } name ? $"'{name.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("'", "\\'", StringComparison.Ordinal)}'"
            : tree[at].Place.ToString(System.Globalization.CultureInfo.InvariantCulture);
        return $"{Place(tree, tree[at].Parent)}[{step}]";
    }
}
