using System.Globalization;

namespace WarySentinel.Core;

/// <summary>
/// Sentences for those who run the site, in the language of whoever asks (<see cref="CultureInfo.CurrentUICulture"/>), where they are spoken to in it; else in
/// English. What is kept for others to read is worded by <see cref="In"/>, in the language of the site.
/// </summary>
public static class Words
{
    private static Wordbook Book => OfStaff(CultureInfo.CurrentUICulture.Name);

    /// <summary>The book of a language, where staff are spoken to in it; else the English one.</summary>
    public static Wordbook In(string? language) => OfStaff(language);

    /// <summary>The sentence under a key with its values set in. Throws <see cref="KeyNotFoundException"/> on a key that is not there.</summary>
    public static string Of(string key, params object?[] values) => Book.Of(key, values);

    /// <summary>The book that <see cref="Of"/> takes its sentences from.</summary>
    public static Wordbook Current => Book;

    /// <summary>Whether a sentence stands under this key.</summary>
    public static bool Has(string key) => Wordbook.English.Has(key);

    private static Wordbook OfStaff(string? language) =>
        Wordbook.Find(language) is { } book && Wordbook.OfStaff.Contains(book.Language) ? book : Wordbook.English;
}
