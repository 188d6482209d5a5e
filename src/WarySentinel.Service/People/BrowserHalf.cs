using System.Globalization;

namespace WarySentinel.Service.People;

/// <summary>What a browser holds that asked for a code: a secret, and how often it asked. Each time has a half of its own.</summary>
public static class BrowserHalf
{
    private const int MostTimes = 50;
    private const int Remembered = 4;

    /// <summary>The half for another time; a new one where there is none yet, or it is none of ours.</summary>
    public static string Next(string? held) =>
        Read(held) is var (secret, times) && times < MostTimes ? $"{secret}.{times + 1}" : LinkSecret.New() + ".1";

    /// <summary>The halves of the last times, the newest first; none where it is none of ours.</summary>
    public static IEnumerable<string> Lately(string? held) => Read(held) is var (secret, times)
        ? Enumerable.Range(0, Math.Min(Remembered, times)).Select(back => $"{secret}.{times - back}") : [];

    private static (string Secret, int Times)? Read(string? held) => held?.Split('.') is [var secret, { Length: <= 2 } count]
        && LinkSecret.IsOne(secret) && int.TryParse(count, NumberStyles.None, CultureInfo.InvariantCulture, out var times) && times > 0
            ? (secret, times) : null;
}
