using System.Globalization;
using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>
/// A JSONPath (RFC 9535) of names, places, wildcards and descendants: <c>$.products[*]</c>, <c>$..items[0]</c>, <c>@.price</c>. Slices and filters are not
/// read.
/// </summary>
public sealed class JsonPath
{
    private const int MostSegments = 20;
    private readonly List<Segment> segments;

    private JsonPath(string text, List<Segment> segments) => (Text, this.segments) = (text, segments);

    /// <summary>As it was written.</summary>
    public string Text { get; }

    /// <summary>Whether its last step names one value of many: a name or a place, no wildcard.</summary>
    public bool EndsInOne => segments.Count > 0 && !segments[^1].IsAny;

    /// <summary>How many steps it goes; null where one goes to any depth.</summary>
    internal int? Depth => segments.Exists(s => s.IsDeep) ? null : segments.Count;

    /// <summary>Whether the step of that number, from 1, selects all there are.</summary>
    internal bool IsAnyAt(int step) => step >= 1 && step <= segments.Count && segments[step - 1].IsAny;

    /// <summary>Whether what it selects never is the value it starts from.</summary>
    public bool GoesInside => segments.Count > 0;

    /// <summary>Reads a path.</summary>
    /// <param name="text">The path.</param>
    /// <param name="root">The sign that it begins with: <c>$</c> for the whole, <c>@</c> for an entry.</param>
    /// <param name="column">Where it cannot be read, from 1.</param>
    public static JsonPath? TryParse(string text, char root, out int column)
    {
        var (all, at) = (new List<Segment>(), 1);
        text = text.Trim();
        column = 1;
        if (text.Length == 0 || text[0] != root || text.Length > 500)
        {
            return null;
        }

        while (at < text.Length)
        {
            column = at + 1;
            if (all.Count >= MostSegments || Next(text, ref at) is not { } segment)
            {
                return null;
            }

            all.Add(segment);
        }

        return new JsonPath(text, all);
    }

    private static Segment? Next(string text, ref int at)
    {
        var isDeep = text.AsSpan(at).StartsWith("..");
        at += isDeep ? 2 : text[at] == '.' ? 1 : 0;
        var isName = at > 0 && text[at - 1] == '.';
        if (at >= text.Length)
        {
            return null;
        }

        if (text[at] == '[' && (isDeep || !isName))
        {
            return Bracket(text, isDeep, ref at);
        }

        if (!isName)
        {
            return null;
        }

        if (text[at] == '*')
        {
            at++;
            return new Segment(isDeep, null, null);
        }

        var start = at;
        while (at < text.Length && (char.IsLetterOrDigit(text[at]) || text[at] is '_' or '-' or '$' or '@' || text[at] >= 0x80))
        {
            at++;
        }

        return at == start ? null : new Segment(isDeep, text[start..at], null);
    }

    private static Segment? Bracket(string text, bool isDeep, ref int at)
    {
        at++;
        if (at < text.Length && text[at] is '\'' or '"')
        {
            var (quote, name) = (text[at++], new StringBuilder());
            while (at < text.Length && text[at] != quote)
            {
                at += text[at] == '\\' && at + 1 < text.Length ? 1 : 0;
                name.Append(text[at++]);
            }

            at++;
            return at < text.Length && text[at++] == ']' ? new Segment(isDeep, name.ToString(), null) : null;
        }

        var end = text.IndexOf(']', at);
        if (end < 0)
        {
            return null;
        }

        var said = text[at..end].Trim();
        at = end + 1;
        return said == "*" ? new Segment(isDeep, null, null)
            : int.TryParse(said, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var place) ? new Segment(isDeep, null, place) : null;
    }

    /// <summary>The values that it selects, each once, in no order that counts.</summary>
    internal IReadOnlyList<int> Select(JsonTree tree, IEnumerable<int> from)
    {
        var found = from.ToList();
        foreach (var segment in segments)
        {
            found = segment.IsDeep ? Deep(tree, found, segment) : [.. found.SelectMany(at => Step(tree, at, segment))];
        }

        return found;
    }

    private static List<int> Deep(JsonTree tree, List<int> from, Segment segment)
    {
        // In order of the text, what stands inside another was looked through with it.
        var (found, until) = (new List<int>(), -1);
        foreach (var start in from.Order())
        {
            for (var at = Math.Max(start, until); at < tree[start].Next; at++)
            {
                found.AddRange(Step(tree, at, segment));
            }

            until = Math.Max(until, tree[start].Next);
        }

        return found;
    }

    private static IEnumerable<int> Step(JsonTree tree, int at, Segment segment)
    {
        var inside = tree.Inside(at);
        if (segment.IsAny)
        {
            return inside;
        }

        if (segment.Name is not null)
        {
            return inside.Where(child => tree[child].Name == segment.Name);
        }

        var place = segment.Place!.Value;
        place = place < 0 ? inside.Count() + place : place;
        return inside.Where(child => tree[child].Name is null && tree[child].Place == place);
    }

    private sealed record Segment(bool IsDeep, string? Name, int? Place)
    {
        public bool IsAny => Name is null && Place is null;
    }
}
