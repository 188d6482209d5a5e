namespace WarySentinel.Service.Sweep;

/// <summary>What is run in a page to read all that its scripts put there.</summary>
internal static class DrawnText
{
    /// <summary>Before any script of the page: closed trees are opened, and what is painted as a picture is noted.</summary>
    public static readonly string Prepare = Script("prepare");

    /// <summary>To the end, so that what is loaded on the way is.</summary>
    public static readonly string Scroll = Script("scroll");

    /// <summary>All that stands there.</summary>
    public static readonly string Read = Script("read");

    private static string Script(string name)
    {
        using var stream = typeof(DrawnText).Assembly.GetManifestResourceStream($"WarySentinel.Service.drawn-{name}.js")!;
        using var reader = new StreamReader(stream);
        return reader.ReadToEnd();
    }
}
