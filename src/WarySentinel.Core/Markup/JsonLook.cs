using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>An entry of data as a rule finds it.</summary>
/// <param name="Text">Its JSON.</param>
/// <param name="About">What it is about: names of items, or addresses.</param>
public sealed record SeenInData(string Text, IReadOnlyList<string> About);

/// <summary>Looks through data by a rule, and changes nothing.</summary>
public static class JsonLook
{
    /// <summary>The entries that a rule finds in an answer or in a page or script that holds data; null where no such data can be read.</summary>
    public static IReadOnlyList<SeenInData>? At(byte[] body, JsonEntries rule)
    {
        if (rule.Behind is null)
        {
            return JsonTree.Read(JsonSieve.PlainOf(body), false) is { } whole ? Of(whole, rule) : null;
        }

        var trees = rule.Behind[0] == '#' ? InElement(body, rule.Behind[1..]) : JsonSieve.DataIn(body, rule);
        return trees.Count == 0 || trees.Contains(null) ? null : [.. trees.SelectMany(t => Of(t!, rule))];
    }

    private static List<JsonTree?> InElement(byte[] page, string id)
    {
        var document = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(Encoding.UTF8.GetString(page));
        return document.GetElementById(id) is { LocalName: "script" } script ? [JsonTree.Read(Encoding.UTF8.GetBytes(script.TextContent), false)] : [];
    }

    private static IReadOnlyList<SeenInData> Of(JsonTree tree, JsonEntries rule)
    {
        return [.. rule.Entries.Select(tree, tree.Outermost()).Select(e => new SeenInData(tree.RawOf(e), rule.AboutOf(tree, e)))];
    }
}
