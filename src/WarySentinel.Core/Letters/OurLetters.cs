using System.Text.Json;

namespace WarySentinel.Core.Letters;

/// <summary>The letters that come with the service, from embedded resources (<c>letters.en.json</c>). Every kind is there in English.</summary>
public static class OurLetters
{
    /// <summary>The languages that there are letters in.</summary>
    public static IReadOnlyList<string> Languages => Wordbook.Languages;

    private static readonly Dictionary<string, Dictionary<string, LetterTemplate>> All = Languages.ToDictionary(l => l, Read, StringComparer.Ordinal);

    /// <summary>The letter of that kind in that very language, or null.</summary>
    public static LetterTemplate? Find(string kind, string language) => All.GetValueOrDefault(language)?.GetValueOrDefault(kind);

    /// <summary>The letter of that kind in English. Throws <see cref="KeyNotFoundException"/> where there is no such kind.</summary>
    public static LetterTemplate Get(string kind) => All["en"][kind];

    private static Dictionary<string, LetterTemplate> Read(string language)
    {
        using var stream = typeof(OurLetters).Assembly.GetManifestResourceStream($"WarySentinel.Core.letters.{language}.json")
            ?? throw new InvalidOperationException($"The resource letters.{language}.json is missing from the build.");
        var read = JsonSerializer.Deserialize<Dictionary<string, Written>>(stream, JsonSerializerOptions.Web)!;
        return read.ToDictionary(
            w => w.Key, w => new LetterTemplate(w.Key, language, w.Value.Subject, string.Join('\n', w.Value.Html), null), StringComparer.Ordinal);
    }

    private sealed record Written(string Subject, IReadOnlyList<string> Html);
}
