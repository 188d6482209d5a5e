using System.Globalization;
using System.Text.Json;

namespace WarySentinel.Core;

/// <summary>The sentences that people read, from the embedded resource <c>words.en.json</c>.</summary>
public static class Words
{
    private static readonly Dictionary<string, string> Entries = Load();

    /// <summary>The sentence under a key with its values set in. Throws <see cref="KeyNotFoundException"/> on a key that is not there.</summary>
    public static string Of(string key, params object?[] values) =>
        values.Length == 0 ? Entries[key] : string.Format(CultureInfo.InvariantCulture, Entries[key], values);

    /// <summary>
    /// The sentence under a key that counts something: its form for one (<c>key.one</c>) where there is just one. The count is the last
    /// value.
    /// </summary>
    public static string Count(string key, int count, params object?[] values) => Of(count == 1 ? key + ".one" : key, [.. values, count]);

    /// <summary>Whether a sentence stands under this key.</summary>
    public static bool Has(string key) => Entries.ContainsKey(key);

    private static Dictionary<string, string> Load()
    {
        using var stream = typeof(Words).Assembly.GetManifestResourceStream("WarySentinel.Core.words.en.json")
            ?? throw new InvalidOperationException("The resource words.en.json is missing from the build.");
        return JsonSerializer.Deserialize<Dictionary<string, string>>(stream)!;
    }
}
