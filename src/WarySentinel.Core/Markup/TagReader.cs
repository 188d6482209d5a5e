namespace WarySentinel.Core.Markup;

/// <summary>Reads the attributes of one tag, as browsers do (HTML §13.2.5.32 to §13.2.5.40).</summary>
/// <param name="tag">The tag, from its <c>&lt;</c>; it need not be whole.</param>
/// <param name="at">Where its name ends.</param>
internal ref struct TagReader(ReadOnlySpan<byte> tag, int at)
{
    private static readonly System.Buffers.SearchValues<byte> EndsName = System.Buffers.SearchValues.Create(" \t\n\r\f/>"u8);
    private readonly ReadOnlySpan<byte> tag = tag;
    private int at = at;

    /// <summary>One past the end of the tag, once there are no more attributes; -1 where it is not whole.</summary>
    public int End { get; private set; } = -1;

    /// <summary>Whether the tag ends in a slash of its own, not in one of a value.</summary>
    public bool SelfClosing { get; private set; }

    /// <summary>Where the attribute that was read last begins, with the blanks before it.</summary>
    public int From { get; private set; }

    /// <summary>One past where it ends.</summary>
    public readonly int To => at;

    /// <summary>The next attribute; false where there is none.</summary>
    public bool Next(out ReadOnlySpan<byte> name, out ReadOnlySpan<byte> value)
    {
        name = default;
        value = default;
        From = at;
        while (at < tag.Length && (IsBlank(tag[at]) || tag[at] == '/'))
        {
            at++;
        }

        if (at >= tag.Length || tag[at] == '>')
        {
            SelfClosing = at < tag.Length && tag[at - 1] == '/';
            End = at < tag.Length ? at + 1 : -1;
            return false;
        }

        // A name may begin with an equals sign, and with nothing else that ends one.
        var start = at++;
        while (at < tag.Length && !IsBlank(tag[at]) && tag[at] is not ((byte)'=' or (byte)'/' or (byte)'>'))
        {
            at++;
        }

        name = tag[start..at];
        var after = at;
        while (after < tag.Length && IsBlank(tag[after]))
        {
            after++;
        }

        if (after >= tag.Length || tag[after] != '=')
        {
            at = after >= tag.Length ? after : at;
            return true;
        }

        at = after + 1;
        return Value(out value);
    }

    private bool Value(out ReadOnlySpan<byte> value)
    {
        value = default;
        while (at < tag.Length && IsBlank(tag[at]))
        {
            at++;
        }

        if (at >= tag.Length || tag[at] == '>')
        {
            return true;
        }

        if (tag[at] is (byte)'"' or (byte)'\'')
        {
            var close = tag[(at + 1)..].IndexOf(tag[at]);
            value = close < 0 ? default : tag.Slice(at + 1, close);
            at = close < 0 ? tag.Length : at + close + 2;
            return true;
        }

        var start = at;
        while (at < tag.Length && !IsBlank(tag[at]) && tag[at] != '>')
        {
            at++;
        }

        value = tag[start..at];
        return true;
    }

    /// <summary>One past the end of the tag that begins the span, or -1 when it is not whole.</summary>
    public static int EndOf(ReadOnlySpan<byte> data, int from)
    {
        // Nearly every tag has nothing but values in quotes behind names; where anything else stands before a quote, it is read sign by sign.
        for (var at = from; at <= data.Length;)
        {
            var next = data[at..].IndexOfAny((byte)'>', (byte)'"', (byte)'\'');
            if (next < 0 || data[at + next] == '>')
            {
                return next < 0 ? -1 : at + next + 1;
            }

            var quote = at + next;
            if (!BeginsValue(data, at, quote))
            {
                break;
            }

            var close = data[(quote + 1)..].IndexOf(data[quote]);
            if (close < 0)
            {
                return -1;
            }

            at = quote + close + 2;
        }

        var reader = new TagReader(data, from);
        while (reader.Next(out _, out _))
        {
        }

        return reader.End;
    }

    /// <summary>Whether a blank, a name of usual signs and an equals sign stand before a quote: it begins the value of that name.</summary>
    private static bool BeginsValue(ReadOnlySpan<byte> data, int from, int quote)
    {
        var at = quote - 1;
        if (at <= from || data[at] != '=')
        {
            return false;
        }

        while (at > from && (char.IsAsciiLetterOrDigit((char)data[at - 1]) || data[at - 1] is (byte)'-' or (byte)'_' or (byte)':'))
        {
            at--;
        }

        if (at == quote - 1 || at == from || !IsBlank(data[at - 1]))
        {
            return false;
        }

        while (at > from && IsBlank(data[at - 1]))
        {
            at--;
        }

        // Behind an equals sign and blanks stands a value, whatever it looks like.
        return at == from || data[at - 1] != '=';
    }

    /// <summary>Where the name of the tag that begins the span ends.</summary>
    public static int EndOfName(ReadOnlySpan<byte> data, int from)
    {
        var end = data[from..].IndexOfAny(EndsName);
        return end < 0 ? data.Length : from + end;
    }

    public static bool IsBlank(byte b) => b is (byte)' ' or (byte)'\t' or (byte)'\n' or (byte)'\r' or (byte)'\f';
}
