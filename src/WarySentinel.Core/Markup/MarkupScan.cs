using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>Finds where pieces of markup end.</summary>
internal static class MarkupScan
{
    /// <summary>One past the end of a comment, CDATA section, doctype or processing instruction; 0 when it is not whole.</summary>
    public static int EndOfDeclaration(ReadOnlySpan<byte> rest)
    {
        if (rest.Length < 4)
        {
            var first = rest.IndexOf((byte)'>');
            return first < 0 ? 0 : first + 1;
        }

        if (rest.StartsWith("<!--"u8))
        {
            // "<!-->" and "<!--->" are whole comments (HTML §13.2.5.43).
            if (rest[4..].StartsWith(">"u8))
            {
                return 5;
            }

            if (rest[4..].StartsWith("->"u8))
            {
                return 6;
            }

            var close = rest[4..].IndexOf("-->"u8);
            var bang = rest[4..].IndexOf("--!>"u8);
            return close < 0 && bang < 0 ? 0 : bang >= 0 && (close < 0 || bang < close) ? bang + 8 : close + 7;
        }

        if ("<![CDATA["u8.StartsWith(rest[..Math.Min(9, rest.Length)]))
        {
            var close = rest.IndexOf("]]>"u8);
            return close < 0 ? 0 : close + 3;
        }

        var end = rest.IndexOf((byte)'>');
        return end < 0 ? 0 : end + 1;
    }

    /// <summary>Where the end tag of a raw text element begins, or -1 when it has not come yet.</summary>
    public static int EndOfRaw(ReadOnlySpan<byte> data, string name)
    {
        var from = 0;
        while (true)
        {
            var at = data[from..].IndexOf("</"u8);
            if (at < 0)
            {
                return -1;
            }

            at += from;
            var after = at + 2 + name.Length;
            if (after < data.Length && Ascii.EqualsIgnoreCase(data[(at + 2)..after], name)
                && (TagReader.IsBlank(data[after]) || data[after] is (byte)'>' or (byte)'/'))
            {
                return at;
            }

            if (after >= data.Length)
            {
                return -1;
            }

            from = at + 2;
        }
    }
}
