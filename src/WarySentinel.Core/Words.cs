namespace WarySentinel.Core;

/// <summary>Sentences in English, for what is not worded by the reader's language yet.</summary>
public static class Words
{
    /// <summary>The sentence under a key with its values set in. Throws <see cref="KeyNotFoundException"/> on a key that is not there.</summary>
    public static string Of(string key, params object?[] values) => Wordbook.English.Of(key, values);

    /// <summary>The sentence under a key that counts something, in its form for that many. The count is the last value.</summary>
    public static string Count(string key, int count, params object?[] values) => Wordbook.English.Count(key, count, values);

    /// <summary>Whether a sentence stands under this key.</summary>
    public static bool Has(string key) => Wordbook.English.Has(key);
}
