namespace WarySentinel.Core;

/// <summary>
/// A sentence that is not worded yet: its key and the values to be set in. It travels as that, and is worded where somebody reads it, in their language.
/// </summary>
public sealed class Wording : IEquatable<Wording>
{
    private readonly IReadOnlyList<object?> values;
    private readonly int? count;

    private Wording(string key, IReadOnlyList<object?> values, int? count = null) => (Key, this.values, this.count) = (key, values, count);

    /// <summary>The key of the sentence; empty where it is somebody else's, as a parser's or a server's.</summary>
    public string Key { get; }

    /// <summary>The values in order, as they are: numbers, names, other sentences.</summary>
    public IReadOnlyList<object?> Values => values;

    /// <summary>The sentence under a key, with these values.</summary>
    public static Wording Of(string key, params object?[] values) => new(key, values);

    /// <summary>The sentence that counts something, in each language in its form for that many (<c>key.one</c>, …). The count is the last value.</summary>
    public static Wording Count(string key, int count, params object?[] values) => new(key, [.. values, count], count);

    /// <summary>Words that came from elsewhere and are in no book.</summary>
    public static Wording Plain(string text) => new("", [text]);

    /// <summary>The sentence in a language.</summary>
    public string In(Wordbook book) => Key.Length == 0 ? (string)values[0]!
        : count is { } many ? book.Count(Key, many, [.. values.SkipLast(1)]) : book.Of(Key, values);

    /// <summary>Several sentences, one after the other.</summary>
    public static Wording Joined(IReadOnlyList<Wording> all) => all.Count == 1 ? all[0] : all.Aggregate((one, next) => Of("joined", one, next));

    /// <summary>The same words of another place: their first two values are line and column.</summary>
    public Wording At(int line, int column) => new(Key, [line, column, .. values.Skip(2)], count);

    /// <inheritdoc/>
    public bool Equals(Wording? other) => other is not null && Key == other.Key && values.SequenceEqual(other.values);

    /// <inheritdoc/>
    public override bool Equals(object? obj) => Equals(obj as Wording);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Key, values.Count > 0 ? values[0] : null);

    /// <summary>The sentence in English, for logs.</summary>
    public override string ToString() => In(Wordbook.English);
}
