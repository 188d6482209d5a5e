using System.Text.Json;
using System.Text.Json.Serialization;

namespace WarySentinel.Core;

/// <summary>A password, a hash, a key: kept, compared and sent like the text that it is, and never shown by whatever prints the record that holds it.</summary>
[JsonConverter(typeof(AsText))]
public sealed class Secret : IEquatable<Secret>
{
    /// <summary>What stands in its place.</summary>
    public const string Shown = "•••";

    private readonly string value;

    /// <summary>Keeps a text from being shown.</summary>
    public Secret(string value) => this.value = value;

    /// <summary>The text itself, for whatever has to hash, compare or store it.</summary>
    public string Reveal() => value;

    /// <inheritdoc/>
    public override string ToString() => Shown;

    /// <inheritdoc/>
    public bool Equals(Secret? other) => other is not null && value == other.value;

    /// <inheritdoc/>
    public override bool Equals(object? obj) => Equals(obj as Secret);

    /// <inheritdoc/>
    public override int GetHashCode() => value.GetHashCode(StringComparison.Ordinal);

    /// <summary>A text that is a secret from here on; none of none.</summary>
    [return: System.Diagnostics.CodeAnalysis.NotNullIfNotNull(nameof(value))]
    public static implicit operator Secret?(string? value) => value is null ? null : new Secret(value);

    /// <summary>In JSON it is the text: what is written there is meant for whoever reads it.</summary>
    public sealed class AsText : JsonConverter<Secret>
    {
        /// <inheritdoc/>
        public override Secret? Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            reader.TokenType == JsonTokenType.String ? reader.GetString() : throw new JsonException();

        /// <inheritdoc/>
        public override void Write(Utf8JsonWriter writer, Secret value, JsonSerializerOptions options) => writer.WriteStringValue(value.Reveal());
    }
}
