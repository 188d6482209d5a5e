using System.Buffers;
using System.Diagnostics.CodeAnalysis;

namespace WarySentinel.Core.Catalogue;

/// <summary>
/// A path or path pattern on the guarded site: <c>*</c> stands for one segment, <c>**</c> for the rest or, inside, for any number of segments; beside other
/// characters a star stands for any run of them, as in <c>/**/*.css</c>;
/// a query part such as <c>?id=12</c> matches where that pair is present.
/// </summary>
public sealed class Address : IEquatable<Address>
{
    private const int LiteralRank = 1 << 20;

    /// <summary>The characters that stand in a path unescaped (RFC 3986 §3.3).</summary>
    public static readonly SearchValues<char> PathSafe =
        SearchValues.Create("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-._~!$&'()*+,;=:@/");

    /// <summary>Characters of which no two programs make different things, as long as no slash follows another.</summary>
    private static readonly SearchValues<char> Plain =
        SearchValues.Create("ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_/");

    private volatile Form? folded;

    private Address(string text, string path, (string, string)[] pairs, bool isPattern, int literalPrefix) =>
        (Text, PathText, Pairs, IsPattern, LiteralPrefix) = (text, path, pairs, isPattern, literalPrefix);

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

    /// <summary>Reads an address; false with the reason when it is none.</summary>
    public static bool TryParse(string? text, [NotNullWhen(true)] out Address? address, [NotNullWhen(false)] out Wording? reason)
    {
        (address, reason) = (null, null);
        if (string.IsNullOrWhiteSpace(text) || text[0] != '/' || text.Length > 2048)
        {
            reason = Wording.Of(text is { Length: > 2048 } and ['/', ..] ? "address.too-long" : "address.no-slash");
            return false;
        }

        if (!text.AsSpan().ContainsAnyExcept(Plain) && text[^1] != '/' && !text.Contains("//", StringComparison.Ordinal))
        {
            // Most are so, and there are many: it is its own normal form.
            address = new Address(text, text, [], false, text.Length);
            return true;
        }

        var mark = text.IndexOf('?', StringComparison.Ordinal);
        var rawPath = mark < 0 ? text : text[..mark];
        if (!RequestPath.TryNormalise(text, PathRules.AsWritten, out var normal, out _) || rawPath.Contains("//", StringComparison.Ordinal))
        {
            reason = Wording.Of("address.ambiguous", text);
            return false;
        }

        reason = mark >= 0 && normal.Pairs.Count == 0 ? Wording.Of("address.empty-query") : StarFault(normal.Key);
        if (reason is not null)
        {
            return false;
        }

        var path = normal.Key;
        var firstStar = path.IndexOf('*', StringComparison.Ordinal);
        address = new Address(
            text, path, [.. normal.Pairs.Select(p => (p.Name, p.Value))], firstStar >= 0, firstStar < 0 ? path.Length : path.LastIndexOf('/', firstStar) + 1);
        return true;
    }

    /// <summary>What is wrong with a path's stars.</summary>
    private static Wording? StarFault(string path)
    {
        if (!path.Contains('*', StringComparison.Ordinal))
        {
            return null;
        }

        var segments = path[1..].Split('/');
        foreach (var segment in segments)
        {
            if (Glob.FaultOf(segment) is { } fault)
            {
                return Wording.Of(fault, segment);
            }
        }

        if (!Glob.IsOdd(segments))
        {
            return null;
        }

        // Folder and index page are one: any folder's index page would be any page at all.
        var deep = Array.IndexOf(segments, "**");
        return path.Length > Glob.Longest ? Wording.Of("address.long-pattern", Glob.Longest)
            : segments.Count(s => s == "**") > 2 || (deep >= 0 && Array.LastIndexOf(segments, "**") == deep + 1) ? Wording.Of("address.many-rests")
            : deep >= 0 && deep == segments.Length - 2 && (segments[^1].Length == 0 || PathRules.UsualIndexNames.Contains(segments[^1].ToLowerInvariant()))
            ? Wording.Of("address.any-index", segments[^1]) : null;
    }

