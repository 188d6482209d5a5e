using System.Diagnostics.CodeAnalysis;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace WarySentinel.Contract;

/// <summary>A password, code or token as it travels: in JSON it is a string, and whatever prints the record that holds it does not show it.</summary>
[JsonConverter(typeof(AsString))]
public sealed class SecretText(string value) : IEquatable<SecretText>
{
    private readonly string value = value;

    /// <summary>The text itself, for whoever it is meant for.</summary>
    public string Reveal() => value;

    /// <inheritdoc/>
    public override string ToString() => "•••";

    /// <inheritdoc/>
    public bool Equals(SecretText? other) => other is not null && value == other.value;

    /// <inheritdoc/>
    public override bool Equals(object? obj) => Equals(obj as SecretText);

    /// <inheritdoc/>
    public override int GetHashCode() => value.GetHashCode(StringComparison.Ordinal);

    /// <summary>A text that is not shown from here on; none of none.</summary>
    [return: NotNullIfNotNull(nameof(value))]
    public static implicit operator SecretText?(string? value) => value is null ? null : new SecretText(value);

    /// <summary>A JSON string.</summary>
    public sealed class AsString : JsonConverter<SecretText>
    {
        /// <inheritdoc/>
        public override SecretText? Read(ref Utf8JsonReader reader, Type typeToConvert, JsonSerializerOptions options) =>
            reader.TokenType == JsonTokenType.String ? reader.GetString() : throw new JsonException();

        /// <inheritdoc/>
        public override void Write(Utf8JsonWriter writer, SecretText value, JsonSerializerOptions options) => writer.WriteStringValue(value.Reveal());
    }
}
