namespace WarySentinel.Service.Web;

/// <summary>The sentences on visitor pages, in the language of whoever reads the page (<see cref="Reader.Book"/>).</summary>
public static class PageWords
{
    /// <summary>The sentence under a key with its values set in. Throws <see cref="KeyNotFoundException"/> on a key that is not there.</summary>
    public static string Of(string key, params object?[] values) => Reader.Book.Of(key, values);

    /// <summary>The sentence that counts something, in the form for that many. The count is its last value.</summary>
    public static string Count(string key, long count, params object?[] values) => Reader.Book.Count(key, count, values);

    /// <summary>The forms of a sentence that counts something, by the name of each, for a script that counts by itself (ECMA-402 §16).</summary>
    public static IReadOnlyDictionary<string, string> Forms(string key) => Reader.Book.Forms(key);

    /// <summary>What the owner says under a key in the reader's language; what they say in the site's own where they say nothing else.</summary>
    public static string Own(string key, string said) => Reader.Book.FindOwn(key) ?? said;

    /// <summary>A duration as visitors read it.</summary>
    public static string Duration(TimeSpan time) => time.TotalMinutes >= 2 ? Count("time.minutes", (long)Math.Ceiling(time.TotalMinutes))
        : Count("time.seconds", Math.Max(1, (long)Math.Ceiling(time.TotalSeconds)));
}
