using System.Collections.Concurrent;

namespace WarySentinel.Core;

/// <summary>
/// Passwords that are drawn for people: words that can be read aloud, told apart by their first four letters, and typed on any keyboard. The lists are those
/// of BIP-39, 2,048 words each, so that a word is worth 11 bits.
/// </summary>
public static class Passphrase
{
    /// <summary>Words of a password.</summary>
    public const int Length = 7;

    /// <summary>Random bits of a password.</summary>
    public const int Bits = Length * 11;

    private const string Usual = "en";
    private const int ListLength = 2048;

    // Letters and digits that nobody takes for another, for short endings of names.
    private const string Readable = "abcdefghjkmnpqrstuvwxyz23456789";

    private static readonly HashSet<string> Languages = ["en", "es", "fr", "it"];
    private static readonly ConcurrentDictionary<string, string[]> Lists = new(StringComparer.Ordinal);

    /// <summary>A password, in words of a language where there is a list of it, and English ones where there is none.</summary>
    /// <param name="language">A tag of RFC 5646; null for English.</param>
    /// <param name="draw">Gives a random number from 0 up to and without its argument.</param>
    public static string Draw(string? language, Func<int, int> draw)
    {
        var words = ListOf(language?.Split('-')[0].ToLowerInvariant() is { } primary && Languages.Contains(primary) ? primary : Usual);
        return string.Join('-', Enumerable.Range(0, Length).Select(_ => words[draw(ListLength)]));
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
