namespace WarySentinel.Core.Markup;

/// <summary>
/// Where on the stack of open elements the innermost of each sort stands, so that nobody searches a deep stack: what a page costs grows with its
/// size, not with its depth.
/// </summary>
internal sealed class OpenPlaces
{
    private readonly Dictionary<string, List<int>> byName = new(StringComparer.Ordinal);
    private readonly List<int> entries = [];
    private readonly List<int> lists = [];
    private readonly List<int> bounds = [];

    /// <summary>The innermost list, or -1.</summary>
    public int List => Last(lists);

    /// <summary>The innermost entry that no bound of the page stands inside of, or -1.</summary>
    public int Entry => Last(entries) is var entry && entry > Last(bounds) ? entry : -1;

    public void Push(Element element, bool isEntry, bool isList, int at)
    {
        (byName.TryGetValue(element.Name, out var places) ? places : byName[element.Name] = []).Add(at);
        if (isEntry)
        {
            entries.Add(at);
        }

        if (isList)
        {
            lists.Add(at);
        }

        if (element.IsPageBound)
        {
            bounds.Add(at);
        }
    }

    public void Pop(Element element, int at)
    {
        Drop(byName[element.Name], at);
        Drop(entries, at);
        Drop(lists, at);
        Drop(bounds, at);
    }

    /// <summary>The innermost open element of that name, or -1.</summary>
    public int Of(string name) => byName.TryGetValue(name, out var places) ? Last(places) : -1;

    /// <summary>The innermost of several names, or -1.</summary>
    public int Of(string[] names)
    {
        var last = -1;
        foreach (var name in names)
        {
            last = Math.Max(last, Of(name));
        }

        return last;
    }

    private static int Last(List<int> places) => places.Count == 0 ? -1 : places[^1];

    private static void Drop(List<int> places, int at)
    {
        if (places.Count > 0 && places[^1] == at)
        {
            places.RemoveAt(places.Count - 1);
        }
    }
}
