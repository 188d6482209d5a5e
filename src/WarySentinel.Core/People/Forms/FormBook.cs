using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People.Forms;

/// <summary>A draft as it is stored.</summary>
/// <param name="Draft">What is written.</param>
/// <param name="Version">Counts its changes, from 1.</param>
public sealed record Kept<T>(T Draft, int Version);

/// <summary>The fields and forms of a site. Immutable.</summary>
public sealed record FormBook : IPolicyPart
{
    private readonly Dictionary<string, Field> fields = new(StringComparer.Ordinal);

    /// <summary>None.</summary>
    public FormBook()
        : this([], [])
    {
    }

    /// <summary>Some. What cannot be read stands among <see cref="Broken"/>, and is closed.</summary>
    public FormBook(IEnumerable<Kept<FieldDraft>> keptFields, IEnumerable<Kept<FormDraft>> keptForms)
    {
        (KeptFields, KeptForms) = ([.. keptFields], [.. keptForms]);
        var (broken, forms) = (new List<(string, string, Problem)>(), new List<JoinForm>());
        foreach (var kept in KeptFields)
        {
            var read = kept.Draft.Read();
            if (read.Problem is { } problem)
            {
                broken.Add(("field", kept.Draft.Key ?? "", problem));
            }
            else
            {
                fields[read.Value.Key] = read.Value;
            }
        }

        foreach (var kept in KeptForms)
        {
            var read = new FormReader(kept.Draft, fields, kept.Version).Read();
            forms.AddRange(read.IsGood ? [read.Value] : []);
            broken.AddRange(read.Problem is { } wrong ? [("form", kept.Draft.Key ?? "", wrong)] : []);
        }

        Fields = [.. fields.Values.OrderBy(f => f.Draft.Position ?? UsualPosition).ThenBy(f => f.Key, StringComparer.Ordinal)];
        Forms = [.. forms.OrderBy(f => f.Draft.Position ?? UsualPosition).ThenBy(f => f.Key, StringComparer.Ordinal)];
        Broken = broken;
        Profile = ProfileOf(Fields);
    }

    /// <summary>Where a field or form stands in order unless it says.</summary>
    public const int UsualPosition = 100;

    /// <summary>The fields in their order.</summary>
    public IReadOnlyList<Field> Fields { get; }

    /// <summary>The forms in their order.</summary>
    public IReadOnlyList<JoinForm> Forms { get; }

    /// <summary>The fields that members change of themselves, as one form without conditions; nothing in it is asked for.</summary>
    public JoinForm Profile { get; }

    /// <summary>What of it cannot be read: a word for what it is, its key, and why.</summary>
    public IReadOnlyList<(string Kind, string Key, Problem Problem)> Broken { get; }

    /// <summary>The keys of the forms that cannot be read.</summary>
    public IEnumerable<string> BrokenForms => Broken.Where(b => b.Kind == "form").Select(b => b.Key);

    internal IReadOnlyList<Kept<FieldDraft>> KeptFields { get; }

    internal IReadOnlyList<Kept<FormDraft>> KeptForms { get; }

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences =>
        Forms.SelectMany(f => f.Grants.Select(g => new NamedAudience("form", f.Key, new Audience.Fact(g.Kind, g.Key))));

    /// <summary>The fields and forms of a policy.</summary>
    public static FormBook Of(Policy policy) => policy.Parts.Of<FormBook>();

    /// <summary>The field of that key, or null.</summary>
    public Field? FindField(string key) => fields.GetValueOrDefault(key);

    /// <summary>A form as it is written, also one that cannot be read; null where there is none.</summary>
    public Kept<FormDraft>? DraftOf(string form) => KeptForms.FirstOrDefault(k => k.Draft.Key == form);

    /// <summary>The version of a field, from 1; 0 where there is none.</summary>
    public int VersionOf(string field) => KeptFields.FirstOrDefault(k => k.Draft.Key == field)?.Version ?? 0;

    /// <summary>
    /// The form at an address: of that key, or the first where none is named. Where the site has no form, the plain one; a form that is there and cannot be
    /// read is none.
    /// </summary>
    public JoinForm? Find(string? key) => key is null or "" ? KeptForms.Count == 0 ? JoinForm.Plain : Forms is [var first, ..] ? first : null
        : Forms.FirstOrDefault(f => f.Key == key) ?? (key == JoinForm.Plain.Key && KeptForms.Count == 0 ? JoinForm.Plain : null);

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map)
    {
        var after = KeptForms.Select(kept => (kept.Draft.Grants ?? []).Aggregate(kept, (form, grant) =>
        {
            var fact = grant.Grant?.Split(':', 2) is [var kind, var key] && FactNames.TryParse(kind, out var of) ? new Audience.Fact(of, key) : null;
            return fact is not null && map(fact) is Audience.Fact other && other != fact
                ? form with { Draft = form.Draft.Giving(grant.Grant!, other.ToString()) } : form;
        })).ToList();
        return after.Zip(KeptForms, ReferenceEquals).All(same => same) ? this : new FormBook(KeptFields, after);
    }

    /// <summary>The forms that say something else than they did.</summary>
    public IEnumerable<Kept<FormDraft>> Changed(FormBook before) => KeptForms.Where(k => before.KeptForms.All(o => !ReferenceEquals(o, k)));

    private static JoinForm ProfileOf(IEnumerable<Field> fields)
    {
        List<Field> own = [.. fields.Where(f => f is { Profile: ProfileUse.Editable, Kind: not FieldKind.File })];
        var draft = new FormDraft
        {
            Key = "profile", Title = "Profile",
            Sections = [new SectionDraft { Fields = [.. own.Select(f => new PlacedDraft(f.Key))] }]
        };
        return new JoinForm(draft, null, [null], [.. own.Select(f => new PlacedField(f, 0, false, null))], [], null);
    }

    internal FormBook With(IEnumerable<Kept<FieldDraft>> others) => new(others, KeptForms);

    internal FormBook With(IEnumerable<Kept<FormDraft>> others) => new(KeptFields, others);
}

/// <summary>Stores a field.</summary>
public sealed record FieldPut(FieldDraft Field, int Version) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        var book = draft.Part<FormBook>();
        draft.Set(book.With(book.KeptFields.Where(k => k.Draft.Key != Field.Key).Append(new Kept<FieldDraft>(Field, Version))));
    }
}

/// <summary>Drops a field; what was answered to it stays.</summary>
public sealed record FieldDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        var book = draft.Part<FormBook>();
        draft.Set(book.With(book.KeptFields.Where(k => k.Draft.Key != Key)));
    }
}

/// <summary>Stores a form.</summary>
public sealed record FormPut(FormDraft Form, int Version) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        var book = draft.Part<FormBook>();
        draft.Set(book.With(book.KeptForms.Where(k => k.Draft.Key != Form.Key).Append(new Kept<FormDraft>(Form, Version))));
    }
}

/// <summary>Drops a form.</summary>
public sealed record FormDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        var book = draft.Part<FormBook>();
        draft.Set(book.With(book.KeptForms.Where(k => k.Draft.Key != Key)));
    }
}
