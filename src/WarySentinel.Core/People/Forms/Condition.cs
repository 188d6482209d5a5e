namespace WarySentinel.Core.People.Forms;

/// <summary>
/// A condition on answers as people write it, and as it travels: one of <c>all</c>, <c>any</c>, <c>not</c>, or a field with what is asked of it.
/// The browser evaluates the same tree (<c>forms.js</c>); a test holds both against each other.
/// </summary>
public sealed record ConditionDraft
{
    /// <summary>All of these hold.</summary>
    public IReadOnlyList<ConditionDraft>? All { get; init; }

    /// <summary>At least one of these holds.</summary>
    public IReadOnlyList<ConditionDraft>? Any { get; init; }

    /// <summary>This does not hold.</summary>
    public ConditionDraft? Not { get; init; }

    /// <summary>The key of a field.</summary>
    public string? Field { get; init; }

    /// <summary>Its answer is one of these, or has one of these among it.</summary>
    public IReadOnlyList<string>? Is { get; init; }

    /// <summary>Whether it has an answer.</summary>
    public bool? Given { get; init; }

    /// <summary>Its number or day is this or greater.</summary>
    public string? AtLeast { get; init; }

    /// <summary>Its number or day is this or less.</summary>
    public string? AtMost { get; init; }
}

/// <summary>What a field has been answered, as conditions see it.</summary>
/// <param name="Kind">What sort of answer it is.</param>
/// <param name="Values">What was typed or chosen, in the spelling that is compared; never empty.</param>
public sealed record PlainAnswer(FieldKind Kind, IReadOnlyList<string> Values);

/// <summary>A condition on answers, bound to the fields of a form. Immutable.</summary>
public abstract record Condition
{
    /// <summary>Most parts of a condition inside each other.</summary>
    public const int Deepest = 12;

    /// <summary>Most parts of a condition in all.</summary>
    public const int MostParts = 100;

    private Condition()
    {
    }

    /// <summary>Whether it holds.</summary>
    /// <param name="answer">The answer of a field; null where there is none, or the field is not shown.</param>
    public abstract bool Holds(Func<string, PlainAnswer?> answer);

    /// <summary>The fields that it looks at.</summary>
    public abstract IEnumerable<string> Fields { get; }

    /// <summary>Reads one, or notes what is wrong with it; null then.</summary>
    /// <param name="draft">What is written.</param>
    /// <param name="field">The field of that key, where the form has it.</param>
    /// <param name="place">Where it stands, for faults.</param>
    /// <param name="faults">Takes them.</param>
    public static Condition? Read(ConditionDraft draft, Func<string, Field?> field, string place, Faults faults)
    {
        var left = MostParts;
        return Read(draft, field, place, faults, Deepest, ref left);
    }

    private static Condition? Read(ConditionDraft? draft, Func<string, Field?> field, string place, Faults faults, int deep, ref int left)
    {
        if (deep == 0 || --left < 0)
        {
            faults.Bad(place, "condition-large", Deepest, MostParts);
            return null;
        }

        if (draft is null || (draft.All is null ? 0 : 1) + (draft.Any is null ? 0 : 1) + (draft.Not is null ? 0 : 1) + (draft.Field is null ? 0 : 1) != 1)
        {
            faults.Bad(place, "condition-form");
            return null;
        }

        if (draft.Field is not null)
        {
            return ReadField(draft, field, place, faults);
        }

        if (draft.Not is not null)
        {
            return Read(draft.Not, field, place + ".not", faults, deep - 1, ref left) is { } inner ? new Negated(inner) : null;
        }

        var (parts, read) = (draft.All ?? draft.Any!, new List<Condition>());
        faults.Unless(parts.Count > 0, place, "condition-form");
        for (var i = 0; i < parts.Count && left >= 0; i++)
        {
            if (Read(parts[i], field, $"{place}.{(draft.All is null ? "any" : "all")}[{i}]", faults, deep - 1, ref left) is { } one)
            {
                read.Add(one);
            }
        }

        return read.Count != parts.Count || read.Count == 0 ? null : draft.All is null ? new AnyOf(read) : new AllOf(read);
    }

