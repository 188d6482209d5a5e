using System.Text.RegularExpressions;
using WarySentinel.Core.Catalogue;

namespace WarySentinel.Core.People.Forms;

/// <summary>Reads a field as somebody wrote it.</summary>
internal sealed class FieldReader(FieldDraft draft)
{
    /// <summary>Most options of a field.</summary>
    public const int MostOptions = 300;

    private const int LongestLabel = 200;
    private const int LongestHelp = 1000;
    private const int LongestPattern = 200;
    private const int MostLanguages = 40;
    private readonly Faults faults = new();
    private FieldKind kind;

    private bool HasOptions => kind is FieldKind.OneOf or FieldKind.SeveralOf;

    private bool IsText => kind is FieldKind.Text or FieldKind.LongText;

    /// <summary>The field, or everything that is wrong with it.</summary>
    public Outcome<Field> Read()
    {
        var (kindAt, format, profile) = (FieldNames.PlaceOf(FieldNames.Kinds, draft.Kind), FieldNames.PlaceOf(FieldNames.Formats, draft.Format),
            FieldNames.PlaceOf(FieldNames.Profiles, draft.Profile));
        kind = (FieldKind)(kindAt ?? 0);
        faults.Unless(
            CatalogueKey.IsValid(draft.Key) && draft.Key!.Length <= 60 && !draft.Key.Contains('.', StringComparison.Ordinal), "key", "field-key", draft.Key);
        faults.Unless(kindAt is not null, "kind", "not-one-of", draft.Kind, string.Join(", ", FieldNames.Kinds));
        faults.Unless(format is not null, "format", "not-one-of", draft.Format, string.Join(", ", FieldNames.Formats));
        faults.Unless(profile is not null, "profile", "not-one-of", draft.Profile, string.Join(", ", FieldNames.Profiles));
        Words();
        Options();
        Text((TextFormat)(format ?? 0));
        Bounds();
        Files();
        Languages();
        return faults.Any ? faults.ToProblem() : new Field(draft, kind, (TextFormat)format!.Value, (ProfileUse)profile!.Value);
    }

    private void Words()
    {
        Line(draft.Label, "label", LongestLabel, true);
        Line(draft.Help, "help", LongestHelp);
        Line(draft.Placeholder, "placeholder", LongestLabel);
        Line(draft.Message, "message", LongestHelp);
    }

    private void Line(string? text, string field, int longest, bool needed = false) =>
        faults.Unless(text is null ? !needed : text.Length <= longest && PlainText.IsClean(text) && Blank.Off(text).Length > 0, field, "form-words", longest);

    private void Options()
    {
        var options = draft.Options ?? [];
        faults.Unless(HasOptions == options.Count > 0, "options", HasOptions ? "field-options" : "field-no-options", FieldNames.Kinds[(int)kind]);
        faults.Unless(options.Count <= MostOptions, "options", "field-options-many", MostOptions);
        for (var i = 0; i < Math.Min(options.Count, MostOptions); i++)
        {
            var option = options[i];
            faults.Unless(option is not null && CatalogueKey.IsValid(option.Key), $"options[{i}].key", "key-form", option?.Key);
            Line(option?.Label, $"options[{i}].label", LongestLabel, true);
            faults.Unless(!options.Take(i).Any(o => o?.Key == option?.Key), $"options[{i}].key", "field-option-twice", option?.Key);
        }
    }

    private void Text(TextFormat format)
    {
        faults.Unless(IsText || (draft.Shortest is null && draft.Longest is null), "longest", "field-only-text", FieldNames.Kinds[(int)kind]);
        faults.Unless(kind == FieldKind.Text || format == TextFormat.Any, "format", "field-only-text", FieldNames.Kinds[(int)kind]);
        faults.Unless(IsText || draft.Pattern is null, "pattern", "field-only-text", FieldNames.Kinds[(int)kind]);
        var most = kind == FieldKind.LongText ? 20_000 : 1000;
        faults.Unless(draft.Longest is null || (draft.Longest > 0 && draft.Longest <= most), "longest", "field-bounds", most);
        faults.Unless(draft.Shortest is null || (draft.Shortest >= 0 && draft.Shortest <= (draft.Longest ?? most)), "shortest", "field-bounds",
            draft.Longest ?? most);
        if (draft.Pattern is { } pattern)
        {
            faults.Unless(pattern.Length is > 0 and <= LongestPattern && IsPattern(pattern), "pattern", "field-pattern", LongestPattern);
        }

        faults.Unless(draft.Country is null || Countries.All.Contains(draft.Country), "country", "answer-country", draft.Country);
    }

    private static bool IsPattern(string pattern)
    {
        try
        {
            // Looks around and back are not to be had; what is left takes no longer than the text is long.
            _ = new Regex($"\\A(?:{pattern})\\z", RegexOptions.NonBacktracking);
            _ = new Regex(pattern, RegexOptions.NonBacktracking);
            return true;
        }
        catch (Exception fault) when (fault is ArgumentException or NotSupportedException)
        {
            return false;
        }
    }

    private void Bounds()
    {
        foreach (var (text, field) in new[] { (draft.Least, "least"), (draft.Most, "most") })
        {
            faults.Unless(
                text is null || (kind switch
                {
                    FieldKind.Number => Numbers.Read(text) is not null,
                    FieldKind.Date => AnswerReader.IsDay(text),
                    FieldKind.SeveralOf => int.TryParse(text, out var n) && n >= 0 && n <= (draft.Options?.Count ?? 0),
                    _ => false,
                }),
                field, "field-bound", FieldNames.Kinds[(int)kind]);
        }

        faults.Unless(faults.Any || draft.Least is null || draft.Most is null || Numbers.Compare(kind, draft.Least, draft.Most) <= 0, "most",
            "field-bounds-order");
    }

    private void Files()
    {
        var isFile = kind == FieldKind.File;
        faults.Unless(isFile || (draft.Types is null && draft.Kilobytes is null), "types", "field-only-file");
        faults.Unless(draft.Types is null || (draft.Types.Count is > 0 and <= 20 && draft.Types.All(FileTypes.IsKnown)), "types", "field-types",
            string.Join(", ", FileTypes.All));
        faults.Unless(draft.Kilobytes is null or (> 0 and <= 8192), "kilobytes", "field-bounds", 8192);
    }

    private void Languages()
    {
        faults.Unless((draft.In?.Count ?? 0) <= MostLanguages, "in", "field-languages", MostLanguages);
        foreach (var (tag, words) in (draft.In ?? new Dictionary<string, FieldWords>()).Take(MostLanguages))
        {
            faults.Unless(Spelling.IsLanguage(tag), $"in.{tag}", "language", tag);
            foreach (var (text, name) in new[] { (words?.Label, "label"), (words?.Help, "help"), (words?.Placeholder, "placeholder"), (words?.Message,
                "message") })
            {
                Line(text, $"in.{tag}.{name}", name is "label" or "placeholder" ? LongestLabel : LongestHelp);
            }

            foreach (var (key, label) in words?.Options ?? new Dictionary<string, string>())
            {
                faults.Unless(draft.Options?.Any(o => o?.Key == key) == true, $"in.{tag}.options", "field-option-unknown", key);
                Line(label, $"in.{tag}.options.{key}", LongestLabel, true);
            }
        }
    }
}
