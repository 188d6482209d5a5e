using System.Collections.Frozen;
using System.Globalization;
using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>Reads character references in the value of an attribute, as browsers do (HTML §13.2.5.72 to §13.2.5.80).</summary>
internal static class CharacterReferences
{
    /// <summary>What numbers that stand for no character are read as (HTML §13.2.5.80).</summary>
    private static readonly FrozenDictionary<int, int> Replaced = new Dictionary<int, int>
    {
        [0x80] = 0x20AC, [0x82] = 0x201A, [0x83] = 0x0192, [0x84] = 0x201E, [0x85] = 0x2026, [0x86] = 0x2020, [0x87] = 0x2021, [0x88] = 0x02C6,
        [0x89] = 0x2030, [0x8A] = 0x0160, [0x8B] = 0x2039, [0x8C] = 0x0152, [0x8E] = 0x017D, [0x91] = 0x2018, [0x92] = 0x2019, [0x93] = 0x201C,
        [0x94] = 0x201D, [0x95] = 0x2022, [0x96] = 0x2013, [0x97] = 0x2014, [0x98] = 0x02DC, [0x99] = 0x2122, [0x9A] = 0x0161, [0x9B] = 0x203A,
        [0x9C] = 0x0153, [0x9E] = 0x017E, [0x9F] = 0x0178,
    }.ToFrozenDictionary();

    private static readonly Lazy<FrozenDictionary<string, string>> Named = new(Read);
    private const int LongestName = 33;

    /// <summary>The text that a value stands for.</summary>
    public static string Decode(string value)
    {
        var next = value.IndexOf('&', StringComparison.Ordinal);
        if (next < 0)
        {
            return value;
        }

        var (text, from) = (new StringBuilder(value.Length), 0);
        while (next >= 0)
        {
            text.Append(value, from, next - from);
            var (stands, used) = At(value.AsSpan(next));
            text.Append(stands);
            from = next + used;
            next = value.IndexOf('&', from);
        }

        return text.Append(value, from, value.Length - from).ToString();
    }

    /// <summary>What the reference stands for that begins the text, and how long it is.</summary>
    private static (string Stands, int Used) At(ReadOnlySpan<char> text)
    {
        if (text.Length > 2 && text[1] == '#')
        {
            return Numbered(text);
        }

        var most = 1;
        while (most < text.Length && most <= LongestName && char.IsAsciiLetterOrDigit(text[most]))
        {
            most++;
        }

        var names = Named.Value.GetAlternateLookup<ReadOnlySpan<char>>();
        if (most < text.Length && text[most] == ';' && names.TryGetValue(text[1..(most + 1)], out var whole))
        {
            return (whole, most + 1);
        }

        // A few old names stand without a semicolon; in an address, not where the name or a value goes on behind them.
        for (var length = most; length > 2; length--)
        {
            if (names.TryGetValue(text[1..length], out var old))
            {
                return length < text.Length && (text[length] == '=' || char.IsAsciiLetterOrDigit(text[length])) ? ("&", 1) : (old, length);
            }
        }

        return ("&", 1);
    }

    private static (string Stands, int Used) Numbered(ReadOnlySpan<char> text)
    {
        var isHex = text[2] is 'x' or 'X';
        var (at, code, digits) = (isHex ? 3 : 2, 0, 0);
        for (; at < text.Length && (isHex ? char.IsAsciiHexDigit(text[at]) : char.IsAsciiDigit(text[at])); at++, digits++)
        {
            code = Math.Min(0x110000, (code * (isHex ? 16 : 10)) + int.Parse(text.Slice(at, 1), NumberStyles.HexNumber, CultureInfo.InvariantCulture));
        }

        if (digits == 0)
        {
            return ("&", 1);
        }

        at += at < text.Length && text[at] == ';' ? 1 : 0;
        code = code is 0 or > 0x10FFFF or (>= 0xD800 and <= 0xDFFF) ? 0xFFFD : Replaced.GetValueOrDefault(code, code);
        return (char.ConvertFromUtf32(code), at);
    }

    /// <summary>The names of the standard (HTML §13.5): a name, with its semicolon where it needs one, and what it stands for.</summary>
    private static FrozenDictionary<string, string> Read()
    {
        using var lines = new StreamReader(typeof(CharacterReferences).Assembly.GetManifestResourceStream("WarySentinel.Core.references.txt")!);
        var names = new Dictionary<string, string>(StringComparer.Ordinal);
        while (lines.ReadLine() is { } line)
        {
            var (name, codes) = (line[..line.IndexOf(' ', StringComparison.Ordinal)], line[(line.IndexOf(' ', StringComparison.Ordinal) + 1)..].Split(','));
            names[name] = string.Concat(codes.Select(c => char.ConvertFromUtf32(int.Parse(c, NumberStyles.HexNumber, CultureInfo.InvariantCulture))));
        }

        return names.ToFrozenDictionary(StringComparer.Ordinal);
    }
}
