using System.Buffers.Binary;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace WarySentinel.Core.Hosted;

/// <summary>
/// How large a picture is, by what stands at its head, so that a page keeps its place while it is on its way: PNG (ISO/IEC 15948 §11.2.2), GIF89a §18, JPEG
/// (ITU-T T.81 §B.2.2), WebP (RFC 9649 §2), SVG 2 §8.2.
/// </summary>
public static partial class PictureSize
{
    /// <summary>Largest width or height that is told, in pixels.</summary>
    public const int Most = 20_000;

    private const int MostHead = 4096;

    /// <summary>Width and height in pixels; null where the content is no picture that we can read.</summary>
    public static (int Width, int Height)? Of(ReadOnlySpan<byte> content) =>
        Read(content) is ( > 0 and <= Most, > 0 and <= Most) size ? size : null;

    private static (int Width, int Height)? Read(ReadOnlySpan<byte> of) => of switch
    {
        [0x89, (byte)'P', (byte)'N', (byte)'G', ..] when of.Length >= 24 =>
            (BinaryPrimitives.ReadInt32BigEndian(of[16..]), BinaryPrimitives.ReadInt32BigEndian(of[20..])),
        [(byte)'G', (byte)'I', (byte)'F', (byte)'8', ..] when of.Length >= 10 =>
            (BinaryPrimitives.ReadUInt16LittleEndian(of[6..]), BinaryPrimitives.ReadUInt16LittleEndian(of[8..])),
        [0xFF, 0xD8, ..] => Jpeg(of),
        [(byte)'R', (byte)'I', (byte)'F', (byte)'F', _, _, _, _, (byte)'W', (byte)'E', (byte)'B', (byte)'P', ..] when of.Length >= 30 => WebP(of),
        _ => Svg(of),
    };

    /// <summary>From segment to segment up to the frame's head.</summary>
    private static (int, int)? Jpeg(ReadOnlySpan<byte> of)
    {
        for (var at = 2; at + 9 < of.Length && of[at] == 0xFF;)
        {
            var mark = of[at + 1];
            if (mark is >= 0xC0 and <= 0xCF and not (0xC4 or 0xC8 or 0xCC))
            {
                return (BinaryPrimitives.ReadUInt16BigEndian(of[(at + 7)..]), BinaryPrimitives.ReadUInt16BigEndian(of[(at + 5)..]));
            }

            at += mark is 0xFF ? 1 : 2 + Math.Max(2, (int)BinaryPrimitives.ReadUInt16BigEndian(of[(at + 2)..]));
        }

        return null;
    }

    private static (int, int)? WebP(ReadOnlySpan<byte> of) => of[15] switch
    {
        (byte)'X' => (1 + of[24] + (of[25] << 8) + (of[26] << 16), 1 + of[27] + (of[28] << 8) + (of[29] << 16)),
        (byte)'L' when BinaryPrimitives.ReadUInt32LittleEndian(of[21..]) is var bits => (1 + (int)(bits & 0x3FFF), 1 + (int)((bits >> 14) & 0x3FFF)),
        (byte)' ' => (BinaryPrimitives.ReadUInt16LittleEndian(of[26..]) & 0x3FFF, BinaryPrimitives.ReadUInt16LittleEndian(of[28..]) & 0x3FFF),
        _ => null,
    };

    /// <summary>By its width and height, else by what it shows.</summary>
    private static (int, int)? Svg(ReadOnlySpan<byte> of)
    {
        var head = Encoding.UTF8.GetString(of[..Math.Min(of.Length, MostHead)]);
        if (Root().Match(head) is not { Success: true } root)
        {
            return null;
        }

        if (Length(Width().Match(root.Value)) is { } width && Length(Height().Match(root.Value)) is { } height)
        {
            return (width, height);
        }

        var shown = ViewBox().Match(root.Value);
        return shown.Success ? (Rounded(shown.Groups[1].Value), Rounded(shown.Groups[2].Value)) : null;
    }

    private static int? Length(Match match) => match.Success ? Rounded(match.Groups[1].Value) : null;

    private static int Rounded(string number) =>
        double.TryParse(number, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var value) && value < Most ? (int)Math.Ceiling(value) : 0;

    [GeneratedRegex("""<svg\b[^>]*>""", RegexOptions.NonBacktracking)]
    private static partial Regex Root();

    [GeneratedRegex("""\swidth\s*=\s*["']\s*([0-9.]+)(?:px)?\s*["']""", RegexOptions.NonBacktracking)]
    private static partial Regex Width();

    [GeneratedRegex("""\sheight\s*=\s*["']\s*([0-9.]+)(?:px)?\s*["']""", RegexOptions.NonBacktracking)]
    private static partial Regex Height();

    [GeneratedRegex("""\sviewBox\s*=\s*["']\s*-?[0-9.]+[\s,]+-?[0-9.]+[\s,]+([0-9.]+)[\s,]+([0-9.]+)\s*["']""", RegexOptions.NonBacktracking)]
    private static partial Regex ViewBox();
}
