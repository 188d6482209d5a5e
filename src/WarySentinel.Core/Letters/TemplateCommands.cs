using WarySentinel.Core.Access;

namespace WarySentinel.Core.Letters;

/// <summary>A template as people write it.</summary>
/// <param name="Subject">The subject line.</param>
/// <param name="Html">What stands in the letter's frame.</param>
/// <param name="Text">The plain text; empty where it is made from <paramref name="Html"/>.</param>
/// <param name="Version">The version that was edited; null to write over whatever is there.</param>
public sealed record TemplateDraft(string? Subject, string? Html, string? Text, int? Version = null);

/// <summary>Tries a template and notes what is wrong with it, each with its line and column.</summary>
public delegate void TemplateCheck(LetterKind kind, LetterTemplate template, Faults faults);

/// <summary>Changes the words of letters.</summary>
public static class TemplateCommands
{
    /// <summary>Longest subject of a template, in characters.</summary>
    public const int LongestSubject = 400;

    /// <summary>Longest text or HTML of a template, in characters.</summary>
    public const int LongestBody = 60_000;

    private const int MostLanguages = 40;

    /// <summary>Stores the owner's words. What cannot be read as a template, or names what the letter does not know, is refused.</summary>
    public static Outcome<Edit<LetterTemplate>> Put(Policy policy, string kind, string language, TemplateDraft draft, TemplateCheck check)
    {
        if (LetterKinds.Find(kind) is not { } known)
        {
            return Problem.In("kind", "letter-kind", kind, Nearest.To(kind, LetterKinds.All.Select(k => k.Key)) ?? "");
        }

        var book = LetterBook.Of(policy);
        var old = book.Find(kind, language);
        if (draft.Version is { } seen && seen != (old?.Version ?? 0))
        {
            return Problem.Of(ProblemKind.Stale, "stale", $"{kind}.{language}");
        }

        var fresh = Read(known, language, draft, old, check);
        if (fresh.Problem is { } problem)
        {
            return problem;
        }

        if (old is null && book.All.Count(t => t.Kind == kind) >= MostLanguages)
        {
            return Problem.Of(ProblemKind.Conflict, "letter-languages", MostLanguages);
        }

        var after = fresh.Value;
        var same = old is not null && old with { Version = after.Version } == after;
        return new Edit<LetterTemplate>(
            new Edit(old is null ? "letter-template.add" : "letter-template.set", after.Name, same ? [] : [new TemplatePut(after)])
            { Detail = Detail.Of(old is null ? null : DraftOf(old), DraftOf(after)) },
            same ? old! : after);
    }

    /// <summary>Goes back to the letter that comes with the service.</summary>
    public static Outcome<Edit<ChosenTemplate>> Reset(Policy policy, string kind, string language)
    {
        if (LetterBook.Of(policy).Find(kind, language) is not { } old)
        {
            return Problem.Of(ProblemKind.NotFound, "letter-template-unknown", $"{kind}.{language}");
        }

        var edit = new Edit("letter-template.reset", old.Name, [new TemplateDropped(kind, language)]) { Detail = Detail.Of(DraftOf(old), null) };
        return new Edit<ChosenTemplate>(edit, new LetterBook().Choose(kind, language, language));
    }

    /// <summary>Reads a draft, or gives every fault found in it.</summary>
    public static Outcome<LetterTemplate> Read(LetterKind kind, string language, TemplateDraft draft, LetterTemplate? old, TemplateCheck check)
    {
        var faults = new Faults();
        faults.Unless(Spelling.IsLanguage(language), "language", "language", language);
        var (subject, html, text) = (draft.Subject?.Trim() ?? "", Tidy(draft.Html), Tidy(draft.Text));
        faults.Unless(subject.Length is > 0 and <= LongestSubject && PlainText.IsClean(subject), "subject", "title-length", LongestSubject);
        faults.Unless(html is not null || text is not null, "html", "letter-empty");
        faults.Unless(html is null || (html.Length <= LongestBody && PlainText.IsClean(html, true)), "html", "letter-text", LongestBody);
        faults.Unless(text is null || (text.Length <= LongestBody && PlainText.IsClean(text, true)), "text", "letter-text", LongestBody);
        if (faults.Any)
        {
            return faults.ToProblem("letter-invalid");
        }

        var fresh = new LetterTemplate(kind.Key, language, subject, html, text, (old?.Version ?? 0) + 1);
        check(kind, fresh, faults);
        return faults.Any ? faults.ToProblem("letter-invalid") : fresh;
    }

    /// <summary>A template as people write it.</summary>
    public static TemplateDraft DraftOf(LetterTemplate template) => new(template.Subject, template.Html, template.Text);

    private static string? Tidy(string? text) => string.IsNullOrWhiteSpace(text) ? null : text.ReplaceLineEndings("\n").Trim('\n') + "\n";
}
