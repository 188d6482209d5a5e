using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>Finds where pieces of markup end.</summary>
internal static class MarkupScan
{
    /// <summary>How far a script is in what looks like a comment (HTML §13.2.5.17 to §13.2.5.31).</summary>
    public enum ScriptState
    {
        Plain,
        Escaped,
        DoubleEscaped,
    }

    /// <summary>One past the end of a comment, CDATA section, doctype or processing instruction; 0 when it is not whole.</summary>
    /// <param name="rest">From its <c>&lt;</c> on.</param>
    /// <param name="hasSections">Whether CDATA sections are known here: in XML, SVG and MathML. Elsewhere they are odd comments.</param>
    public static int EndOfDeclaration(ReadOnlySpan<byte> rest, bool hasSections)
    {
        if (rest.Length < 9 && ("<!--"u8.StartsWith(rest[..Math.Min(4, rest.Length)]) || (hasSections && "<![CDATA["u8.StartsWith(rest))))
        {
            // What it is cannot be told yet, except for the shortest comments.
            return rest.StartsWith("<!--"u8) ? EndOfComment(rest) : 0;
        }

        if (rest.StartsWith("<!--"u8))
        {
            return EndOfComment(rest);
        }

        if (hasSections && rest.StartsWith("<![CDATA["u8))
        {
            var close = rest.IndexOf("]]>"u8);
            return close < 0 ? 0 : close + 3;
        }

        return rest.IndexOf((byte)'>') + 1;
    }

    /// <summary>“&lt;!--&gt;” and “&lt;!---&gt;” are whole comments, and “--!&gt;” ends one (HTML §13.2.5.43 to §13.2.5.52).</summary>
    private static int EndOfComment(ReadOnlySpan<byte> rest)
    {
        if (rest[4..].StartsWith(">"u8) || rest[4..].StartsWith("->"u8))
        {
            return rest[4] == '>' ? 5 : 6;
        }

        var close = rest[4..].IndexOf("-->"u8);
        var bang = rest[4..].IndexOf("--!>"u8);
        return close < 0 && bang < 0 ? 0 : bang >= 0 && (close < 0 || bang < close) ? bang + 8 : close + 7;
    }

    /// <summary>Where the end tag of an element begins whose text is no markup, or -1 when it has not come yet.</summary>
    /// <param name="data">The text.</param>
    /// <param name="name">The name of the element.</param>
    /// <param name="state">How far a script is; kept between pieces.</param>
    /// <param name="safe">How much of the text is settled where the end has not come.</param>
    public static int EndOfRaw(ReadOnlySpan<byte> data, string name, ref ScriptState state, out int safe)
    {
        var at = 0;
        while (true)
        {
            var next = data[at..].IndexOfAny((byte)'<', (byte)'-');
            at = next < 0 ? data.Length : at + next;
            // A piece may end in what tells: it is looked at with the next.
            if (at + name.Length + 3 > data.Length)
            {
                safe = at;
                return -1;
            }

            var rest = data[at..];
            if (name == "script" && Script(rest, ref state) is > 0 and var used)
            {
                at += used;
            }
            else if (state != ScriptState.DoubleEscaped && IsTag(rest, "</"u8, name))
            {
                safe = at;
                return at;
            }
            else
            {
                at++;
            }
        }
    }

    /// <summary>What changes the state of a script, and its length; 0 for nothing.</summary>
    private static int Script(ReadOnlySpan<byte> rest, ref ScriptState state)
    {
        if (state == ScriptState.Plain && rest.StartsWith("<!--"u8))
        {
            state = ScriptState.Escaped;
            return 2;
        }

        if (state != ScriptState.Plain && rest.StartsWith("-->"u8))
        {
            state = ScriptState.Plain;
            return 3;
        }

        if (state == ScriptState.Escaped && IsTag(rest, "<"u8, "script"))
        {
            state = ScriptState.DoubleEscaped;
            return 7;
        }

        if (state == ScriptState.DoubleEscaped && IsTag(rest, "</"u8, "script"))
        {
            state = ScriptState.Escaped;
            return 8;
        }

        return 0;
    }

    private static bool IsTag(ReadOnlySpan<byte> rest, ReadOnlySpan<byte> open, string name)
    {
        var after = open.Length + name.Length;
        return after < rest.Length && rest.StartsWith(open) && Ascii.EqualsIgnoreCase(rest[open.Length..after], name)
            && (TagReader.IsBlank(rest[after]) || rest[after] is (byte)'>' or (byte)'/');
    }
}
