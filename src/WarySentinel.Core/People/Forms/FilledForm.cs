namespace WarySentinel.Core.People.Forms;

/// <summary>What is wrong with the answer of a field.</summary>
/// <param name="Field">The field.</param>
/// <param name="Problem">What is wrong.</param>
/// <param name="IsMissing">Whether there is none, and there has to be.</param>
public sealed record AnswerFault(Field Field, Problem Problem, bool IsMissing);

/// <summary>A form with what somebody typed: what of it is shown, what they answered, what is wrong. Immutable.</summary>
public sealed class FilledForm
{
    private readonly Dictionary<string, PlainAnswer?> shown;

    private FilledForm(Dictionary<string, PlainAnswer?> shown, IReadOnlyList<FieldAnswer> answers, IReadOnlyList<AnswerFault> faults) =>
        (this.shown, Answers, Faults) = (shown, answers, faults);

    /// <summary>The answers of the fields that are shown, in their one spelling; those without one are not among them.</summary>
    public IReadOnlyList<FieldAnswer> Answers { get; }

    /// <summary>What is wrong, in the order of the form.</summary>
    public IReadOnlyList<AnswerFault> Faults { get; }

    /// <summary>Whether a field is shown.</summary>
    public bool Shows(string field) => shown.ContainsKey(field);

    /// <summary>What conditions see of a field.</summary>
    public PlainAnswer? AnswerOf(string field) => shown.GetValueOrDefault(field);

    /// <summary>Whether a section of the form is shown.</summary>
    public bool ShowsSection(JoinForm form, int section) => form.SectionConditions[section]?.Holds(AnswerOf) ?? true;

    /// <summary>
    /// Fills a form. What is not shown counts as not answered, whatever was sent for it, also to the conditions of others.
    /// </summary>
    /// <param name="form">The form.</param>
    /// <param name="typed">What was typed or chosen for a field; empty for nothing.</param>
    public static FilledForm Of(JoinForm form, Func<string, IReadOnlyList<string>> typed)
    {
        var shown = new Dictionary<string, PlainAnswer?>(StringComparer.Ordinal);
        var (answers, faults) = (new List<FieldAnswer>(), new List<AnswerFault>());
        foreach (var placed in form.Placed)
        {
            if (form.SectionConditions[placed.Section]?.Holds(shown.GetValueOrDefault) == false || placed.ShownIf?.Holds(shown.GetValueOrDefault) == false)
            {
                continue;
            }

            var (field, raw) = (placed.Field, typed(placed.Field.Key));
            shown[field.Key] = AnswerReader.PlainOf(field, raw);
            var read = AnswerReader.Read(field, raw);
            if (read.Problem is { } problem)
            {
                faults.Add(new AnswerFault(field, problem, false));
            }
            else if (read.Value.Count > 0)
            {
                answers.Add(new FieldAnswer(field.Key, read.Value));
            }
            else if (placed.Required)
            {
                faults.Add(new AnswerFault(field, Problem.Of(ProblemKind.Invalid, MissingOf(field.Kind)), true));
            }
        }

        var order = form.Draft.Sections?.SelectMany(s => s.Fields ?? []).Select(p => p.Field).ToList() ?? [];
        return new FilledForm(shown, [.. answers.OrderBy(a => order.IndexOf(a.Field))], [.. faults.OrderBy(f => order.IndexOf(f.Field.Key))]);
    }

    /// <summary>Notes what is wrong, each under its field.</summary>
    public void Tell(Core.Faults faults)
    {
        foreach (var fault in Faults)
        {
            faults.Take("answers." + fault.Field.Key, fault.Problem);
        }
    }

    /// <summary>The answers in place of those that were given to the same form before: fields without one are emptied.</summary>
    public IReadOnlyList<FieldAnswer> InPlaceOf(JoinForm? form) =>
        [.. Answers, .. form?.Placed.Where(p => Answers.All(a => a.Field != p.Field.Key)).Select(p => new FieldAnswer(p.Field.Key, [])) ?? []];

    /// <summary>What the form gives by these answers.</summary>
    public IReadOnlyList<FormGrant> GrantsOf(JoinForm form) => [.. form.Grants.Where(g => g.When?.Holds(AnswerOf) ?? true)];

    private static string MissingOf(FieldKind kind) => kind switch
    {
        FieldKind.Consent => "answer-consent",
        FieldKind.OneOf or FieldKind.SeveralOf or FieldKind.YesNo or FieldKind.Country => "answer-choose",
        FieldKind.File => "answer-file-missing",
        _ => "answer-missing",
    };
}
