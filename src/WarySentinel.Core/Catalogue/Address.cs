using System.Buffers;
using System.Diagnostics.CodeAnalysis;

namespace WarySentinel.Core.Catalogue;

/// <summary>
/// A path or path pattern on the guarded site: <c>*</c> stands for one segment, <c>**</c> for the rest;
/// a query part such as <c>?id=12</c> matches where that pair is present.
/// </summary>
public sealed class Address : IEquatable<Address>
{
    /// <summary>The characters that stand in a path unescaped (RFC 3986 §3.3).</summary>
    public static readonly SearchValues<char> PathSafe =
        SearchValues.Create("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-._~!$&'()*+,;=:@/");

    private Address(string text, string path, (string, string)[] pairs, string[] segments, bool isPattern, int literalPrefix) =>
        (Text, PathText, Pairs, Segments, IsPattern, LiteralPrefix) = (text, path, pairs, segments, isPattern, literalPrefix);

    /// <summary>The address as it was written.</summary>
    public string Text { get; }

    /// <summary>Whether it holds <c>*</c> or <c>**</c>.</summary>
    public bool IsPattern { get; }

    /// <summary>How many characters stand before the first <c>*</c>.</summary>
    public int LiteralPrefix { get; }

    /// <summary>The pairs that must be present in the query.</summary>
    public IReadOnlyList<(string Name, string Value)> Pairs { get; }

    /// <summary>The path in decoded form, not yet folded.</summary>
    public string PathText { get; }

    internal string[] Segments { get; }

    /// <summary>Reads an address; false with the reason when it is none.</summary>
    public static bool TryParse(string? text, [NotNullWhen(true)] out Address? address, out string reason)
    {
        address = null;
        reason = Words.Of("address.no-slash");
        if (string.IsNullOrWhiteSpace(text) || text[0] != '/')
        {
            return false;
        }

        if (text.Length > 2048)
        {
            reason = Words.Of("address.too-long");
            return false;
        }

        var mark = text.IndexOf('?', StringComparison.Ordinal);
        var rawPath = mark < 0 ? text : text[..mark];
        if (!RequestPath.TryNormalise(mark < 0 ? text : rawPath + text[mark..], new PathRules(false, false, false, false), out var normal, out _)
            || rawPath.Contains("//", StringComparison.Ordinal))
        {
            reason = Words.Of("address.ambiguous", text);
            return false;
        }

        if (mark >= 0 && normal.Pairs.Count == 0)
        {
            reason = Words.Of("address.empty-query");
            return false;
        }

        var path = normal.Key;
        var segments = path[1..].Split('/');
        for (var i = 0; i < segments.Length; i++)
        {
            var star = segments[i].Contains('*', StringComparison.Ordinal);
            if (star && segments[i] is not ("*" or "**"))
            {
                reason = Words.Of("address.star-alone", segments[i]);
                return false;
            }

            if (segments[i] == "**" && i != segments.Length - 1)
            {
                reason = Words.Of("address.rest-last");
                return false;
            }
        }

        var firstStar = path.IndexOf('*', StringComparison.Ordinal);
        address = new Address(
            text, path, [.. normal.Pairs.Select(p => (p.Name, p.Value))], segments, firstStar >= 0, firstStar < 0 ? path.Length : firstStar);
        return true;
    }

    /// <summary>Reads an address that is known to be good. Throws <see cref="FormatException"/> when it is not.</summary>
    public static Address Parse(string text) =>
        TryParse(text, out var address, out var reason) ? address : throw new FormatException(reason);

    /// <summary>Whether the request's path and query match.</summary>
    public bool Matches(RequestPath request, PathRules rules) =>
        MatchesSegments(request.Key, rules) && MatchesPairs(request, rules);

    /// <summary>Whether everything that the other address stands for is matched by this one.</summary>
    public bool Covers(Address other, PathRules rules)
    {
        foreach (var pair in Pairs)
        {
            if (!other.Pairs.Any(p => Same(p.Name, pair.Name, rules) && Same(p.Value, pair.Value, rules)))
            {
                return false;
            }
        }

        return MatchesSegments(RequestPath.Fold(other.PathText, rules), rules, true);
    }

    internal bool MatchesPairs(RequestPath request, PathRules rules)
    {
        foreach (var (name, value) in Pairs)
        {
            var found = false;
            foreach (var pair in request.Pairs)
            {
                found |= Same(pair.Name, name, rules) && Same(pair.Value, value, rules);
            }

            if (!found)
            {
                return false;
            }
        }

        return true;
    }

    private bool MatchesSegments(string key, PathRules rules, bool asPattern = false)
    {
        var theirs = key[1..].Split('/');
        var mine = Segments;
        var count = mine.Length;
        if (rules.IgnoreTrailingSlash && count > 1 && mine[^1].Length == 0)
        {
            count--;
        }

        for (var i = 0; i < count; i++)
        {
            if (mine[i] == "**")
            {
                return true;
            }

            // "/a/**" stands for "/a" as well: the folder's own page is part of what is in it.
            if (i >= theirs.Length)
            {
                return false;
            }

            var theirRest = asPattern && theirs[i] == "**";
            if (mine[i] == "*" ? theirRest || theirs[i].Length == 0 : theirRest || (asPattern && theirs[i] == "*") || !Same(mine[i], theirs[i], rules))
            {
                return false;
            }

            if (i == count - 2 && mine[i + 1] == "**" && theirs.Length == i + 1)
            {
                return true;
            }
        }

        return theirs.Length == count;
    }

    private static bool Same(string a, string b, PathRules rules) =>
        string.Equals(a, b, rules.IgnoreCase ? StringComparison.OrdinalIgnoreCase : StringComparison.Ordinal);

    /// <inheritdoc/>
    public bool Equals(Address? other) => other is not null && Text == other.Text;

    /// <inheritdoc/>
    public override bool Equals(object? obj) => Equals(obj as Address);

    /// <inheritdoc/>
    public override int GetHashCode() => Text.GetHashCode(StringComparison.Ordinal);

    /// <inheritdoc/>
    public override string ToString() => Text;
}
