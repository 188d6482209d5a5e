using System.Text;
using System.Text.RegularExpressions;
using System.Text.Unicode;
using WarySentinel.Core.Sweep;

namespace WarySentinel.Service.Sweep;

/// <summary>
/// Reads bytes as text in the character set that they are in: by their mark, by what the answer or the page says (HTML §13.2.3), or by trial.
/// </summary>
internal static partial class SweepCharset
{
    private const int HeadBytes = 1024;
    private const int LookedAt = 4096;
    private const int ShortestWithin = 6;

    static SweepCharset() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    /// <summary>The text, or null where the bytes are none.</summary>
    public static string? Read(byte[] bytes, string? said)
    {
        var marked = bytes switch
        {
            [0xEF, 0xBB, 0xBF, ..] => Encoding.UTF8,
            [0xFF, 0xFE, ..] => Encoding.Unicode,
            [0xFE, 0xFF, ..] => Encoding.BigEndianUnicode,
            _ => null,
        };
        var named = marked ?? Find(said);
        if (named is UnicodeEncoding or UTF32Encoding)
        {
            return named.GetString(bytes).TrimStart('\uFEFF');
        }

        if (bytes.AsSpan(0, Math.Min(bytes.Length, LookedAt)).Contains((byte)0))
        {
            return null;
        }

        var used = named ?? Find(Declared(bytes)) ?? (Utf8.IsValid(Whole(bytes)) ? Encoding.UTF8 : Encoding.GetEncoding(1252));
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

    private static Encoding? Find(string? name)
    {
        try
        {
            return string.IsNullOrWhiteSpace(name) ? null : Encoding.GetEncoding(name.Trim('"', '\'', ' '));
        }
        catch (ArgumentException)
        {
            return null;
        }
    }

    private static string? Declared(byte[] bytes) =>
        Charset().Match(Encoding.Latin1.GetString(bytes, 0, Math.Min(bytes.Length, HeadBytes))) is { Success: true } match ? match.Groups[1].Value : null;

    /// <summary>Without what a bound cut off in the middle of a sign.</summary>
    private static ReadOnlySpan<byte> Whole(byte[] bytes)
    {
        var end = bytes.Length;
        for (var back = 0; back < 3 && end > 0 && (bytes[end - 1] & 0xC0) == 0x80; back++)
        {
            end--;
        }

        return bytes.AsSpan(0, end > 0 && bytes[end - 1] >= 0xC0 ? end - 1 : bytes.Length);
    }

    [GeneratedRegex("""(?:charset|encoding)\s*=\s*["']?\s*([\w:.-]+)""", RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, PatientMatches.Longest)]
    private static partial Regex Charset();
}
