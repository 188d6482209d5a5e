namespace WarySentinel.Core.People.Forms;

/// <summary>Says a condition in words.</summary>
public static class ConditionSentence
{
    /// <summary>The condition, with the names of fields and the labels of options.</summary>
    public static Wording Of(ConditionDraft condition, FormBook book)
    {
        if (condition.Not is { } not)
        {
            return Wording.Of("condition.not", Of(not, book));
        }

        if ((condition.All ?? condition.Any) is { } parts)
        {
            var said = parts.Select(p => (p.All ?? p.Any) is { Count: > 1 } ? Wording.Of("condition.inside", Of(p, book)) : Of(p, book)).ToList();
            return said.Count == 0 ? Wording.Plain("") : said.Aggregate((one, next) => Wording.Of(condition.All is null ? "condition.or" : "condition.and",
                one, next));
        }

        var (label, options) = (AnswerWords.LabelOf(book, condition.Field ?? ""), book.FindField(condition.Field ?? "")?.WordsIn(null).Options);
        return condition switch
        {
            { Is: { } values } => Wording.Of("condition.is", label, string.Join(", ", values.Select(v => options?.GetValueOrDefault(v) ?? v))),
            { Given: { } given } => Wording.Of(given ? "condition.given" : "condition.missing", label),
            { AtLeast: not null, AtMost: not null } => Wording.Of("condition.between", label, condition.AtLeast, condition.AtMost),
            { AtLeast: not null } => Wording.Of("condition.least", label, condition.AtLeast),
            _ => Wording.Of("condition.most", label, condition.AtMost),
        };
    }
}
