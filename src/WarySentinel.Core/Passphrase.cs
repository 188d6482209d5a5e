using System.Collections.Concurrent;

namespace WarySentinel.Core;

/// <summary>
/// Passwords that are drawn for people: words that can be read aloud, told apart by their first four letters (but for Japanese ones), and typed on any
/// keyboard of Latin letters; Arabic ones on an Arabic keyboard, in letters that have one spelling. Where the lists come from stands in LICENSE: 2,048 words
/// make 11 bits each, 1,024 words 10, 512 words 9.
/// </summary>
public static class Passphrase
{
    /// <summary>Random bits of a password, at least.</summary>
    public const int Bits = 77;

    private const string Usual = "en";

    // Letters and digits that nobody takes for another, for short endings of names.
    private const string Readable = "abcdefghjkmnpqrstuvwxyz23456789";

    private static readonly HashSet<string> Languages = ["ar", "de", "en", "es", "fr", "it", "ja", "nl", "pl"];
    private static readonly ConcurrentDictionary<string, string[]> Lists = new(StringComparer.Ordinal);

    /// <summary>A password, in words of a language where there is a list of it, and English ones where there is none.</summary>
    /// <param name="language">A tag of RFC 5646; null for English.</param>
    /// <param name="draw">Gives a random number from 0 up to and without its argument.</param>
    public static string Draw(string? language, Func<int, int> draw)
    {
        var words = ListOf(language?.Split('-')[0].ToLowerInvariant() is { } primary && Languages.Contains(primary) ? primary : Usual);
        return string.Join('-', Enumerable.Range(0, (int)Math.Ceiling(Bits / Math.Log2(words.Length))).Select(_ => words[draw(words.Length)]));
    }

    /// <summary>A few letters and digits that tell one name from another.</summary>
    public static string DrawEnding(Func<int, int> draw) => string.Concat(Enumerable.Range(0, 5).Select(_ => Readable[draw(Readable.Length)]));

    private static string[] ListOf(string language) => Lists.GetOrAdd(language, static l =>
    {
        using var stream = typeof(Passphrase).Assembly.GetManifestResourceStream($"WarySentinel.Core.wordlist.{l}.txt")!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd().Split('\n', StringSplitOptions.RemoveEmptyEntries);
    });
}