    private static Answered? ReadField(ConditionDraft draft, Func<string, Field?> find, string place, Faults faults)
    {
        if (find(draft.Field!) is not { } field)
        {
            faults.Bad(place, "condition-field", draft.Field);
            return null;
        }

        var (isOrdered, isChosen) = (field.Kind is FieldKind.Number or FieldKind.Date, field.Kind is FieldKind.OneOf or FieldKind.SeveralOf);
        var takesIs = isOrdered || isChosen || field.Kind is FieldKind.Text or FieldKind.YesNo or FieldKind.Country or FieldKind.Consent;
        var asked = (draft.Is is null ? 0 : 1) + (draft.Given is null ? 0 : 1) + (draft.AtLeast is null && draft.AtMost is null ? 0 : 1);
        if (asked != 1 || (draft.Is is not null && !takesIs) || ((draft.AtLeast ?? draft.AtMost) is not null && !isOrdered))
        {
            faults.Bad(place, "condition-asks", draft.Field, FieldNames.Kinds[(int)field.Kind]);
            return null;
        }

        List<string?> read =
        [
            .. (draft.Is ?? []).Select(v => ValueOf(field, v ?? "") ?? ""),
            .. new[] { draft.AtLeast, draft.AtMost }.Select(v => v is null ? null : ValueOf(field, v) ?? ""),
        ];
        if (draft.Is is { Count: 0 or > FieldReader.MostOptions } || read.Any(v => v?.Length == 0))
        {
            faults.Bad(place, "condition-value", draft.Field, string.Join(", ", field.Options.Take(20)));
            return null;
        }

        var count = draft.Is?.Count ?? 0;
        return new Answered(field.Key, field.Kind, draft.Is is null ? null : [.. read.Take(count).Select(v => v!)], draft.Given, read[count], read[count + 1]);
    }

    /// <summary>A value that an answer is compared with, in the spelling of answers; null where no answer can be so.</summary>
    private static string? ValueOf(Field field, string text) => field.Kind switch
    {
        FieldKind.OneOf or FieldKind.SeveralOf => field.Options.Contains(text) ? text : null,
        FieldKind.Country => Countries.IsKnown(text) ? text : null,
        FieldKind.YesNo => text is "yes" or "no" ? text : null,
        FieldKind.Consent => text is "yes" ? text : null,
        FieldKind.Number => Numbers.Read(text),
        FieldKind.Date => AnswerReader.IsDay(text) ? text : null,
        _ => Blank.Off(text) is { Length: > 0 } typed ? Blank.Small(typed) : null,
    };

    private sealed record AllOf(IReadOnlyList<Condition> Parts) : Condition
    {
        public override IEnumerable<string> Fields => Parts.SelectMany(p => p.Fields);

        public override bool Holds(Func<string, PlainAnswer?> answer) => Parts.All(p => p.Holds(answer));
    }

    private sealed record AnyOf(IReadOnlyList<Condition> Parts) : Condition
    {
        public override IEnumerable<string> Fields => Parts.SelectMany(p => p.Fields);

        public override bool Holds(Func<string, PlainAnswer?> answer) => Parts.Any(p => p.Holds(answer));
    }

    private sealed record Negated(Condition Inner) : Condition
    {
        public override IEnumerable<string> Fields => Inner.Fields;

        public override bool Holds(Func<string, PlainAnswer?> answer) => !Inner.Holds(answer);
    }

    private sealed record Answered(string Key, FieldKind Kind, IReadOnlyList<string>? Is, bool? Given, string? AtLeast, string? AtMost) : Condition
    {
        public override IEnumerable<string> Fields => [Key];

        public override bool Holds(Func<string, PlainAnswer?> answer)
        {
            var given = answer(Key);
            return Given is { } asked ? asked == given is not null : given is not null
                && (Is?.Any(v => given.Values.Contains(v, StringComparer.Ordinal)) ?? Lies(given.Values[0]));
        }

        private bool Lies(string value) => Kind == FieldKind.Date
            ? AnswerReader.IsDay(value) && (AtLeast is null || string.CompareOrdinal(AtLeast, value) <= 0)
                && (AtMost is null || string.CompareOrdinal(value, AtMost) <= 0)
            : Numbers.Read(value) is { } number && (AtLeast is null || Numbers.ValueOf(AtLeast) <= Numbers.ValueOf(number))
                && (AtMost is null || Numbers.ValueOf(number) <= Numbers.ValueOf(AtMost));
    }
}