    /// <summary>Reads an address that is known to be good. Throws <see cref="FormatException"/> when it is not.</summary>
    public static Address Parse(string text) =>
        TryParse(text, out var address, out var reason) ? address : throw new FormatException(reason.ToString());

    /// <summary>Whether the request's path and query match.</summary>
    public bool Matches(RequestPath request, PathRules rules) =>
        MatchesSegments(SegmentsUnder(rules), request.Segments, false) && MatchesPairs(request.Pairs, rules);

    /// <summary>Whether everything that the other address stands for is matched by this one.</summary>
    /// <param name="other">The other.</param>
    /// <param name="rules">How paths are compared.</param>
    /// <param name="inDoubt">What is said where that is too much to work out.</param>
    public bool Covers(Address other, PathRules rules, bool inDoubt) =>
        CoversSegments(SegmentsUnder(rules), other.SegmentsUnder(rules), other.IsPattern, inDoubt) && MatchesPairs(other.PairsUnder(rules), rules);

    /// <summary>Whether the segments of a pattern stand for all that others do.</summary>
    internal static bool CoversSegments(string[] mine, string[] theirs, bool asPattern, bool inDoubt) =>
        asPattern && (Glob.IsOdd(mine) || Glob.IsOdd(theirs)) ? Glob.Covers(mine, theirs) ?? inDoubt : MatchesSegments(mine, theirs, asPattern);

    /// <summary>
    /// How near to one single page it is: the number of its whole segments before the first star, where a literal path is longer than any pattern.
    /// Never negative.
    /// </summary>
    internal int RankUnder(PathRules rules)
    {
        var segments = SegmentsUnder(rules);
        var literal = IsPattern ? Array.FindIndex(segments, s => s.Contains('*', StringComparison.Ordinal)) : segments.Length;
        return IsPattern ? literal : literal + LiteralRank;
    }

    internal string[] SegmentsUnder(PathRules rules) => Folded(rules).Segments;

    internal (string Name, string Value)[] PairsUnder(PathRules rules) => Folded(rules).Pairs;

    internal bool MatchesPairs(IReadOnlyList<(string Name, string Value)> theirs, PathRules rules)
    {
        foreach (var pair in PairsUnder(rules))
        {
            var found = false;
            for (var i = 0; i < theirs.Count && !found; i++)
            {
                found = theirs[i] == pair;
            }

            if (!found)
            {
                return false;
            }
        }

        return true;
    }

    private static bool MatchesSegments(string[] mine, string[] theirs, bool asPattern)
    {
        if (!asPattern && Glob.IsOdd(mine))
        {
            return Glob.Matches(mine, theirs);
        }

        for (var i = 0; i < mine.Length; i++)
        {
            // "/a/**" stands for "/a" as well: the folder's own page is part of what is in it.
            if (mine[i] == "**")
            {
                return true;
            }

            if (i >= theirs.Length || (asPattern && theirs[i] == "**")
                || (mine[i] == "*" ? theirs[i].Length == 0 : (asPattern && theirs[i] == "*") || mine[i] != theirs[i]))
            {
                return false;
            }
        }

        return theirs.Length == mine.Length;
    }

    private Form Folded(PathRules rules)
    {
        if (folded is { } kept && ReferenceEquals(kept.Rules, rules))
        {
            return kept;
        }

        return folded = new Form(rules, PathRules.SegmentsOf(rules.Fold(PathText)), [.. Pairs.Select(p => (rules.FoldCase(p.Name), rules.FoldCase(p.Value)))]);
    }

    /// <inheritdoc/>
    public bool Equals(Address? other) => other is not null && Text == other.Text;

    /// <inheritdoc/>
    public override bool Equals(object? obj) => Equals(obj as Address);

    /// <inheritdoc/>
    public override int GetHashCode() => Text.GetHashCode(StringComparison.Ordinal);

    /// <inheritdoc/>
    public override string ToString() => Text;

    /// <summary>The address as it is compared under rules, worked out once for the rules asked for last.</summary>
    private sealed record Form(PathRules Rules, string[] Segments, (string Name, string Value)[] Pairs);
}
