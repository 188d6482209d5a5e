namespace WarySentinel.Core.People.Forms;

/// <summary>Erases what everybody answered a field, with the files.</summary>
public sealed record AnswersErased(string Field) : Change.OfPeople;

/// <summary>Changes what members answered.</summary>
public static class AnswerCommands
{
    /// <summary>
    /// Stores other answers for a member, each as its field takes it; nothing typed takes one back. Fields that are not named stay. A field that is there no
    /// more can only be taken back.
    /// </summary>
    public static Outcome<Edit<Member>> Set(FormBook book, Member member, IReadOnlyDictionary<string, IReadOnlyList<string>> typed)
    {
        var (faults, answers) = (new Faults(), new List<FieldAnswer>());
        faults.Unless(typed.Count <= FormCommands.MostFields, "answers", "fields-many", FormCommands.MostFields);
        foreach (var (key, given) in typed.Take(FormCommands.MostFields))
        {
            List<string> values = [.. (given ?? []).Select(v => v ?? "")];
            var isEmpty = values.TrueForAll(v => Blank.Off(v).Length == 0);
            if (isEmpty && key.Length <= 60)
            {
                answers.Add(new FieldAnswer(key, []));
            }
            else if (book.FindField(key) is not { } field)
            {
                faults.Bad("answers." + key, "field-unknown", key);
            }
            else if (field.Kind == FieldKind.File)
            {
                faults.Bad("answers." + key, "answer-file-only");
            }
            else if (AnswerReader.Read(field, values) is var read && read.Problem is { } problem)
            {
                faults.Take("answers." + key, problem);
            }
            else
            {
                answers.Add(new FieldAnswer(key, read.Value));
            }
        }

        return faults.Any ? faults.ToProblem() : new Edit<Member>(
            new Edit(
                "member.answers", member.Email,
                answers.Count == 0 ? [] : [new MemberTouched(member.Id, member.Version), new AnswersSet(member.Id, answers)], null,
                string.Join(", ", answers.Select(a => a.Field))),
            answers.Count == 0 ? member : member with { Version = member.Version + 1 });
    }
}
