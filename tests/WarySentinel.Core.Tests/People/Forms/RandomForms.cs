using WarySentinel.Core.People.Forms;

namespace WarySentinel.Core.Tests.People.Forms;

/// <summary>Forms, and what is typed into them, as a machine makes them up.</summary>
public sealed class RandomForms(int seed)
{
    private static readonly string[] Kinds = ["text", "one-of", "several-of", "yes-no", "number", "date", "country", "consent", "long-text", "phone", "url",
        "address"];

    private static readonly string[] Oddities =
    [
        "", " ", "yes", "no", "Yes", "a", "A", "b", "c", "\u00a0a\u00a0", "\ufeffb", "\u0085c\u0085", "1", "1.0", "01", "+1", "-1", "1,5", "1.50", "-0", "0",
            "1e3", "٣",
        "123456789012345", "1234567890123456", ".5", "5.", "1 000", "2027-02-28", "2027-02-29", "2028-02-29", "2027-2-8", "0000-01-01", "9999-12-31",
        "PT", "pt", "DE", "İstanbul", "istanbul", "ISTANBUL", "ſ", "K", "😀", "a\r\nb", "\u200b", "𝟏", "ǅ", "​", "‮x", "1\u2009", "null", "true", "[]", "\\",
            "\"",
    ];

    private readonly Random random = new(seed);

    /// <summary>Fields of every kind.</summary>
    public IReadOnlyList<FieldDraft> Fields() =>
    [
        .. Enumerable.Range(0, random.Next(2, 9)).Select(i => Kinds[random.Next(Kinds.Length)] is var kind && kind is "one-of" or "several-of"
            ? new FieldDraft { Key = "f" + i, Kind = kind, Label = "Field", Options = [new("a", "A"), new("b", "B"), new("c", "C")] }
            : new FieldDraft { Key = "f" + i, Kind = kind, Label = "Field" }),
    ];

    /// <summary>A form of these fields, where each looks only at those before it; put in an order of its own.</summary>
    public FormDraft Form(IReadOnlyList<FieldDraft> fields)
    {
        var count = random.Next(1, 4);
        var sections = Enumerable.Range(0, count).Select(_ => new List<(int Order, PlacedDraft Placed)>()).ToList();
        var conditions = new ConditionDraft?[count];
        for (var i = 0; i < fields.Count; i++)
        {
            // What a section's condition looks at stands in sections before it, so that there is no ring.
            var section = i * count / fields.Count;
            var before = fields.Take(i).ToList();
            var beforeSection = fields.Where((_, j) => j * count / fields.Count < section).ToList();
            if (sections[section].Count == 0 && beforeSection.Count > 0 && random.Next(3) == 0)
            {
                conditions[section] = Condition(beforeSection, 3);
            }

            sections[section].Add((random.Next(), new PlacedDraft(
                fields[i].Key, random.Next(2) == 0, before.Count > 0 && random.Next(3) > 0 ? Condition(before, 3) : null)));
        }

        return new FormDraft
        {
            Key = "made", Title = "Made up",
            Sections = [.. sections.Select((s, i) => new SectionDraft { ShownIf = conditions[i],
                Fields = [.. s.OrderBy(p => p.Order).Select(p => p.Placed)] })],
            Grants = [.. fields.Take(2).Select(_ => new FormGrantDraft("group:schools", Condition(fields, 2)))],
        };
    }

    /// <summary>What somebody types, sense or not.</summary>
    public Dictionary<string, IReadOnlyList<string>> Typed(IReadOnlyList<FieldDraft> fields) => fields.Where(_ => random.Next(6) > 0).ToDictionary(
        f => f.Key!, IReadOnlyList<string> (_) => [.. Enumerable.Range(0,
            random.Next(3) == 0 ? random.Next(4) : 1).Select(_ => Oddities[random.Next(Oddities.Length)])]);

    private ConditionDraft Condition(IReadOnlyList<FieldDraft> fields, int deep) => random.Next(deep > 0 ? 7 : 3) switch
    {
        4 => new ConditionDraft { All = Several(fields, deep) },
        5 => new ConditionDraft { Any = Several(fields, deep) },
        6 => new ConditionDraft { Not = Condition(fields, deep - 1) },
        _ => Leaf(fields[random.Next(fields.Count)]),
    };

    private List<ConditionDraft> Several(IReadOnlyList<FieldDraft> fields, int deep) =>
        [.. Enumerable.Range(0, random.Next(1, 4)).Select(_ => Condition(fields, deep - 1))];

    private ConditionDraft Leaf(FieldDraft field)
    {
        var asks = new ConditionDraft { Field = field.Key };
        if (random.Next(4) == 0)
        {
            return asks with { Given = random.Next(2) == 0 };
        }

        string Of(params string[] some) => some[random.Next(some.Length)];
        return field.Kind switch
        {
            "one-of" or "several-of" => asks with { Is = random.Next(2) == 0 ? [Of("a", "b", "c")] : ["a", "c"] },
            "yes-no" => asks with { Is = [Of("yes", "no")] },
            "consent" => asks with { Is = ["yes"] },
            "country" => asks with { Is = [Of("PT", "DE", "FR")] },
            "text" => asks with { Is = [Of("a", "B", "istanbul", "1", "😀", "yes", "ſ", "K")] },
            "number" => random.Next(2) == 0 ? asks with { Is = [Of("1", "1.5", "0", "-1")] }
                : asks with { AtLeast = Of("0", "1,50", "-0.5"), AtMost = random.Next(2) == 0 ? Of("1", "123456789012345") : null },
            "date" => random.Next(2) == 0 ? asks with { AtLeast = Of("2027-02-28", "2028-01-01") } : asks with { AtMost = "2027-12-31" },
            _ => asks with { Given = true },
        };
    }
}
