using WarySentinel.Core.Access;

namespace WarySentinel.Core.Pages;

/// <summary>Changes the words of visitor pages.</summary>
public static class TextCommands
{
    /// <summary>Most languages that the owner says something in.</summary>
    public const int MostLanguages = 40;

    private const int MostTexts = 5_000;

    /// <summary>Stores some texts of a language beside those that are there. Null or blank goes back to what the service says.</summary>
    /// <param name="policy">The policy.</param>
    /// <param name="draft">The language, and the texts that change.</param>
    /// <param name="version">The version that was edited; null to write over whatever is there.</param>
    public static Outcome<Edit<SiteTexts>> Set(Policy policy, TextsDraft draft, int? version = null)
    {
        var old = TextBook.Of(policy).In(draft.Language ?? "");
        if (version is { } seen && seen != old.Version)
        {
            return Problem.Of(ProblemKind.Stale, "stale", $"texts:{draft.Language}");
        }

        var words = old.Words.ToDictionary(w => w.Key, string? (w) => w.Value);
        foreach (var (key, text) in draft.Words ?? new Dictionary<string, string?>())
        {
            words[key] = text;
        }

        return Store(policy, draft.Language ?? "", words, draft.Words?.Keys);
    }

    /// <summary>Stores the texts of a language in place of all that are there.</summary>
    public static Outcome<Edit<SiteTexts>> Put(Policy policy, TextsDraft draft) =>
        Store(policy, draft.Language ?? "", draft.Words ?? new Dictionary<string, string?>(), null);

    /// <summary>Goes back to ours in a language.</summary>
    public static Outcome<Edit<SiteTexts>> Reset(Policy policy, string language) => TextBook.Of(policy).In(language) is { Version: > 0 } old
        ? new Edit<SiteTexts>(new Edit("texts.reset", language, [new TextsDropped(old.Language)]) { Detail = Detail.Of(old.ToDraft(), null) },
            SiteTexts.None(language))
        : Problem.Of(ProblemKind.NotFound, "texts-none", language);

    private static Outcome<Edit<SiteTexts>> Store(
        Policy policy, string language, IReadOnlyDictionary<string, string?> words, IEnumerable<string>? changed)
    {
        var (book, faults) = (TextBook.Of(policy), new Faults());
        var old = book.In(language);
        faults.Unless(Spelling.IsLanguage(language), "language", "language", language);
        faults.Unless(old.Version > 0 || book.All.Count < MostLanguages, "language", "field-languages", MostLanguages);
        faults.Unless(words.Count <= MostTexts, "words", "texts-many", MostTexts);
        var tidy = new SortedDictionary<string, string>(StringComparer.Ordinal);
        var looked = changed?.ToHashSet(StringComparer.Ordinal);
        foreach (var (key, typed) in words.Take(MostTexts))
        {
            var text = typed?.ReplaceLineEndings("\n").Trim() ?? "";
            // What was stored before may speak of a gate that has gone since; it does no harm, and comes back with it.
            if (text.Length > 0 && (looked is null || looked.Contains(key)))
            {
                Check(policy, language, key, text, faults);
            }

            if (text.Length > 0)
            {
                tidy[key] = text;
            }
        }

        if (faults.Any)
        {
            return faults.ToProblem("texts-invalid");
        }

        var fresh = new SiteTexts(old.Version > 0 ? old.Language : language, tidy, old.Version + 1);
        if (old.Words.Count == tidy.Count && tidy.All(t => old.Words.GetValueOrDefault(t.Key) == t.Value))
        {
            return new Edit<SiteTexts>(new Edit("texts.set", language, []), old);
        }

        Change change = tidy.Count == 0 ? new TextsDropped(fresh.Language) : new TextsPut(fresh);
        return new Edit<SiteTexts>(
            new Edit("texts.set", language, [change]) { Detail = Detail.Of(old.Version == 0 ? null : old.ToDraft(), fresh.ToDraft()) },
            tidy.Count == 0 ? SiteTexts.None(language) : fresh);
    }

    private static void Check(Policy policy, string language, string key, string text, Faults faults)
    {
        var field = $"words[{key}]";
        if (TextCatalogue.Find(policy, key) is not { } known)
        {
            var near = Nearest.To(key, TextCatalogue.OfService.Concat(TextCatalogue.OfOwner(policy)).Select(t => t.Key));
            faults.Bad(field, near is null ? "text-unknown" : "text-unknown-near", key, near);
            return;
        }

        faults.Unless(!known.IsOwners || !string.Equals(language, policy.Settings.Language, StringComparison.OrdinalIgnoreCase), field, "text-own", key);
        faults.Unless(text.Length <= known.Longest && PlainText.IsClean(text, known.HasLines), field, "text-form", known.Longest);
        var places = known.IsOwners ? new HashSet<string>() : TextCatalogue.ValuesIn(known.Text);
        if (TextCatalogue.ValuesIn(text).FirstOrDefault(v => !known.IsOwners && !places.Contains(v)) is { } odd)
        {
            faults.Bad(field, places.Count == 0 ? "text-no-value" : "text-value", odd, string.Join(", ", places.Order(StringComparer.Ordinal)));
        }
        else
        {
            faults.Unless(known.IsOwners || !TextCatalogue.HasOddBraces(text), field, "text-braces", key);
        }
    }
}
