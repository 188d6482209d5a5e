using System.Globalization;
using System.Text.Json;

namespace WarySentinel.Service.Web;

/// <summary>The sentences on visitor pages, from the embedded resource <c>words.en.json</c>.</summary>
public static class PageWords
{
    private static readonly Dictionary<string, string> Entries = Load();

    /// <summary>The sentence under a key with its values set in. Throws <see cref="KeyNotFoundException"/> on a key that is not there.</summary>
    public static string Of(string key, params object?[] values) =>
        values.Length == 0 ? Entries[key] : string.Format(CultureInfo.InvariantCulture, Entries[key], values);

    /// <summary>A duration as visitors read it.</summary>
    public static string Duration(TimeSpan time) =>
        time.TotalMinutes >= 2 ? Of("time.minutes", Math.Ceiling(time.TotalMinutes).ToString(CultureInfo.InvariantCulture))
        : time.TotalSeconds <= 1 ? Of("time.second")
        : Of("time.seconds", Math.Ceiling(time.TotalSeconds).ToString(CultureInfo.InvariantCulture));

    private static Dictionary<string, string> Load()
    {
        using var stream = typeof(PageWords).Assembly.GetManifestResourceStream("WarySentinel.Service.words.en.json")
            ?? throw new InvalidOperationException("The resource words.en.json is missing from the build.");
        return JsonSerializer.Deserialize<Dictionary<string, string>>(stream)!;
    }
}
