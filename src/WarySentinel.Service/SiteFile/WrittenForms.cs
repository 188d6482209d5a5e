using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using System.Text.RegularExpressions;
using WarySentinel.Core;
using WarySentinel.Core.Access;
using WarySentinel.Core.Pages;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Directory;
using WarySentinel.Core.People.Forms;
using YamlDotNet.Core;
using YamlDotNet.Core.Events;

namespace WarySentinel.Service.SiteFile;

/// <summary>Terms, fields and forms in a site file: whole trees, under the very names that the API has for them.</summary>
internal static partial class WrittenForms
{
    /// <summary>What an entry of fields may hold.</summary>
    public static readonly IReadOnlyList<string> FieldNames = NamesOf<FieldDraft>();

    /// <summary>What an entry of terms may hold.</summary>
    public static readonly IReadOnlyList<string> TermsNames = NamesOf<TermsDraft>();

    /// <summary>What an entry of forms may hold.</summary>
    public static readonly IReadOnlyList<string> FormNames = NamesOf<FormDraft>();

    /// <summary>What an entry of visitor pages may hold.</summary>
    public static readonly IReadOnlyList<string> PageNames = NamesOf<PageDraft>();

    /// <summary>What an entry of texts may hold.</summary>
    public static readonly IReadOnlyList<string> TextsNames = NamesOf<TextsDraft>();

    /// <summary>What is said of the site as such.</summary>
    public static readonly IReadOnlyList<string> SiteNames = NamesOf<SiteDraft>();

    /// <summary>What a look may hold.</summary>
    public static readonly IReadOnlyList<string> LookNames = NamesOf<LookDraft>();

    /// <summary>What the settings of joining may hold.</summary>
    public static readonly IReadOnlyList<string> JoiningNames = NamesOf<JoiningDraft>();

    /// <summary>What the directory may hold.</summary>
    public static readonly IReadOnlyList<string> DirectoryNames = NamesOf<DirectoryDraft>();

    private static readonly JsonSerializerOptions Strict = new(Detail.Written)
    {
        UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow, NumberHandling = JsonNumberHandling.AllowReadingFromString, MaxDepth = 100,
        Converters = { new WrittenBool() },
    };

    /// <summary>The entry, or the one place in it that does not fit.</summary>
    public static Outcome<T> Read<T>(YamlNode node)
        where T : class
    {
        try
        {
            return JsonOf(node).Deserialize<T>(Strict)!;
        }
        catch (JsonException fault)
        {
            var place = fault.Path?.TrimStart('$').TrimStart('.') ?? "";
            var name = place.Split('.')[^1];
            return Problem.In(place, fault.Message.Contains("could not be mapped", StringComparison.Ordinal) ? "site-file-name" : "site-file-value", name);
        }
    }

    /// <summary>
    /// Where a field stands, such as <c>sections[0].fields[2].shownIf</c> or <c>words[sign-in.title]</c>; where it is not written, what it would stand in.
    /// </summary>
    public static (int Line, int Column) PlaceOf(YamlNode node, string field)
    {
        foreach (Match step in Steps().Matches(field))
        {
            var name = step.Groups[1].Success ? step.Groups[1].Value : step.Groups[2].Value;
            var next = node.List is { } list && int.TryParse(name, System.Globalization.NumberStyles.None, null, out var place)
                ? list.ElementAtOrDefault(place) : node.Map?.Find(m => m.Name == name).Value;
            if (next is null)
            {
                // A name that nobody knows is shown where it stands itself.
                var key = node.Map?.Find(m => m.Name == name).Key;
                return key is null ? (node.Line, node.Column) : (key.Line, key.Column);
            }

            node = next;
        }

        return (node.Line, node.Column);
    }

    /// <summary>Writes an entry's tree.</summary>
    public static void Write(Action<ParsingEvent> emit, JsonNode node)
    {
        switch (node)
        {
            case JsonObject map:
                emit(new MappingStart(AnchorName.Empty, TagName.Empty, true, MappingStyle.Block));
                foreach (var (name, value) in map.Where(p => p.Value is not null))
                {
                    emit(new Scalar(name));
                    Write(emit, value!);
                }

                emit(new MappingEnd());
                break;
            case JsonArray list:
                var flow = list.All(v => v is JsonValue) ? SequenceStyle.Flow : SequenceStyle.Block;
                emit(new SequenceStart(AnchorName.Empty, TagName.Empty, true, flow));
                foreach (var value in list)
                {
                    Write(emit, value!);
                }

                emit(new SequenceEnd());
                break;
            default:
                var isText = node.GetValueKind() == JsonValueKind.String;
                var text = isText ? node.GetValue<string>() : node.ToJsonString();
                var style = !isText ? ScalarStyle.Plain : text.Contains('\n', StringComparison.Ordinal) && !text.EndsWith(' ') ? ScalarStyle.Literal
                    : text is "" or "~" or "null" or "true" or "false" or "yes" or "no" ? ScalarStyle.DoubleQuoted : ScalarStyle.Any;
                emit(new Scalar(AnchorName.Empty, TagName.Empty, text, style, true, true));
                break;
        }
    }

    private static JsonNode? JsonOf(YamlNode node) => node.Map is { } map
        ? new JsonObject(map.Select(m => KeyValuePair.Create(m.Name, JsonOf(m.Value))))
        : node.List is { } list ? new JsonArray([.. list.Select(JsonOf)]) : node.Value is { } text ? JsonValue.Create(text) : null;

    private static string[] NamesOf<T>() => [.. typeof(T).GetProperties().Where(p => p.CanWrite).Select(p => JsonNamingPolicy.CamelCase.ConvertName(p.Name))];

    [GeneratedRegex(@"\[([^\]]+)\]|([^.\[\]]+)")]
    private static partial Regex Steps();

    /// <summary>True and false as a site file has them.</summary>
    private sealed class WrittenBool : JsonConverter<bool>
    {
        public override bool Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            reader.TokenType == JsonTokenType.String ? reader.GetString() switch { "true" => true, "false" => false, _ => throw new JsonException() }
            : reader.TokenType is JsonTokenType.True or JsonTokenType.False ? reader.GetBoolean() : throw new JsonException();

        public override void Write(Utf8JsonWriter writer, bool value, JsonSerializerOptions options) => writer.WriteBooleanValue(value);
    }
}
