using System.Buffers;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using FsCheck.Xunit;
using Shouldly;
using WarySentinel.Core.Markup;
using Xunit;

namespace WarySentinel.Core.Tests.Markup;

/// <summary>Data as the owner taught it: entries about something hidden go, and nothing else changes by a byte.</summary>
public sealed class JsonSieveTests
{
    private static JsonPath Of(string text) => JsonPath.TryParse(text, text[0], out _)!;

    private static JsonEntries Rule(
        string entries, string? about = null, string? price = null, bool blank = false, string[]? beside = null, string[]? points = null) =>
        new(Of(entries), about, price is null ? null : Of(price), blank, [.. (beside ?? []).Select(Of)], [.. (points ?? []).Select(Of)]);

    private static string? Sifted(string json, params JsonEntries[] rules)
    {
        var output = new ArrayBufferWriter<byte>();
        return JsonSieve.TrySift(Encoding.UTF8.GetBytes(json), rules, new CardTests.CardDecider(), output) ? Encoding.UTF8.GetString(output.WrittenSpan) : null;
    }

    private static string? Script(string script, params JsonEntries[] rules)
    {
        var output = new ArrayBufferWriter<byte>();
        return JsonSieve.TrySiftScript(Encoding.UTF8.GetBytes(script), rules, new CardTests.CardDecider(), output)
            ? Encoding.UTF8.GetString(output.WrittenSpan) : null;
    }

    [Theory]
    [InlineData("""{"items":[{"url":"/hidden-1","n":1},{ "url": "/open-1" , "n":2.50}] }""", "$.items[*]", null,
                """{"items":[{ "url": "/open-1" , "n":2.50}] }""")]
    [InlineData("""{"items":[{"url":"/open-1"},{"url":"/hidden-1"}]}""", "$.items[*]", null, """{"items":[{"url":"/open-1"}]}""")]
    [InlineData("""{"items":[{"url":"\/hidden-1"}]}""", "$.items[*]", null, """{"items":[]}""")]
    [InlineData("""{"items":[{"url":"\u002fhidden-1"}]}""", "$..items[*]", null, """{"items":[]}""")]
    [InlineData("""{"a":{"sku":"h1"},"b":{"sku":"o1"}}""", "$.*", "product:{sku}", """{"b":{"sku":"o1"}}""")]
    [InlineData("""[{"id":{"n":7},"x":1},{"id":{"n":8}}]""", "$[*]", "/hidden-{id.n}", """[]""")]
    [InlineData("""["/hidden-1", "/open-1"]""", "$[*]", null, """["/open-1"]""")]
    [InlineData("""{"items":[{"url":"/open-1","near":["/hidden-1","/open-2"],"of":[{"u":"/hidden-2"}]}],"next":"/hidden-3"}""", "$.items[*]", null,
        """{"items":[{"url":"/open-1","near":["/open-2"],"of":[]}]}""")]
    [InlineData("{\"u\":\"/hidden-1\"}\n{\"u\":\"/open-1\"}\n", "$", null, "{\"u\":\"/open-1\"}\n")]
    [InlineData("{\"u\":\"/hidden-1\"}", "$", null, "{}")]
    [InlineData("[[\"T\",\"/hidden-1\"],[\"T\",\"/open-1\"]]", "$[*]", null, "[[\"T\",\"/open-1\"]]")]
    [InlineData(")]}',\n[{\"u\":\"/hidden-1\"}]", "$[*]", null, ")]}',\n[]")]
    [InlineData("\uFEFF[{\"u\":\"/hidden-1\"},1]", "$[*]", null, "\uFEFF[1]")]
    [InlineData("""[{"t":"half \ud83d","u":"/hidden-1"},{"t":"half \ud83d"}]""", "$[*]", null, """[{"t":"half \ud83d"}]""")]
    [InlineData(" ", "$[*]", null, " ")]
    public void Examples(string json, string entries, string? about, string left) => Sifted(json, Rule(entries, about)).ShouldBe(left);

    [Fact]
    public void A_price_goes_where_it_is_guarded() =>
        Sifted("""[{"u":"/dear-1","price":9,"offer":{"price":8}},{"u":"/open-1","price":7}]""", Rule("$[*]", null, "@..price"))
            .ShouldBe("""[{"u":"/dear-1","offer":{}},{"u":"/open-1","price":7}]""");

    [Theory]
    [InlineData("[1,2")]
    [InlineData("callback([1])")]
    [InlineData("{a:1}")]
    [InlineData("<html>")]
    public void What_is_no_json_is_not_written(string text) => Sifted(text, Rule("$[*]")).ShouldBeNull();

    [Theory]
    [InlineData("window.D = [{\"u\":\"/hidden-1\"},{\"u\":\"/open-1\"}];\nrun(window.D)", "window.D = [{\"u\":\"/open-1\"}];\nrun(window.D)")]
    [InlineData("xwindow.D = [1]; window.D == 1", "xwindow.D = [1]; window.D == 1")]
    [InlineData("window.D({\"u\":[\"/hidden-1\"]}); window.D=[\"/hidden-2\"]", "window.D({\"u\":[]}); window.D=[]")]
    [InlineData("nothing", "nothing")]
    public void Data_in_a_script_is_found_behind_its_name(string script, string left) =>
        Script(script, Rule("$..*") with { Behind = "window.D" }).ShouldBe(left);

