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
        if (target.StartsWith("http://", StringComparison.OrdinalIgnoreCase) || target.StartsWith("https://", StringComparison.OrdinalIgnoreCase))
        {
            var authority = target.IndexOf("//", StringComparison.Ordinal) + 2;
            var end = target.AsSpan(authority).IndexOfAny("/?#\\");
            target = end < 0 ? "/" : target[(authority + end)..];
            target = target[0] == '?' ? "/" + target : target;
        }

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

        var segments = new List<string>();
        var trailing = false;
        foreach (var segment in decoded[1..].Split('/'))
        {
            trailing = segment.Length == 0 || segment is "." or "..";
            if (trailing)
            {
                if (segment == ".." && segments.Count == 0)
                {
                    fault = PathFault.AboveRoot;
                    return false;
                }

                if (segment == "..")
                {
                    segments.RemoveAt(segments.Count - 1);
                }

                continue;
            }

            if (rules.RefuseSemicolons && segment.Contains(';', StringComparison.Ordinal))
            {
                fault = PathFault.Semicolon;
                return false;
            }

            if (rules.RefuseTrailingDots && segment[^1] is '.' or ' ')
            {
                fault = PathFault.TrailingDot;
                return false;
            }

            segments.Add(segment);
        }

        var plain = "/" + string.Join('/', segments);
        if (trailing && segments.Count > 0)
        {
            plain += "/";
        }

        path = new RequestPath(Encode(plain), rules.Fold(plain), query, rules);
        return true;
    }

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
            var c = raw[i];
            if (c == '%')
            {
                if (i + 2 >= raw.Length + 0 && i + 2 > raw.Length - 1)
                {
                    return PathFault.BadEscape;
                }

                if (!char.IsAsciiHexDigit(raw[i + 1]) || !char.IsAsciiHexDigit(raw[i + 2]))
                {
                    return PathFault.BadEscape;
                }

                var value = (byte)Convert.ToInt32(raw.Substring(i + 1, 2), 16);
                i += 2;
                if (value is (byte)'/' or (byte)'\\')
                {
                    return PathFault.HiddenSeparator;
                }

                if (value < 0x20 || value == 0x7f)
                {
                    return PathFault.Malformed;
                }

                bytes[count++] = value;
            }
            else if (c == '\\')
            {
                return PathFault.HiddenSeparator;
            }
            else if (c < 0x20 || c == 0x7f || char.IsSurrogate(c))
            {
                return PathFault.Malformed;
            }
            else
            {
                count += Encoding.UTF8.GetBytes(raw.AsSpan(i, 1), bytes.AsSpan(count));
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

        for (var i = 0; i + 2 < decoded.Length; i++)
        {
            if (decoded[i] == '%' && char.IsAsciiHexDigit(decoded[i + 1]) && char.IsAsciiHexDigit(decoded[i + 2]))
            {
                return PathFault.EscapedTwice;
            }
        }

        return PathFault.None;
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
