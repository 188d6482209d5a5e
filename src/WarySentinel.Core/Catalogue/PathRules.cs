using System.Text;

namespace WarySentinel.Core.Catalogue;

/// <summary>How the origin reads paths; what it ignores is ignored here too.</summary>
/// <param name="IgnoreCase">Upper and lower case are one.</param>
/// <param name="IgnoreTrailingSlash"><c>/a</c> and <c>/a/</c> are one.</param>
/// <param name="RefuseSemicolons">A segment with <c>;</c> is refused: some origins cut path parameters off.</param>
/// <param name="RefuseTrailingDots">A segment that ends in a dot or blank is refused: some origins drop them.</param>
public sealed record PathRules(
    bool IgnoreCase = true, bool IgnoreTrailingSlash = true, bool RefuseSemicolons = true, bool RefuseTrailingDots = true)
{
    /// <summary>Most names of index files.</summary>
    public const int MostIndexNames = 20;

    /// <summary>The names of index files unless the owner says otherwise.</summary>
    public static readonly IReadOnlyList<string> UsualIndexNames =
        ["index.html", "index.htm", "index.xhtml", "index.shtml", "index.php", "default.html", "default.htm", "default.aspx"];

    /// <summary>Nothing is ignored and nothing refused: a path as it is written.</summary>
    public static readonly PathRules AsWritten = new(false, false, false, false) { IndexNames = [] };

    /// <summary>Files that the origin serves for their folder: <c>/a/index.html</c> and <c>/a/</c> are one. None turns it off.</summary>
    public IReadOnlyList<string> IndexNames { get; init; } = UsualIndexNames;

    /// <summary>Folds a decoded path, for comparing.</summary>
    public string Fold(string decoded)
    {
        var key = FoldCase(decoded);
        while (true)
        {
            if (IgnoreTrailingSlash && key.Length > 1 && key[^1] == '/')
            {
                key = key.TrimEnd('/');
                key = key.Length == 0 ? "/" : key;
            }

            var name = key.LastIndexOf('/') + 1;
            if (name == 0 || !IsIndexName(key.AsSpan(name)))
            {
                return key;
            }

            key = key[..name];
        }
    }

    /// <summary>
    /// Folds case where it is ignored. Up and down again, so that letters with one capital are one (<c>ς</c> is <c>σ</c>); the framework leaves the two
    /// that fold into ASCII alone, and origins do not (Unicode CaseFolding: U+017F, U+212A).
    /// </summary>
    public string FoldCase(string text) => !IgnoreCase ? text
        : Ascii.IsValid(text) ? text.ToLowerInvariant() : text.ToUpperInvariant().ToLowerInvariant().Replace('\u017f', 's').Replace('\u212a', 'k');

    /// <summary>The segments of a path that is folded already; none for the root.</summary>
    public static string[] SegmentsOf(string folded) => folded.Length <= 1 ? [] : folded[1..].Split('/');

    /// <inheritdoc/>
    public bool Equals(PathRules? other) => other is not null
        && (IgnoreCase, IgnoreTrailingSlash, RefuseSemicolons, RefuseTrailingDots) == (
        other.IgnoreCase, other.IgnoreTrailingSlash, other.RefuseSemicolons, other.RefuseTrailingDots)
        && IndexNames.SequenceEqual(other.IndexNames);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(IgnoreCase, IgnoreTrailingSlash, RefuseSemicolons, RefuseTrailingDots, IndexNames.Count);

    private bool IsIndexName(ReadOnlySpan<char> name)
    {
        for (var i = 0; i < IndexNames.Count; i++)
        {
            if (name.Equals(IndexNames[i], IgnoreCase ? StringComparison.OrdinalIgnoreCase : StringComparison.Ordinal))
            {
                return true;
            }
        }

        return false;
    }
}
