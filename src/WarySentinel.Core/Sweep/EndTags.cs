namespace WarySentinel.Core.Sweep;

/// <summary>Where elements end. One that ends nowhere is looked for once: a page of nothing but their beginnings is read in one go all the same.</summary>
internal sealed class EndTags(string text)
{
    private readonly HashSet<string> none = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>The next end of an element from a place on; -1 where there is none.</summary>
    public int After(string name, int at)
    {
        var found = none.Contains(name) ? -1 : text.IndexOf("</" + name, at, StringComparison.OrdinalIgnoreCase);
        if (found < 0)
        {
            none.Add(name);
        }

        return found;
    }
}
