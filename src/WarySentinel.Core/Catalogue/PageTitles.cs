namespace WarySentinel.Core.Catalogue;

/// <summary>Titles of pages as people see them: without marks that lead to the heading itself, and without the name of the site behind each.</summary>
public static class PageTitles
{
    private const int Least = 3;
    private static readonly char[] Marks = ['¶', '§', '#', '\u2693', '\uF0C1', '\u00A0', ' ', '\u200B'];
    private static readonly string[] Between = [" — ", " – ", " - ", " | ", " · ", " • ", " :: ", " » ", " « "];

    /// <summary>A heading or title on one line, without the mark that many sites put behind it to link to; null where nothing is left.</summary>
    public static string? Clean(string? text)
    {
        var one = string.Join(' ', (text ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        var end = one.TrimEnd(Marks);
        // “C#” and “Nr. #” are names; a mark is what stands apart, or what nobody writes at the end of a name.
        var cut = end.Length < one.Length && one[end.Length] == '#' && !one[end.Length..].Contains('¶') ? one.TrimEnd() : end;
        return cut.Length == 0 ? null : cut;
    }

    /// <summary>The same things, without what stands at the end, or at the beginning, of most of their titles: the name of the site.</summary>
    public static IReadOnlyList<DiscoveredItem> WithoutSiteName(IReadOnlyList<DiscoveredItem> found)
    {
        var titles = found.Select(f => f.Title).OfType<string>().Distinct().ToList();
        var (ending, beginning) = (Common(titles, EndingOf), Common(titles, BeginningOf));
        string? Cut(string? title) => title is null ? null
            : ending is not null && title.Length > ending.Length && title.EndsWith(ending, StringComparison.Ordinal) ? title[..^ending.Length].TrimEnd()
            : beginning is not null && title.Length > beginning.Length && title.StartsWith(beginning, StringComparison.Ordinal)
                ? title[beginning.Length..].TrimStart() : title;
        return ending is null && beginning is null ? found : [.. found.Select(f => f with { Title = Cut(f.Title) })];
    }

    private static string? EndingOf(string title) => Between.Select(b => title.LastIndexOf(b, StringComparison.Ordinal)).Max() is > 0 and var at
        ? title[at..] : null;

    private static string? BeginningOf(string title) => Between.Select(b => (At: title.IndexOf(b, StringComparison.Ordinal), b.Length)).Where(f => f.At > 0)
        .OrderBy(f => f.At).Select(f => title[..(f.At + f.Length)]).FirstOrDefault();

    /// <summary>What most titles have, three at least.</summary>
    private static string? Common(List<string> titles, Func<string, string?> part) =>
        titles.Select(part).OfType<string>().GroupBy(p => p).OrderByDescending(g => g.Count()).FirstOrDefault() is { } most
            && most.Count() >= Least && most.Count() * 2 > titles.Count ? most.Key : null;
}
