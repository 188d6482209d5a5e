using System.Text;

namespace WarySentinel.Core.Markup;

/// <summary>
/// A CSS selector (Selectors Level 4), as far as it can be told from the start of an element and from those around it: type, class, id, attributes,
/// descendants and children, several with commas. What follows or what is inside (<c>+</c>, <c>~</c>, <c>:has()</c>, <c>:nth-child()</c>) is not known then.
/// </summary>
public sealed class CssSelector
{
    /// <summary>The most that a selector may hold of compounds, such as <c>li.card</c>.</summary>
    public const int MostCompounds = 20;

    private readonly List<Compound> compounds;

    private CssSelector(string text, List<Compound> compounds) => (Text, this.compounds) = (text, compounds);

    /// <summary>As it was written.</summary>
    public string Text { get; }

    /// <summary>Reads a selector; else says what is wrong, and at which column, from 1.</summary>
    public static CssSelector? TryParse(string text, out string fault, out int column)
    {
        var reader = new CssSelectorReader(text);
        var compounds = reader.Read();
        (fault, column) = (reader.Fault, reader.Column);
        return compounds is null ? null : new CssSelector(text.Trim(), compounds);
    }

    /// <summary>What of the selector is met where nothing is open yet: pages leave the tags of <c>html</c> and <c>body</c> out.</summary>
    internal Met Outermost() => Next(Next(default, new TagFacts("html", [])), new TagFacts("body", []));

    /// <summary>What is met at an element, by what is met at the one around it.</summary>
    internal Met Next(Met around, TagFacts tag)
    {
        var here = 0UL;
        for (var n = 0; n < compounds.Count; n++)
        {
            var compound = compounds[n];
            var before = 1UL << (n - 1);
            if ((compound.Way == Way.First || ((compound.Way == Way.Child ? around.Here : around.Above) & before) != 0) && compound.IsMetBy(tag))
            {
                here |= 1UL << n;
            }
        }

        return new Met(here, around.Above | here);
    }

    /// <summary>Whether the element at which that is met is one that the selector means.</summary>
    internal bool IsMetAt(Met met)
    {
        for (var n = 0; n < compounds.Count; n++)
        {
            if (compounds[n].IsLast && (met.Here & (1UL << n)) != 0)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Compounds that are met at an element, and at it or any around it; a bit each.</summary>
    internal readonly record struct Met(ulong Here, ulong Above);

    internal enum Way
    {
        First,
        Descendant,
        Child,
    }

    /// <summary>What must hold of one element.</summary>
    internal sealed record Compound(Way Way, string? Type, List<Condition> Conditions)
    {
        public bool IsLast { get; set; }

        public bool IsMetBy(TagFacts tag) => (Type is null || Type == tag.Name) && Conditions.TrueForAll(c => c.IsMetBy(tag));
    }

    /// <summary>A condition on an attribute (Selectors §6).</summary>
    /// <param name="Name">The attribute, in small letters.</param>
    /// <param name="Sign">How it is compared: <c>=</c>, <c>~=</c>, <c>|=</c>, <c>^=</c>, <c>$=</c>, <c>*=</c>; empty for any value.</param>
    /// <param name="Value">With what.</param>
    /// <param name="IgnoresCase">Whether capital and small letters are the same.</param>
    /// <param name="IsNot">Whether it must not hold.</param>
    internal sealed record Condition(string Name, string Sign, string Value, bool IgnoresCase, bool IsNot)
    {
        private static readonly char[] Blanks = [' ', '\t', '\n', '\r', '\f'];

        public bool IsMetBy(TagFacts tag) => (tag[Name] is { } said && Holds(said)) != IsNot;

        private bool Holds(string said)
        {
            var rule = IgnoresCase ? StringComparison.OrdinalIgnoreCase : StringComparison.Ordinal;
            return Sign switch
            {
                "" => true,
                "=" => said.Equals(Value, rule),
                "~=" => said.Split(Blanks, StringSplitOptions.RemoveEmptyEntries).Any(word => word.Equals(Value, rule)),
                "|=" => said.Equals(Value, rule) || said.StartsWith(Value + "-", rule),
                "^=" => Value.Length > 0 && said.StartsWith(Value, rule),
                "$=" => Value.Length > 0 && said.EndsWith(Value, rule),
                _ => Value.Length > 0 && said.Contains(Value, rule),
            };
        }
    }
}

/// <summary>A tag as selectors see it.</summary>
/// <param name="Name">The element, in small letters.</param>
/// <param name="Attributes">Its attributes, names in small letters, the first of a name only.</param>
internal sealed record TagFacts(string Name, IReadOnlyList<(string Name, string Value)> Attributes)
{
    /// <summary>The value of an attribute; null where there is none.</summary>
    public string? this[string name]
    {
        get
        {
            foreach (var (attribute, value) in Attributes)
            {
                if (attribute == name)
                {
                    return value;
                }
            }

            return null;
        }
    }

    /// <summary>The facts of a tag.</summary>
    public static TagFacts Of(Element element, ReadOnlySpan<byte> tag, Encoding encoding)
    {
        var attributes = new List<(string Name, string Value)>();
        var reader = new TagReader(tag, TagReader.EndOfName(tag, 1));
        while (reader.Next(out var name, out var value))
        {
            var lower = Encoding.Latin1.GetString(name).ToLowerInvariant();
            if (!attributes.Exists(a => a.Name == lower))
            {
                attributes.Add((lower, CharacterReferences.Decode(encoding.GetString(value))));
            }
        }

        return new TagFacts(element.Name, attributes);
    }
}
