using System.Buffers;
using System.Text;
using System.Text.Json.Nodes;
using Shouldly;
using WarySentinel.Core.Markup;
using Xunit;

namespace WarySentinel.Core.Tests.Markup;

/// <summary>
/// The search index of a site of five hundred pages, as a documentation generator wrote it: three megabytes, thirty-seven thousand words. What the documented
/// rule leaves of it is held against the same index read and emptied by other means.
/// </summary>
public sealed class SearchIndexTests
{
    private static readonly string[] Points =
    [
        "$.terms.*", "$.terms.*[*]", "$.titleterms.*", "$.titleterms.*[*]", "$.alltitles.*[*][0]", "$.indexentries.*[*][0]", "$.objects.*[*][0]",
    ];

    [Theory]
    [InlineData(2)]
    [InlineData(7)]
    [InlineData(97)]
    public void Pages_that_are_hidden_are_found_by_no_word_and_all_others_as_before(int oneIn)
    {
        var script = File.ReadAllText(RealPages.SearchIndex);
        bool IsHidden(string name) => name.Aggregate(oneIn * 7, (sum, c) => unchecked((sum * 31) + c)) % oneIn == 0;
        static JsonPath Of(string text) => JsonPath.TryParse(text, '$', out _)!;
        var rule = new JsonEntries(Of("$.docnames[*]"), "/docs/{.}.html", null, true, [Of("$.titles"), Of("$.filenames")], [.. Points.Select(Of)])
        {
            Behind = "Search.setIndex",
        };
        var output = new ArrayBufferWriter<byte>();
        var decider = new CardTests.CardDecider(a => a.StartsWith("/docs/", StringComparison.Ordinal) && IsHidden(a[6..^5]));
        JsonSieve.TrySiftScript(Encoding.UTF8.GetBytes(script), [rule], decider, output).ShouldBeTrue();

        var left = DataOf(Encoding.UTF8.GetString(output.WrittenSpan));
        var expected = DataOf(script);
        var gone = Emptied(expected, IsHidden);
        gone.ShouldNotBeEmpty();
        JsonNode.DeepEquals(left, expected).ShouldBeTrue();
        script.Length.ShouldBeGreaterThan(output.WrittenCount);
    }

    private static JsonObject DataOf(string script) =>
        JsonNode.Parse(script[(script.IndexOf('(', StringComparison.Ordinal) + 1)..script.LastIndexOf(')')])!.AsObject();

    private static HashSet<int> Emptied(JsonObject index, Func<string, bool> isHidden)
    {
        var names = index["docnames"]!.AsArray();
        var gone = Enumerable.Range(0, names.Count).Where(n => isHidden(names[n]!.GetValue<string>())).ToHashSet();
        foreach (var list in new[] { "docnames", "titles", "filenames" })
        {
            foreach (var place in gone)
            {
                index[list]!.AsArray()[place] = "";
            }
        }

        foreach (var words in new[] { "terms", "titleterms", "alltitles", "indexentries", "objects" })
        {
            var left = new JsonObject();
            foreach (var (word, found) in index[words]!.AsObject())
            {
                var places = found!.DeepClone();
                _ = (places as JsonArray)?.RemoveAll(p => gone.Contains((p is JsonArray pair ? pair[0] : p)!.GetValue<int>()));
                if (places is not JsonArray { Count: 0 } && !(places is JsonValue one && gone.Contains(one.GetValue<int>())))
                {
                    left.Add(word, places);
                }
            }

            index[words] = left;
        }

        return gone;
    }
}
