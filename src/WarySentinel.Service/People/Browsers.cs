namespace WarySentinel.Service.People;

/// <summary>Names browsers as people know them.</summary>
internal static class Browsers
{
    private static readonly (string Mark, string Name)[] Known = [("Firefox/", "Firefox"), ("Edg/", "Edge"), ("Chrome/", "Chrome"), ("Safari/", "Safari")];

    private static readonly (string Mark, string Name)[] Systems =
        [("Windows", "Windows"), ("Android", "Android"), ("iPhone", "iPhone"), ("iPad", "iPad"), ("Mac OS X", "macOS"), ("Linux", "Linux")];

    /// <summary>The browser and its system, as its own name tells them; null where it tells neither.</summary>
    public static string? NameOf(string? agent)
    {
        string? First((string Mark, string Name)[] of) => of.FirstOrDefault(k => agent?.Contains(k.Mark, StringComparison.Ordinal) == true).Name;
        var both = new[] { First(Known), First(Systems) }.OfType<string>().ToList();
        return both.Count == 0 ? null : string.Join(", ", both);
    }
}
