using WarySentinel.Core.Access;
using WarySentinel.Core.People.Consents;

namespace WarySentinel.Core.People.Forms;

/// <summary>Adds, changes and removes fields and forms.</summary>
public static class FormCommands
{
    /// <summary>Most fields of a site.</summary>
    public const int MostFields = 200;

    /// <summary>Most forms of a site.</summary>
    public const int MostForms = 60;

    /// <summary>Stores a field; one of that key is replaced. One that a form could no longer use is refused.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="draft">The field.</param>
    /// <param name="version">The version that was edited; null to write over whatever is there.</param>
    public static Outcome<Edit<Field>> PutField(Policy policy, FieldDraft draft, int? version = null)
    {
        var put = WithoutForms(policy, draft, version);
        return put.Problem is null && BrokenBy(policy, put.Value.ToStore) is { } broken ? Problem.In("key", "field-breaks", broken) : put;
    }

    /// <summary>Stores a field, whatever forms say to it: they come after it.</summary>
    internal static Outcome<Edit<Field>> WithoutForms(Policy policy, FieldDraft draft, int? version = null)
    {
        var read = draft.Read();
        if (read.Problem is { } problem)
        {
            return problem;
        }

        var (book, key) = (FormBook.Of(policy), read.Value.Key);
        var (was, old) = (book.VersionOf(key), book.FindField(key));
        if (version is not null && version != was)
        {
            return Problem.Of(ProblemKind.Stale, "stale", key);
        }

        if (was == 0 && book.KeptFields.Count >= MostFields)
        {
            return Problem.Of(ProblemKind.Conflict, "fields-many", MostFields);
        }

        if (old is not null && old.Kind != read.Value.Kind)
        {
            return Problem.In("kind", "field-kind-fixed", key, FieldNames.Kinds[(int)old.Kind]);
        }

        var put = new FieldPut(draft, was + 1);
        var edit = new Edit(was == 0 ? "field.add" : "field.set", key, [put], old?.Draft.Label, draft.Label) { Detail = Detail.Of(old?.Draft, draft) };
        return new Edit<Field>(edit, read.Value);
    }

    /// <summary>Removes a field that no form uses. What was answered to it stays until it is erased on purpose.</summary>
    public static Outcome<Edit<Field>> RemoveField(Policy policy, string key)
    {
        var book = FormBook.Of(policy);
        if (book.FindField(key) is not { } field)
        {
            return Problem.Of(ProblemKind.NotFound, "field-unknown", key);
        }

        var using_ = book.KeptForms.Where(k => k.Draft.Sections?.Any(s => s?.Fields?.Any(p => p?.Field == key) == true) == true).Select(k => k.Draft.Key);
        return string.Join(", ", using_) is { Length: > 0 } forms ? Problem.Of(ProblemKind.Conflict, "field-used", key, forms)
            : new Edit<Field>(new Edit("field.remove", key, [new FieldDropped(key)], field.Draft.Label) { Detail = Detail.Of(field.Draft, null) }, field);
    }

    /// <summary>Stores a form; one of that key is replaced.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="draft">The form.</param>
    /// <param name="version">The version that was edited; null to write over whatever is there.</param>
    public static Outcome<Edit<JoinForm>> PutForm(Policy policy, FormDraft draft, int? version = null)
    {
        var book = FormBook.Of(policy);
        var old = book.KeptForms.FirstOrDefault(k => k.Draft.Key == draft.Key);
        if (version is not null && version != (old?.Version ?? 0))
        {
            return Problem.Of(ProblemKind.Stale, "stale", draft.Key ?? "");
        }

        if (old is null && book.KeptForms.Count >= MostForms)
        {
            return Problem.Of(ProblemKind.Conflict, "forms-many", MostForms);
        }

        var read = new FormReader(draft, book.Fields.ToDictionary(f => f.Key, StringComparer.Ordinal), (old?.Version ?? 0) + 1).Read();
        if (read.Problem is { } problem)
        {
            return problem;
        }

        if (draft.Terms?.FirstOrDefault(t => TermsBook.Of(policy).Find(t) is null) is { } missing)
        {
            return Problem.In("terms", "terms-unknown", missing);
        }

        for (var i = 0; i < read.Value.Grants.Count; i++)
        {
            var grant = read.Value.Grants[i];
            if (policy.FindDefinition(grant.Kind, grant.Key) is null)
            {
                return Problem.In($"grants[{i}].grant", "standing-unknown", Facts.FactNames.NameOf(grant.Kind), grant.Key);
            }
        }

        return new Edit<JoinForm>(
            new Edit(old is null ? "form.add" : "form.set", draft.Key!, [new FormPut(draft, (old?.Version ?? 0) + 1)], old?.Draft.Title, draft.Title)
            { Detail = Detail.Of(old?.Draft, draft) },
            read.Value);
    }

