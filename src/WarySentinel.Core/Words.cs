using System.Globalization;

namespace WarySentinel.Core;

/// <summary>
/// Sentences for those who run the site, in the language of whoever asks (<see cref="CultureInfo.CurrentUICulture"/>), where they are spoken to in it; else in
/// English. What is kept for others to read is worded by <see cref="In"/>, in the language of the site.
/// </summary>
public static class Words
{
    /// <summary>The book of whoever asks.</summary>
    public static Wordbook Current => In(CultureInfo.CurrentUICulture.Name);

    /// <summary>The book of a language, where staff are spoken to in it; else the English one.</summary>
    public static Wordbook In(string? language) =>
        Wordbook.Find(language) is { } book && Wordbook.OfStaff.Contains(book.Language) ? book : Wordbook.English;

    /// <summary>The sentence under a key with its values set in. Throws <see cref="KeyNotFoundException"/> on a key that is not there.</summary>
    public static string Of(string key, params object?[] values) => Current.Of(key, values);

    /// <summary>Whether a sentence stands under this key.</summary>
    public static bool Has(string key) => Wordbook.English.Has(key);
}
