namespace WarySentinel.Core.Markup;

/// <summary>Reads the attributes of one whole tag (HTML §13.2.5.32 to §13.2.5.40).</summary>
internal ref struct TagReader(ReadOnlySpan<byte> tag, int at)
{
    private readonly ReadOnlySpan<byte> tag = tag;
    private int at = at;

    /// <summary>Whether the tag ends in a slash.</summary>
    public readonly bool SelfClosing => tag.Length > 2 && tag[^2] == '/';

    public bool Next(out ReadOnlySpan<byte> name, out ReadOnlySpan<byte> value)
    {
        name = default;
        value = default;
        var end = tag.Length - 1;
        while (at < end && (IsBlank(tag[at]) || tag[at] == '/'))
        {
            at++;
        }

        if (at >= end)
        {
            return false;
        }

        var start = at++;
        while (at < end && !IsBlank(tag[at]) && tag[at] is not ((byte)'=' or (byte)'/'))
        {
            at++;
        }

        name = tag[start..at];
        while (at < end && IsBlank(tag[at]))
        {
            at++;
        }

        if (at >= end || tag[at] != '=')
        {
            return true;
        }

        at++;
        while (at < end && IsBlank(tag[at]))
        {
            at++;
        }

        if (at < end && tag[at] is (byte)'"' or (byte)'\'')
        {
            var close = tag[(at + 1)..end].IndexOf(tag[at]);
            close = close < 0 ? end - at - 1 : close;
            value = tag.Slice(at + 1, close);
            at += close + 2;
            return true;
        }

        start = at;
        while (at < end && !IsBlank(tag[at]))
        {
            at++;
        }

        value = tag[start..at];
        return true;
    }

    /// <summary>One past the end of the tag that begins the span, or -1 when it is not whole.</summary>
    public static int EndOf(ReadOnlySpan<byte> data, int from)
    {
        while (true)
        {
            var next = data[from..].IndexOfAny((byte)'>', (byte)'"', (byte)'\'');
            if (next < 0)
            {
                return -1;
            }

            var at = from + next;
            if (data[at] == '>')
            {
                return at + 1;
            }

            // A quote counts where a value begins: right after "=" and blanks.
            var before = at - 1;
            while (before > 0 && IsBlank(data[before]))
            {
                before--;
            }

            if (data[before] != '=')
            {
                from = at + 1;
                continue;
            }

            var close = data[(at + 1)..].IndexOf(data[at]);
            if (close < 0)
            {
                return -1;
            }

            from = at + close + 2;
        }
    }

    /// <summary>Whether a tag could bear one of our attributes, whatever the case it is written in.</summary>
    public static bool MayBeMarked(ReadOnlySpan<byte> tag)
    {
        while (true)
        {
            var at = tag.IndexOfAny((byte)'w', (byte)'W');
            if (at < 0 || at + 5 > tag.Length)
            {
                return false;
            }

            if ((tag[at + 1] | 0x20) == 'a' && (tag[at + 2] | 0x20) == 'r' && (tag[at + 3] | 0x20) == 'y' && tag[at + 4] == '-')
            {
                return true;
            }

            tag = tag[(at + 1)..];
        }
    }

    public static bool IsBlank(byte b) => b is (byte)' ' or (byte)'\t' or (byte)'\n' or (byte)'\r' or (byte)'\f';
}
