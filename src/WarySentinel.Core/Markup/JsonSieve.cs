using System.Buffers;
using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>Takes what is hidden out of JSON, and out of JSON that stands in a script. What stays is untouched, byte for byte.</summary>
public static class JsonSieve
{
    /// <summary>More bytes than this are not judged.</summary>
    public const int Most = 16 << 20;

    private static ReadOnlySpan<byte> Mark => "\uFEFF"u8;

    /// <summary>What some services write before JSON, so that no other page runs it as a script.</summary>
    private static ReadOnlySpan<byte> Guard => ")]}'"u8;

    /// <summary>Writes an answer of JSON without what is hidden. False where it cannot be read: nothing is written then.</summary>
    /// <param name="body">The answer, in UTF-8.</param>
    /// <param name="rules">What the owner taught of it.</param>
    /// <param name="decider">Says what is hidden.</param>
    /// <param name="output">Where it goes.</param>
    public static bool TrySift(ReadOnlyMemory<byte> body, IReadOnlyList<JsonEntries> rules, IMarkupDecider decider, IBufferWriter<byte> output)
    {
        var from = body.Length - PlainOf(body).Length;
        if (body.Span[from..].Trim(" \t\r\n"u8).IsEmpty)
        {
            output.Write(body.Span);
            return true;
        }

        if (JsonTree.Read(body[from..], false) is not { } tree)
        {
            return false;
        }

        output.Write(body.Span[..from]);
        foreach (var rule in rules)
        {
            rule.Sift(tree, decider);
        }

        tree.WriteTo(output);
        return true;
    }

    /// <summary>
    /// Writes a script without what is hidden in the data that stands in it behind a name: <c>NAME(…)</c>, <c>NAME = …</c>. False where such data is no
    /// JSON: nothing is written then.
    /// </summary>
    public static bool TrySiftScript(ReadOnlyMemory<byte> script, IReadOnlyList<JsonEntries> rules, IMarkupDecider decider, IBufferWriter<byte> output)
    {
        var written = new ArrayBufferWriter<byte>(script.Length + 1);
        var at = 0;
        while (at < script.Length)
        {
            if (NextIn(script.Span[at..], rules) is not (var start, { } behind))
            {
                break;
            }

            if (JsonTree.Read(script[(at + start)..], true) is not { } tree)
            {
                return false;
            }

            foreach (var rule in rules.Where(r => r.Behind == behind))
            {
                rule.Sift(tree, decider);
            }

            written.Write(script.Span[at..(at + start)]);
            tree.WriteTo(written);
            at += start + tree.End;
        }

        written.Write(script.Span[at..]);
        output.Write(written.WrittenSpan);
        return true;
    }

    /// <summary>JSON without what may stand before it.</summary>
    internal static ReadOnlyMemory<byte> PlainOf(ReadOnlyMemory<byte> body)
    {
        var from = body.Span.StartsWith(Mark) ? Mark.Length : 0;
        if (body.Span[from..].StartsWith(Guard))
        {
            var line = body.Span[from..].IndexOf((byte)'\n');
            from += line < 0 ? Guard.Length : line + 1;
        }

        return body[from..];
    }

    /// <summary>The data in a script behind the name of a rule; null among them for what is no JSON.</summary>
    internal static List<JsonTree?> DataIn(ReadOnlyMemory<byte> script, JsonEntries rule)
    {
        var found = new List<JsonTree?>();
        for (var at = 0; NextIn(script.Span[at..], [rule]) is (var start, { }); at += start + (found[^1]?.End ?? 1))
        {
            found.Add(JsonTree.Read(script[(at + start)..], true));
        }

        return found;
    }

    /// <summary>Where the next data begins, and the name before it.</summary>
    private static (int Start, string? Behind) NextIn(ReadOnlySpan<byte> script, IReadOnlyList<JsonEntries> rules)
    {
        var (first, found) = (int.MaxValue, (string?)null);
        foreach (var name in rules.Select(r => r.Behind).OfType<string>().Where(n => n[0] != '#').Distinct(StringComparer.Ordinal))
        {
            var start = StartOf(script, Encoding.UTF8.GetBytes(name));
            if (start >= 0 && start < first)
            {
                (first, found) = (start, name);
            }
        }

        return (first, found);
    }

    private static int StartOf(ReadOnlySpan<byte> script, ReadOnlySpan<byte> name)
    {
        for (var from = 0; script[from..].IndexOf(name) is >= 0 and var found; from += found + 1)
        {
            var (start, at) = (from + found, from + found + name.Length);
            if (start > 0 && IsOfName(script[start - 1]))
            {
                continue;
            }

            while (at < script.Length && IsBlank(script[at]))
            {
                at++;
            }

            if (at >= script.Length || script[at] is not ((byte)'(' or (byte)'=' or (byte)':')
                || (at + 1 < script.Length && script[at + 1] is (byte)'=' or (byte)'>'))
            {
                continue;
            }

            at++;
            while (at < script.Length && IsBlank(script[at]))
            {
                at++;
            }

            return at;
        }

        return -1;
    }

    private static bool IsOfName(byte sign) => char.IsAsciiLetterOrDigit((char)sign) || sign is (byte)'_' or (byte)'$' or >= 0x80;

    private static bool IsBlank(byte sign) => sign is (byte)' ' or (byte)'\t' or (byte)'\n' or (byte)'\r';

    /// <summary>The text of data for search engines without what is hidden; null where it names something hidden and cannot be read.</summary>
    internal static byte[]? OfLinkedData(ReadOnlyMemory<byte> text, IMarkupDecider decider)
    {
        var output = new ArrayBufferWriter<byte>(text.Length + 1);
        if (TrySift(text, [JsonEntries.Anything], decider, output))
        {
            return output.WrittenSpan.ToArray();
        }

        var quoted = Encoding.UTF8.GetString(text.Span).Split('"', '\'', ' ', '\n', '\t');
        return quoted.Any(q => q.Length > 1 && (q[0] == '/' || q.StartsWith("http", StringComparison.OrdinalIgnoreCase)) && decider.OfLink(q) == Fate.Drop)
            ? null : text.ToArray();
    }
}
