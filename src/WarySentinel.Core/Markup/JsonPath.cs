namespace WarySentinel.Core.Markup;

/// <summary>
/// A JSONPath (RFC 9535): <c>$.products[*]</c>, <c>$..items[0]</c>, <c>$.rows[1:]</c>, <c>$.products[?@.price &gt; 10]</c>, <c>@.price</c>. A pattern of
/// <c>match</c> and <c>search</c> is written into the path; each value counts once.
/// </summary>
public sealed class JsonPath
{
    private const int Longest = 500;
    private readonly JsonQuery query;

    private JsonPath(string text, JsonQuery query) => (Text, this.query) = (text, query);

    /// <summary>As it was written.</summary>
    public string Text { get; }

    /// <summary>Whether its last step names one value of many: a name or a place, no wildcard.</summary>
    public bool EndsInOne => query.Segments.Count > 0 && query.Segments[^1].IsOne;

    /// <summary>How many steps it goes; null where one goes to any depth.</summary>
    internal int? Depth => query.Segments.Any(s => s.IsDeep) ? null : query.Segments.Count;

    /// <summary>Whether the step of that number, from 1, selects all there are.</summary>
    internal bool IsAnyAt(int step) => step >= 1 && step <= query.Segments.Count && query.Segments[step - 1].IsAny;

    /// <summary>Whether what it selects never is the value it starts from.</summary>
    public bool GoesInside => query.Segments.Count > 0;

    /// <summary>Reads a path.</summary>
    /// <param name="text">The path.</param>
    /// <param name="root">The sign that it begins with: <c>$</c> for the whole, <c>@</c> for an entry.</param>
    /// <param name="column">Where it cannot be read, from 1.</param>
    public static JsonPath? TryParse(string text, char root, out int column)
    {
        column = 1;
        text = text.Trim();
        if (text.Length == 0 || text[0] != root || text.Length > Longest)
        {
            return null;
        }

        var reader = new JsonPathReader(text);
        var query = reader.Whole();
        column = reader.Column;
        return query is null ? null : new JsonPath(text, query);
    }

    /// <summary>The values that it selects, each once, in no order that counts.</summary>
    internal IReadOnlyList<int> Select(JsonTree tree, IEnumerable<int> from) => query.Select(new JsonSight(tree), from);
}