    [Fact]
    public void Data_that_cannot_be_read_is_not_let_through()
    {
        Script("window.D = {u: '/hidden-1'}", Rule("$..*") with { Behind = "window.D" }).ShouldBeNull();
        CardTests.Filtered("<script>window.D = {u: '/hidden-1'}</script>x", [], 1, [Rule("$..*") with { Behind = "window.D" }]).ShouldBe("<script></script>x");
        CardTests.Filtered("<script id=d type=application/json>[{\"u\":\"/hidden-1\"},2]</script><script>1</script>x", [], 3,
            [Rule("$[*]") with { Behind = "#d" }])
            .ShouldBe("<script id=d type=application/json>[2]</script><script>1</script>x");
        CardTests.Filtered("<script>var a=1;window.D=[\"/hidden-1\"]</script>", [], 5, [Rule("$[*]") with { Behind = "window.D" }])
            .ShouldBe("<script>var a=1;window.D=[]</script>");
    }

    [Fact]
    public void An_index_keeps_its_places_and_points_at_nothing_that_went()
    {
        var rule = Rule("$.paths[*]", null, null, true, ["$.titles"], ["$.words.*", "$.words.*[*]", "$.heads.*[*][0]"]);
        Sifted("""
            {"paths":["/open-1","/hidden-1","/open-2"],"titles":["One","Secret","Two"],"words":{"dome":[0,1],"secret":[1],"lone":1,"two":2},
            "heads":{"S":[[1,"#a"]],"T":[[2,"#b"],[1,"#c"]]}}
            """, rule).ShouldBe("""
            {"paths":["/open-1","","/open-2"],"titles":["One","","Two"],"words":{"dome":[0],"two":2},
            "heads":{"T":[[2,"#b"]]}}
            """);
    }

    [Property(MaxTest = 2000)]
    public void On_any_data_it_does_what_a_plain_reading_does(int seed)
    {
        var random = new System.Random(seed);
        var root = new JsonObject
        {
            ["items"] = new JsonArray([.. Enumerable.Range(0, random.Next(8)).Select(n => Entry(random, n))]),
            ["rest"] = Any(random, 3)
        };
        var text = root.ToJsonString(new JsonSerializerOptions { WriteIndented = random.Next(2) == 0 });
        var left = Sifted(text, Rule("$.items[*]", "product:{sku}", "@.price"));
        var list = (JsonArray)root["items"]!;
        for (var n = list.Count - 1; n >= 0; n--)
        {
            var sku = (string)list[n]!["sku"]!;
            if (sku[0] == 'h')
            {
                list.RemoveAt(n);
            }
            else if (sku[0] == 'd')
            {
                ((JsonObject)list[n]!).Remove("price");
            }
        }

        JsonNode.DeepEquals(JsonNode.Parse(left!), root).ShouldBeTrue($"{text}\n{left}");
        if (!text.Contains("\"h", StringComparison.Ordinal) && !text.Contains("\"d", StringComparison.Ordinal))
        {
            left.ShouldBe(text);
        }
    }

    private static JsonObject Entry(System.Random random, int number)
    {
        var entry = new JsonObject { ["sku"] = "ohd"[random.Next(3)].ToString() + number };
        if (random.Next(2) == 0)
        {
            entry["price"] = random.NextDouble();
        }

        entry["more"] = Any(random, 2);
        return entry;
    }

    private static JsonNode? Any(System.Random random, int depth) => random.Next(depth > 0 ? 6 : 4) switch
    {
        0 => null,
        1 => JsonValue.Create(random.Next(-5, 5)),
        2 => JsonValue.Create("ü \" \\ \n " + random.Next(10)),
        3 => JsonValue.Create(random.Next(2) == 0),
        4 => new JsonArray([.. Enumerable.Range(0, random.Next(4)).Select(_ => Any(random, depth - 1))]),
        _ => new JsonObject(Enumerable.Range(0, random.Next(4)).Select(n => KeyValuePair.Create("k" + n, Any(random, depth - 1)))),
    };

    [Property(MaxTest = 3000)]
    public void No_text_breaks_it(string text)
    {
        _ = Sifted(text ?? "", Rule("$..*"));
        _ = JsonPath.TryParse(text ?? "", '$', out _);
        _ = Script("D=" + text, Rule("$..*") with { Behind = "D" });
    }

    [Fact]
    public void Depth_and_length_cost_what_they_are_long()
    {
        var wide = "[" + string.Join(',', Enumerable.Repeat("{\"u\":\"/hidden-1\"}", 200_000)) + "]";
        Sifted(wide, Rule("$..*")).ShouldBe("[]");
        Sifted(new string('[', 100_000), Rule("$..*")).ShouldBeNull();
        var deep = string.Concat(Enumerable.Repeat("[", 200)) + "\"/hidden-1\"" + new string(']', 200);
        Sifted(deep, Rule("$..*..*..*")).ShouldBe(new string('[', 199) + new string(']', 199));
    }
}
