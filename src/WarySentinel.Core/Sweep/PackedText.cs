using System.Buffers;
using System.Text;
using System.Text.Unicode;

namespace WarySentinel.Core.Sweep;

/// <summary>
/// Text that stands in another in a form for machines: Base64 (RFC 4648, both alphabets, in lines too) and percent-encoding (RFC 3986 §2.1).
/// </summary>
public static class PackedText
{
    private const int Shortest = 48;
    private const int ShortestLine = 60;
    private const int MostRuns = 2000;
    private const int FewestSigns = 3;
    private static readonly SearchValues<char> Signs = SearchValues.Create("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/-_");

    /// <summary>All that stands in a text so, a line each; empty where nothing does.</summary>
    public static string In(string text)
    {
        var found = new StringBuilder();
        FromBase64(text, found);
        if (Count(text, "%20") + Count(text, "%3C") + Count(text, "%3c") >= FewestSigns)
        {
            found.Append(Uri.UnescapeDataString(text)).Append('\n');
        }

        return found.ToString();
    }

    /// <summary>What a run of Base64 says, where it is text; else null.</summary>
    public static string? Read(string run)
    {
        var plain = run.Replace('-', '+').Replace('_', '/');
        var bytes = new byte[(plain.Length / 4 * 3) + 3];
        return Convert.TryFromBase64String(plain.PadRight((plain.Length + 3) / 4 * 4, '='), bytes, out var many) && Utf8.IsValid(bytes.AsSpan(0, many))
            && Encoding.UTF8.GetString(bytes, 0, many) is var text && !text.Any(c => char.IsControl(c) && !char.IsWhiteSpace(c)) ? text : null;
    }

    private static void FromBase64(string text, StringBuilder found)
    {
        var runs = 0;
        for (var at = 0; at + Shortest <= text.Length && runs < MostRuns;)
        {
            // A run that is long enough has its sign here, or begins behind what is none.
            var gap = text.AsSpan(at, Shortest).LastIndexOfAnyExcept(Signs);
            if (gap >= 0)
            {
                at += gap + 1;
                continue;
            }

            var (run, end) = RunAt(text, at);
            at = end;
            if (Read(run) is { } said)
            {
                runs++;
                found.Append(said).Append('\n');
            }
        }
    }

    /// <summary>A run of signs, over the ends of full lines, and where it ends.</summary>
    private static (string Run, int End) RunAt(string text, int start)
    {
        var end = EndOf(text, start);
        var run = new StringBuilder().Append(text, start, end - start);
        for (var line = end - start; line >= ShortestLine && NextLine(text, end) is var next && next > end;)
        {
            (line, end) = (EndOf(text, next) - next, EndOf(text, next));
            run.Append(text, next, line);
        }

        return (run.ToString(), end);
    }

    private static int EndOf(string text, int start) => text.AsSpan(start).IndexOfAnyExcept(Signs) is >= 0 and var many ? start + many : text.Length;

    /// <summary>Where the next line begins, if this one ends here; as scripts write it too.</summary>
    private static int NextLine(string text, int end)
    {
        foreach (var mark in (ReadOnlySpan<string>)["\r\n", "\n", "\\r\\n", "\\n"])
        {
            if (text.AsSpan(end).StartsWith(mark, StringComparison.Ordinal) && end + mark.Length < text.Length && Signs.Contains(text[end + mark.Length]))
            {
                return end + mark.Length;
            }
        }

        return end;
    }

    private static int Count(string text, string sign) => text.AsSpan().Count(sign);
}