    /// <summary>Removes a form. Who came by it stays.</summary>
    public static Outcome<Edit<FormDraft>> RemoveForm(Policy policy, string key) =>
        FormBook.Of(policy).KeptForms.FirstOrDefault(k => k.Draft.Key == key) is not { } old ? Problem.Of(ProblemKind.NotFound, "form-unknown", key)
            : new Edit<FormDraft>(new Edit("form.remove", key, [new FormDropped(key)], old.Draft.Title) { Detail = Detail.Of(old.Draft, null) }, old.Draft);

    /// <summary>Puts fields into an order: these keys first, as they are named, the others behind as they stood.</summary>
    public static Outcome<Edit<FormBook>> OrderFields(Policy policy, IReadOnlyList<string> keys)
    {
        var book = FormBook.Of(policy);
        var (ordered, unknown) = Ordering.Of(book.Fields, f => f.Key, keys);
        var puts = ordered.Select((f, place) => (f.Draft, Position: Ordering.PositionAt(place))).Where(f => f.Draft.Position != f.Position)
            .Select(f => new FieldPut(f.Draft with { Position = f.Position }, book.VersionOf(f.Draft.Key!) + 1));
        return unknown is not null ? Problem.In("keys", "field-unknown", unknown)
            : InOrder(policy, ("field.order", "fields"), [.. puts], (book.Fields.Select(f => f.Key), ordered.Select(f => f.Key)));
    }

    /// <summary>Puts forms into an order; the first is the one at the plain address.</summary>
    public static Outcome<Edit<FormBook>> OrderForms(Policy policy, IReadOnlyList<string> keys)
    {
        var book = FormBook.Of(policy);
        var (ordered, unknown) = Ordering.Of(book.Forms, f => f.Key, keys);
        var puts = ordered.Select((f, place) => (f.Draft, Position: Ordering.PositionAt(place))).Where(f => f.Draft.Position != f.Position)
            .Select(f => new FormPut(f.Draft with { Position = f.Position }, book.DraftOf(f.Draft.Key!)!.Version + 1));
        return unknown is not null ? Problem.In("keys", "form-unknown", unknown)
            : InOrder(policy, ("form.order", "forms"), [.. puts], (book.Forms.Select(f => f.Key), ordered.Select(f => f.Key)));
    }

    private static Outcome<Edit<FormBook>> InOrder(
        Policy policy, (string What, string Of) name, IReadOnlyList<Change> puts, (IEnumerable<string> Before, IEnumerable<string> After) keys)
    {
        var edit = new Edit(name.What, name.Of, puts, string.Join(", ", keys.Before), string.Join(", ", keys.After));
        return policy.TryAfter(edit).Match<Outcome<Edit<FormBook>>>(
            after => new Edit<FormBook>(new CompiledEdit(edit, after), FormBook.Of(after)), problem => problem);
    }

    /// <summary>A form that cannot be read any more after an edit, and why; null where there is none.</summary>
    internal static Wording? BrokenBy(Policy policy, Edit edit)
    {
        var draft = new PolicyDraft();
        draft.Set(FormBook.Of(policy));
        edit.Changes.OfType<Change.OfPolicy>().ToList().ForEach(c => c.ApplyTo(draft));
        return draft.Part<FormBook>().Broken.Where(b => b.Kind == "form" && FormBook.Of(policy).Broken.All(o => o.Key != b.Key))
            .Select(b => Wording.Of("form-broken", b.Key, b.Problem.Detail)).FirstOrDefault();
    }
}
