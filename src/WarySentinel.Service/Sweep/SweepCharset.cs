using System.Text;
using System.Text.RegularExpressions;
using WarySentinel.Core.Sweep;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Sweep;

/// <summary>
/// Reads bytes as text in the character set that they are in: by their mark, by what the answer or the page says (HTML §13.2.3), or by trial.
/// </summary>
internal static partial class SweepCharset
{
    private const int HeadBytes = 1024;
    private const int LookedAt = 4096;
    private const int ShortestWithin = 6;

    /// <summary>The text, or null where the bytes are none.</summary>
    public static string? Read(byte[] bytes, string? said)
    {
        var named = Charset.ByMark(bytes) ?? Charset.Named(said);
        if (named is UnicodeEncoding or UTF32Encoding)
        {
            return named.GetString(bytes).TrimStart('\uFEFF');
        }

        if (bytes.AsSpan(0, Math.Min(bytes.Length, LookedAt)).Contains((byte)0))
        {
            return null;
        }

        var used = named ?? Charset.Named(Declared(bytes)) ?? Charset.ByTrial(bytes);
        return used.GetString(bytes).TrimStart('\uFEFF');
    }

    /// <summary>Runs of signs that people can read, in bytes of any other sort, as one or as two bytes each.</summary>
    public static string Within(byte[] bytes)
    {
        var found = new StringBuilder();
        Runs(Encoding.UTF8.GetString(bytes), found);
        if (bytes.AsSpan().Count((byte)0) > bytes.Length / 4)
        {
            Runs(Encoding.UTF8.GetString([.. bytes.Where(b => b != 0)]), found);
        }

        return found.ToString();
    }

    private static void Runs(string text, StringBuilder found)
    {
        for (int at = 0, start = 0; at <= text.Length; at++)
        {
            if (at < text.Length && text[at] != '\uFFFD' && (!char.IsControl(text[at]) || text[at] is '\n' or '\r' or '\t'))
            {
                continue;
            }

            if (at - start >= ShortestWithin)
            {
                found.Append(text, start, at - start).Append('\n');
            }

            start = at + 1;
        }
    }

    private static string? Declared(byte[] bytes) =>
        Said().Match(Encoding.Latin1.GetString(bytes, 0, Math.Min(bytes.Length, HeadBytes))) is { Success: true } match ? match.Groups[1].Value : null;

    [GeneratedRegex("""(?:charset|encoding)\s*=\s*["']?\s*([\w:.-]+)""", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Said();
}
