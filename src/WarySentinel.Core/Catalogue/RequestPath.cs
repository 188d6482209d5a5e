using System.Text;

namespace WarySentinel.Core.Catalogue;

/// <summary>Why a request target has no single reading.</summary>
public enum PathFault
{
    /// <summary>It has one.</summary>
    None,
    /// <summary>It does not begin with a slash, or holds a character that no path may hold.</summary>
    Malformed,
    /// <summary>A percent sign is not followed by two hexadecimal digits.</summary>
    BadEscape,
    /// <summary>The decoded bytes are not UTF-8.</summary>
    NotUtf8,
    /// <summary>An encoded slash or a backslash, which some origins take for a separator.</summary>
    HiddenSeparator,
    /// <summary>An escape inside an escape, which some origins decode twice.</summary>
    EscapedTwice,
    /// <summary>Dot segments lead above the root.</summary>
    AboveRoot,
    /// <summary>A semicolon, where some origins cut parameters off.</summary>
    Semicolon,
    /// <summary>A segment ends in a dot or blank, which some origins drop.</summary>
    TrailingDot,
}

/// <summary>
/// The path of a request in the one normal form in which it is decided, and in which it is sent on:
/// percent-decoded once, dot segments resolved (RFC 3986 §5.2.4), doubled slashes merged.
/// </summary>
public sealed class RequestPath
{
    private static readonly UTF8Encoding Strict = new(false, true);
    private readonly PathRules rules;
    private (string Name, string Value)[]? pairs;
    private string[]? segments;

    private RequestPath(string sent, string key, string query, PathRules rules) => (Sent, Key, Query, this.rules) = (sent, key, query, rules);

    /// <summary>The path as it is sent to the origin, percent-encoded.</summary>
    public string Sent { get; }

    /// <summary>The path as it is compared: decoded, and folded as the rules say.</summary>
    public string Key { get; }

    /// <summary>The query without its question mark, as it came.</summary>
    public string Query { get; }

    /// <summary>The path with its query, as it is sent to the origin.</summary>
    public string SentWithQuery => Query.Length == 0 ? Sent : $"{Sent}?{Query}";

    /// <summary>The segments of <see cref="Key"/>.</summary>
    internal string[] Segments => segments ??= PathRules.SegmentsOf(Key);

    /// <summary>The decoded name and value pairs of the query, case folded as the rules say.</summary>
    public IReadOnlyList<(string Name, string Value)> Pairs => pairs ??= ReadPairs();

    /// <summary>Whether a path is a prefix or lies beneath it, whatever the case.</summary>
    public static bool IsUnder(string path, string prefix) =>
        path.StartsWith(prefix, StringComparison.OrdinalIgnoreCase) && (path.Length == prefix.Length || path[prefix.Length] == '/');

    /// <summary>Brings a request target (origin form, or absolute form) to normal form.</summary>
    /// <param name="target">The raw target, still percent-encoded.</param>
    /// <param name="rules">How the origin reads paths.</param>
    /// <param name="path">The normal form.</param>
    /// <param name="fault">Why there is none.</param>
    public static bool TryNormalise(string target, PathRules rules, out RequestPath path, out PathFault fault)
    {
        path = null!;
        fault = PathFault.Malformed;
        target = WithoutAuthority(target);
        if (target.Length == 0 || target[0] != '/' || target.Contains('#', StringComparison.Ordinal))
        {
            return false;
        }

        var mark = target.IndexOf('?', StringComparison.Ordinal);
        var raw = mark < 0 ? target : target[..mark];
        var query = mark < 0 ? "" : target[(mark + 1)..];
        fault = Decode(raw, out var decoded);
        if (fault != PathFault.None)
        {
            return false;
        }

        fault = Resolve(decoded, rules, out var plain);
        if (fault != PathFault.None)
        {
            return false;
        }

        path = new RequestPath(Encode(plain), rules.Fold(plain), query, rules);
        return true;
    }

    /// <summary>The target as paths have it: of a whole address (RFC 9112 §3.2.2), what follows the host.</summary>
    private static string WithoutAuthority(string target)
    {
        if (!target.StartsWith("http://", StringComparison.OrdinalIgnoreCase) && !target.StartsWith("https://", StringComparison.OrdinalIgnoreCase))
        {
            return target;
        }

        var authority = target.IndexOf("//", StringComparison.Ordinal) + 2;
        var end = target.AsSpan(authority).IndexOfAny("/?#\\");
        target = end < 0 ? "/" : target[(authority + end)..];
        return target[0] == '?' ? "/" + target : target;
    }

