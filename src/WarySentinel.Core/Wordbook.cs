using System.Globalization;
using System.Text.Json;

namespace WarySentinel.Core;

/// <summary>
/// The sentences that people read in one language, from embedded resources: <c>words.en.json</c> for those who run the site, <c>pages.en.json</c> for its
/// visitors. What a language lacks is said in English.
/// </summary>
public sealed class Wordbook
{
    /// <summary>The languages that visitors are spoken to in, by their tag (RFC 5646); the first has every sentence.</summary>
    public static readonly IReadOnlyList<string> Languages = ["en", "de", "fr", "es", "it", "nl", "pl", "ja", "ar"];

    /// <summary>Those that the sentences for the people who run the site are in, too.</summary>
    public static readonly IReadOnlyList<string> OfStaff = ["en", "de"];

    private static readonly Dictionary<string, Lazy<Wordbook>> Books =
        Languages.ToDictionary(l => l, l => new Lazy<Wordbook>(() => new Wordbook(l)), StringComparer.OrdinalIgnoreCase);
    private readonly IReadOnlyDictionary<string, string> entries;
    private readonly IReadOnlyDictionary<string, string> own;

    private Wordbook(string language)
    {
        Language = language;
        var all = Read("words", language);
        var pages = Read("pages", language);
        foreach (var (key, sentence) in pages)
        {
            all.Add(key, sentence);
        }

        (VisitorKeys, entries, own) = ([.. pages.Keys], all, new Dictionary<string, string>());
    }

    private Wordbook(string language, Wordbook ours, IReadOnlyDictionary<string, string> own) =>
        (Language, VisitorKeys, entries, this.own) = (language, ours.VisitorKeys, ours.entries, own);

    /// <summary>The book that has every sentence.</summary>
    public static Wordbook English => Books["en"].Value;

    /// <summary>The tag of the language.</summary>
    public string Language { get; }

    /// <summary>Whether it is written from right to left.</summary>
    public bool IsRightToLeft => SiteCulture.Of(Language).TextInfo.IsRightToLeft;

    /// <summary>The keys that this language has a sentence for.</summary>
    public IEnumerable<string> Keys => entries.Keys;

    /// <summary>Those of them that visitors read, in the order of the resource.</summary>
    public IReadOnlyList<string> VisitorKeys { get; }

    /// <summary>The book for a reader's language, such as <c>de-CH</c>: that one, else the language without its region, else English.</summary>
    public static Wordbook For(CultureInfo reader) => Find(reader.Name) ?? English;

    /// <summary>The book of a language tag: of that very one, else of the language without what follows; null where there is none.</summary>
    public static Wordbook? Find(string? tag)
    {
        for (var at = tag ?? ""; at.Length > 0; at = at.Contains('-') ? at[..at.LastIndexOf('-')] : "")
        {
            if (Books.TryGetValue(at, out var book))
            {
                return book.Value;
            }
        }

        return null;
    }

    /// <summary>This book with somebody's own sentences before its own, for readers of a language.</summary>
    public Wordbook With(string language, IReadOnlyDictionary<string, string> sentences) =>
        new(language, this, own.Count == 0 ? sentences : sentences.UnionBy(own, s => s.Key).ToDictionary());

    /// <summary>Somebody's own text under a key that we have no sentence for; null where they have none.</summary>
    public string? FindOwn(string key) => own.GetValueOrDefault(key);

    /// <summary>Whether this language has that sentence, of theirs or of ours.</summary>
    public bool Has(string key) => own.ContainsKey(key) || entries.ContainsKey(key);

    /// <summary>The sentence as it stands in the resource. Throws <see cref="KeyNotFoundException"/> on a key that no language has.</summary>
    public string this[string key] => own.TryGetValue(key, out var theirs) ? theirs : entries.TryGetValue(key, out var ours) ? ours : English.entries[key];

    /// <summary>The sentence under a key with its values set in; values that are sentences themselves are worded in the same language.</summary>
    public string Of(string key, params IReadOnlyList<object?> values) => Filled(this[key], values);

    /// <summary>
    /// The sentence that counts something, in the form for that many (<c>key.one</c>, <c>key.few</c> …; <c>key</c> itself for all others). The count is the
    /// last value.
    /// </summary>
    public string Count(string key, long count, params IReadOnlyList<object?> values)
    {
        var book = Has(key) ? this : English;
        var form = $"{key}.{Plural.Of(book.Language, count)}";
        // Their own words for every number count before ours for this one.
        var said = book.own.TryGetValue(form, out var theirs) || book.own.TryGetValue(key, out theirs) || book.entries.TryGetValue(form, out theirs)
            ? theirs : book[key];
        return Filled(said, [.. values, count]);
    }

    /// <summary>The forms of a sentence that counts something, by their names; <see cref="Plural.Other"/> is always among them.</summary>
    public IReadOnlyDictionary<string, string> Forms(string key) => Plural.Forms.Where(f => Has($"{key}.{f}")).Select(f => (Form: f, Said: this[$"{key}.{f}"]))
        .Append((Plural.Other, this[key])).ToDictionary(f => f.Item1, f => f.Item2);

    private string Filled(string sentence, IReadOnlyList<object?> values) => values.Count == 0 ? sentence
        : string.Format(CultureInfo.InvariantCulture, sentence, [.. values.Select(v => v is Wording inner ? inner.In(this) : v)]);

    private static Dictionary<string, string> Read(string family, string language)
    {
        using var stream = typeof(Wordbook).Assembly.GetManifestResourceStream($"WarySentinel.Core.{family}.{language}.json")
            ?? throw new InvalidOperationException($"The resource {family}.{language}.json is missing from the build.");
        return JsonSerializer.Deserialize<Dictionary<string, string>>(stream)!;
    }
}
