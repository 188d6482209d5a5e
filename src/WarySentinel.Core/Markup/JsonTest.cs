using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace WarySentinel.Core.Markup;

/// <summary>Data while a path looks through it: what it asks of the whole is found once.</summary>
internal sealed class JsonSight(JsonTree tree)
{
    private readonly Dictionary<(JsonQuery, int), IReadOnlyList<int>> known = [];

    public JsonTree Tree => tree;

    /// <summary>What a query selects that stands in a filter.</summary>
    public IReadOnlyList<int> Select(JsonQuery query, int at)
    {
        if (!query.IsWhole)
        {
            return query.Select(this, [at]);
        }

        var root = at;
        while (tree[root].Parent >= 0)
        {
            root = tree[root].Parent;
        }

        return known.TryGetValue((query, root), out var found) ? found : known[(query, root)] = query.Select(this, [root]);
    }
}

/// <summary>Something that holds of a value or does not (RFC 9535 §2.3.5.1).</summary>
internal abstract record JsonTest
{
    public abstract bool Holds(JsonSight sight, int at);
}

/// <summary>Any of several.</summary>
internal sealed record EitherTest(IReadOnlyList<JsonTest> Tests) : JsonTest
{
    public override bool Holds(JsonSight sight, int at) => Tests.Any(t => t.Holds(sight, at));
}

/// <summary>All of several.</summary>
internal sealed record BothTest(IReadOnlyList<JsonTest> Tests) : JsonTest
{
    public override bool Holds(JsonSight sight, int at) => Tests.All(t => t.Holds(sight, at));
}

/// <summary>The contrary.</summary>
internal sealed record NotTest(JsonTest Test) : JsonTest
{
    public override bool Holds(JsonSight sight, int at) => !Test.Holds(sight, at);
}

/// <summary>Whether there is such a value.</summary>
internal sealed record ThereTest(JsonQuery Query) : JsonTest
{
    public override bool Holds(JsonSight sight, int at) => sight.Select(Query, at).Count > 0;
}

/// <summary>Whether a text is as a pattern says (RFC 9485), as a whole or anywhere in it.</summary>
internal sealed record PatternTest(JsonOperand Text, Regex Pattern) : JsonTest
{
    public override bool Holds(JsonSight sight, int at) => Text.Of(sight, at) is { Sort: Said.Sorts.Text, Text: { } text } && Pattern.IsMatch(text);
}

/// <summary>Two values compared (RFC 9535 §2.3.5.2.2).</summary>
internal sealed record CompareTest(JsonOperand Left, string Sign, JsonOperand Right) : JsonTest
{
    public override bool Holds(JsonSight sight, int at)
    {
        var (left, right) = (Left.Of(sight, at), Right.Of(sight, at));
        return Sign switch
        {
            "==" => left.Is(right, sight.Tree),
            "!=" => !left.Is(right, sight.Tree),
            "<" => left.IsBefore(right),
            ">" => right.IsBefore(left),
            "<=" => left.IsBefore(right) || left.Is(right, sight.Tree),
            _ => right.IsBefore(left) || left.Is(right, sight.Tree),
        };
    }
}

/// <summary>What stands on a side of a comparison.</summary>
internal abstract record JsonOperand
{
    public abstract Said Of(JsonSight sight, int at);
}

/// <summary>A value as it is written into the path.</summary>
internal sealed record Literal(Said Value) : JsonOperand
{
    public override Said Of(JsonSight sight, int at) => Value;
}

/// <summary>The one value that a query selects; nothing where it selects none or, of <c>value</c>, several.</summary>
internal sealed record ValueOf(JsonQuery Query) : JsonOperand
{
    public override Said Of(JsonSight sight, int at) => sight.Select(Query, at) is [var one] ? Said.Of(sight.Tree, one) : default;
}

/// <summary>How many values a query selects.</summary>
internal sealed record CountOf(JsonQuery Query) : JsonOperand
{
    public override Said Of(JsonSight sight, int at) => new(Said.Sorts.Number, Number: sight.Select(Query, at).Count);
}

/// <summary>How many signs a text has, or how many values stand in a list or an object; nothing for any other.</summary>
internal sealed record LengthOf(JsonOperand Value) : JsonOperand
{
    public override Said Of(JsonSight sight, int at)
    {
        var value = Value.Of(sight, at);
        return value.Sort switch
        {
            Said.Sorts.Text => new Said(Said.Sorts.Number, Number: value.Text!.EnumerateRunes().Count()),
            Said.Sorts.Inside => new Said(Said.Sorts.Number, Number: sight.Tree.Inside(value.At).Count()),
            _ => default,
        };
    }
}

/// <summary>A value while it is compared.</summary>
internal readonly record struct Said(Said.Sorts Sort, string? Text = null, double Number = 0, int At = -1)
{
    public enum Sorts
    {
        Nothing,
        Null,
        True,
        False,
        Number,
        Text,

        /// <summary>A list or an object.</summary>
        Inside,
    }

    public static Said Of(JsonTree tree, int at) => tree[at].Kind switch
    {
        JsonTokenType.Null => new(Sorts.Null),
        JsonTokenType.True => new(Sorts.True),
        JsonTokenType.False => new(Sorts.False),
        JsonTokenType.String => new(Sorts.Text, tree.TextOf(at)),
        JsonTokenType.Number => new(Sorts.Number, Number: double.Parse(tree.RawOf(at), CultureInfo.InvariantCulture)),
        _ => new(Sorts.Inside, At: at),
    };

    public bool Is(Said other, JsonTree tree) => Sort == other.Sort && Sort switch
    {
        Sorts.Number => Number.Equals(other.Number),
        Sorts.Text => Text == other.Text,
        Sorts.Inside => At == other.At || IsAlike(tree, At, other.At),
        _ => true,
    };

    /// <summary>Numbers by their size, texts sign by sign (as UTF-8 has them in order); nothing else is before anything.</summary>
    public bool IsBefore(Said other) => Sort == other.Sort && Sort switch
    {
        Sorts.Number => Number < other.Number,
        Sorts.Text => Encoding.UTF8.GetBytes(Text!).AsSpan().SequenceCompareTo(Encoding.UTF8.GetBytes(other.Text!)) < 0,
        _ => false,
    };

    private static bool IsAlike(JsonTree tree, int one, int other)
    {
        if (tree[one].Kind != tree[other].Kind)
        {
            return false;
        }

        var (left, right) = (tree.Inside(one).ToList(), tree.Inside(other).ToList());
        if (left.Count != right.Count)
        {
            return false;
        }

        if (!tree.IsList(one))
        {
            // The members of an object stand in no order (RFC 8259 §1).
            left.Sort((a, b) => string.CompareOrdinal(tree[a].Name, tree[b].Name));
            right.Sort((a, b) => string.CompareOrdinal(tree[a].Name, tree[b].Name));
        }

        return left.Zip(right).All(p => tree[p.First].Name == tree[p.Second].Name && Of(tree, p.First).Is(Of(tree, p.Second), tree));
    }
}
