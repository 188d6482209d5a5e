using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;

namespace WarySentinel.Core;

/// <summary>One field that a change made other.</summary>
/// <param name="Field">The field, as it is written.</param>
/// <param name="Before">What it said; null where it said nothing.</param>
/// <param name="After">What it says.</param>
public sealed record FieldChange(string Field, string? Before, string? After);

/// <summary>What something said before a change and after it, kept with the audit entry so that it can be read and undone.</summary>
public static class Detail
{
    /// <summary>How drafts are written down.</summary>
    public static readonly JsonSerializerOptions Written = new(JsonSerializerDefaults.Web)
    {
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    /// <summary>Both sides as JSON; either may be null.</summary>
    public static string Of<T>(T? before, T? after)
        where T : class => JsonSerializer.Serialize(new { before, after }, Written);

    /// <summary>What stood before; null where there was nothing, or the text is not a detail of that kind.</summary>
    public static T? BeforeOf<T>(string? detail)
        where T : class
    {
        try
        {
            return (Read(detail)?["before"])?.Deserialize<T>(Written);
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>The fields that differ, in the order in which they stand.</summary>
    public static IReadOnlyList<FieldChange> ChangesOf(string? detail)
    {
        if (Read(detail) is not { } both)
        {
            return [];
        }

        var (before, after) = (both["before"] as JsonObject ?? [], both["after"] as JsonObject ?? []);
        return [.. before.Select(p => p.Key).Union(after.Select(p => p.Key))
            .Select(name => new FieldChange(name, Say(before[name]), Say(after[name]))).Where(c => c.Before != c.After)];
    }

    /// <summary>A detail as it is stored; null where there is none, or it cannot be read.</summary>
    private static JsonObject? Read(string? detail)
    {
        try
        {
            return detail is null ? null : JsonNode.Parse(detail) as JsonObject;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    private static string? Say(JsonNode? node) => node switch
    {
        null => null,
        JsonArray { Count: 0 } => null,
        JsonArray list => string.Join(", ", list.Select(Say)),
        JsonValue value when value.TryGetValue<string>(out var text) => text,
        JsonObject part => string.Join("; ", part.Where(p => p.Value is not null).Select(p => $"{p.Key}: {Say(p.Value)}")),
        _ => node.ToJsonString(),
    };
}