    /// <summary>The path with its dot segments and doubled slashes resolved.</summary>
    private static PathFault Resolve(string decoded, PathRules rules, out string plain)
    {
        plain = decoded;
        var segments = new List<string>();
        var trailing = false;
        foreach (var segment in decoded[1..].Split('/'))
        {
            trailing = segment.Length == 0 || segment is "." or "..";
            if (segment == "..")
            {
                if (segments.Count == 0)
                {
                    return PathFault.AboveRoot;
                }

                segments.RemoveAt(segments.Count - 1);
            }
            else if (!trailing)
            {
                if (FaultOf(segment, rules) is not PathFault.None and var fault)
                {
                    return fault;
                }

                segments.Add(segment);
            }
        }

        plain = "/" + string.Join('/', segments) + (trailing && segments.Count > 0 ? "/" : "");
        return PathFault.None;
    }

    private static PathFault FaultOf(string segment, PathRules rules) =>
        rules.RefuseSemicolons && segment.Contains(';', StringComparison.Ordinal) ? PathFault.Semicolon
        : rules.RefuseTrailingDots && segment[^1] is '.' or ' ' ? PathFault.TrailingDot
        : PathFault.None;

    /// <summary>The path percent-decoded, once.</summary>
    private static PathFault Decode(string raw, out string decoded)
    {
        decoded = raw;
        if (raw.AsSpan().IndexOfAnyExceptInRange('!', '~') < 0 && raw.AsSpan().IndexOfAny('%', '\\') < 0)
        {
            return PathFault.None;
        }

        var bytes = new byte[Encoding.UTF8.GetMaxByteCount(raw.Length)];
        var count = 0;
        for (var i = 0; i < raw.Length; i++)
        {
            if (BytesOf(raw, ref i, bytes, ref count) is not PathFault.None and var fault)
            {
                return fault;
            }
        }

        try
        {
            decoded = Strict.GetString(bytes, 0, count);
        }
        catch (DecoderFallbackException)
        {
            return PathFault.NotUtf8;
        }

        return IsEscapedStill(decoded) ? PathFault.EscapedTwice : PathFault.None;
    }

    /// <summary>Adds what stands at one place of the path: an escape, or a character as it is.</summary>
    private static PathFault BytesOf(string raw, ref int at, byte[] bytes, ref int count)
    {
        var c = raw[at];
        if (c == '%')
        {
            if (at + 2 >= raw.Length || !char.IsAsciiHexDigit(raw[at + 1]) || !char.IsAsciiHexDigit(raw[at + 2]))
            {
                return PathFault.BadEscape;
            }

            var value = Convert.ToByte(raw.Substring(at + 1, 2), 16);
            at += 2;
            bytes[count++] = value;
            return value is (byte)'/' or (byte)'\\' ? PathFault.HiddenSeparator : value is < 0x20 or 0x7f ? PathFault.Malformed : PathFault.None;
        }

        if (c == '\\')
        {
            return PathFault.HiddenSeparator;
        }

        if (c < 0x20 || c == 0x7f || char.IsSurrogate(c))
        {
            return PathFault.Malformed;
        }

        count += Encoding.UTF8.GetBytes(raw.AsSpan(at, 1), bytes.AsSpan(count));
        return PathFault.None;
    }

    private static bool IsEscapedStill(string decoded)
    {
        for (var i = 0; i + 2 < decoded.Length; i++)
        {
            if (decoded[i] == '%' && char.IsAsciiHexDigit(decoded[i + 1]) && char.IsAsciiHexDigit(decoded[i + 2]))
            {
                return true;
            }
        }

        return false;
    }

    private static string Encode(string plain)
    {
        if (plain.AsSpan().IndexOfAnyExcept(Address.PathSafe) < 0)
        {
            return plain;
        }

        var built = new StringBuilder(plain.Length + 16);
        foreach (var value in Encoding.UTF8.GetBytes(plain))
        {
            var c = (char)value;
            if (value < 0x80 && Address.PathSafe.Contains(c))
            {
                built.Append(c);
            }
            else
            {
                built.Append('%').Append(Convert.ToHexString([value]));
            }
        }

        return built.ToString();
    }

    private (string, string)[] ReadPairs()
    {
        if (Query.Length == 0)
        {
            return [];
        }

        var found = new List<(string, string)>();
        foreach (var part in Query.Split('&', StringSplitOptions.RemoveEmptyEntries))
        {
            var equals = part.IndexOf('=', StringComparison.Ordinal);
            var name = Unescape(equals < 0 ? part : part[..equals]);
            var value = Unescape(equals < 0 ? "" : part[(equals + 1)..]);
            found.Add((rules.FoldCase(name), rules.FoldCase(value)));
        }

        return [.. found];
    }

    private static string Unescape(string text) => Uri.UnescapeDataString(text.Replace('+', ' '));
}
