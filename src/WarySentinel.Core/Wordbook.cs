using System.Globalization;
using System.Text.Json;

namespace WarySentinel.Core;

/// <summary>
/// The sentences that people read in one language, from an embedded resource (<c>words.en.json</c>). What a language lacks is said in English.
/// </summary>
public sealed class Wordbook
{
    /// <summary>The languages that there are sentences in, by their tag (RFC 5646); the first has all of them.</summary>
    public static readonly IReadOnlyList<string> Languages = ["en", "de"];

    private static readonly Dictionary<string, Wordbook> Books = Languages.ToDictionary(l => l, l => new Wordbook(l), StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, string> entries;

    private Wordbook(string language)
    {
        Language = language;
        using var stream = typeof(Wordbook).Assembly.GetManifestResourceStream($"WarySentinel.Core.words.{language}.json")
            ?? throw new InvalidOperationException($"The resource words.{language}.json is missing from the build.");
        entries = JsonSerializer.Deserialize<Dictionary<string, string>>(stream)!;
    }

    /// <summary>The book that has every sentence.</summary>
    public static Wordbook English => Books["en"];

    /// <summary>The tag of the language.</summary>
    public string Language { get; }

    /// <summary>The keys that this language has a sentence for.</summary>
    public IReadOnlyCollection<string> Keys => entries.Keys;

    /// <summary>The book for a reader's language, such as <c>de-CH</c>: that one, else the language without its region, else English.</summary>
    public static Wordbook For(CultureInfo reader)
    {
        for (var culture = reader; culture.Name.Length > 0; culture = culture.Parent)
        {
            if (Books.TryGetValue(culture.Name, out var book))
            {
                return book;
            }
        }

        return English;
    }

    /// <summary>The sentence as it stands in the resource. Throws <see cref="KeyNotFoundException"/> on a key that no language has.</summary>
    public string this[string key] => entries.TryGetValue(key, out var own) ? own : this == English ? entries[key] : English[key];

    /// <summary>The sentence under a key with its values set in; values that are sentences themselves are worded in the same language.</summary>
    public string Of(string key, params IReadOnlyList<object?> values) => values.Count == 0 ? this[key]
        : string.Format(CultureInfo.InvariantCulture, this[key], [.. values.Select(v => v is Wording inner ? inner.In(this) : v)]);
}
