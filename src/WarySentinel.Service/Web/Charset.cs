using System.Text;
using System.Text.Unicode;

namespace WarySentinel.Service.Web;

/// <summary>The character set that bytes are in: by their mark, by its name, or by trial.</summary>
internal static class Charset
{
    static Charset() => Encoding.RegisterProvider(CodePagesEncodingProvider.Instance);

    /// <summary>The one that the first bytes say, which counts before any other (Encoding Standard §6); null for none.</summary>
    public static Encoding? ByMark(ReadOnlySpan<byte> first) => first switch
    {
        [0xFE, 0xFF, ..] => Encoding.BigEndianUnicode,
        [0xFF, 0xFE, ..] => Encoding.Unicode,
        [0xEF, 0xBB, 0xBF, ..] => Encoding.UTF8,
        _ => null,
    };

    /// <summary>The one of a name (IANA), in quotes or not; null where there is none of it.</summary>
    public static Encoding? Named(string? name)
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

    /// <summary>UTF-8 where the bytes are that, whatever a bound cut off in the middle of a sign; else Windows-1252, which reads any.</summary>
    public static Encoding ByTrial(ReadOnlySpan<byte> bytes) => Utf8.IsValid(Whole(bytes)) ? Encoding.UTF8 : Encoding.GetEncoding(1252);

    private static ReadOnlySpan<byte> Whole(ReadOnlySpan<byte> bytes)
    {
        var end = bytes.Length;
        for (var back = 0; back < 3 && end > 0 && (bytes[end - 1] & 0xC0) == 0x80; back++)
        {
            end--;
        }

        // How many bytes the last sign has, its first one says (RFC 3629 §3).
        var needs = end == 0 ? 0 : bytes[end - 1] switch { >= 0xF0 => 4, >= 0xE0 => 3, >= 0xC0 => 2, _ => 0 };
        return needs > bytes.Length - end + 1 ? bytes[..(end - 1)] : bytes;
    }
}
