using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace WarySentinel.Core.Markup;

/// <summary>Takes what names a hidden address out of the data that a page tells search engines (JSON-LD 1.1).</summary>
internal static class JsonSieve
{
    private static readonly JsonSerializerOptions Written = new() { Encoder = JavaScriptEncoder.Default };

    /// <summary>The text without the list entries and objects that name a hidden address; the same text where none does.</summary>
    /// <param name="text">The JSON. What cannot be read is emptied when it names a hidden address anywhere.</param>
    /// <param name="isHidden">Whether a text is a link to something hidden.</param>
    public static string Clean(string text, Func<string, bool> isHidden)
    {
        try
        {
            var node = JsonNode.Parse(text, null, new JsonDocumentOptions
            { AllowTrailingCommas = true, CommentHandling = JsonCommentHandling.Skip, MaxDepth = 32 });
            var dropped = false;
            var kept = Sift(node, isHidden, ref dropped);
            return !dropped ? text : kept is null ? "{}" : kept.ToJsonString(Written);
        }
        catch (Exception fault) when (fault is JsonException or ArgumentException)
        {
            var quoted = text.Split('"', '\'', ' ', '\n', '\t');
            return quoted.Any(q => q.Length > 1 && (q[0] == '/' || q.StartsWith("http", StringComparison.OrdinalIgnoreCase)) && isHidden(q)) ? "{}" : text;
        }
    }

    /// <summary>The node without what is hidden; null when it is hidden itself.</summary>
    private static JsonNode? Sift(JsonNode? node, Func<string, bool> isHidden, ref bool dropped)
    {
        switch (node)
        {
            case JsonValue value when value.TryGetValue<string>(out var text):
                if (text.Length > 0 && isHidden(text))
                {
                    dropped = true;
                    return null;
                }

                return node;
            case JsonArray list:
                for (var at = list.Count - 1; at >= 0; at--)
                {
                    if (list[at] is { } entry && Sift(entry, isHidden, ref dropped) is null)
                    {
                        list.RemoveAt(at);
                    }
                }

                return node;
            case JsonObject thing:
                foreach (var (name, part) in thing.ToList())
                {
                    // An object of which a value is hidden is about what is hidden; a list merely loses its entry.
                    if (part is not null && Sift(part, isHidden, ref dropped) is null)
                    {
                        return null;
                    }
                }

                return node;
            default:
                return node;
        }
    }
}
