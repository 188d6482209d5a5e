using WarySentinel.Core.Access;
using WarySentinel.Core.People.Consents;
using WarySentinel.Core.People.Forms;

namespace WarySentinel.Core.Pages;

/// <summary>Something of the owner's that a language has no words for, and that is put into words elsewhere.</summary>
/// <param name="Kind">What it is: <c>form</c>, <c>field</c>, <c>terms</c> or <c>letter</c>.</param>
/// <param name="Key">Its name.</param>
/// <param name="Title">What it is called.</param>
public sealed record Untold(string Kind, string Key, string Title);

/// <summary>What a language lacks.</summary>
public static class LanguageGaps
{
    /// <summary>The texts of pages that are said in another language: the owner's that are not put into this one, and ours where we do not speak it.</summary>
    public static IEnumerable<PageText> OfTexts(Policy policy, string language)
    {
        var own = TextBook.Of(policy).SpokenIn(language, policy.Settings.Language);
        if (IsOf(policy, language))
        {
            return [];
        }

        var ours = Wordbook.Find(language) is null ? TextCatalogue.OfService : [];
        return ours.Concat(TextCatalogue.OfOwner(policy)).Where(t => own.FindOwn(t.Key) is null);
    }

    /// <summary>Forms, fields and terms of the owner's own that are not in this language.</summary>
    public static IEnumerable<Untold> Elsewhere(Policy policy, string language)
    {
        if (IsOf(policy, language))
        {
            return [];
        }

        var forms = FormBook.Of(policy);
        return forms.Forms.Where(f => Lacks(f.Draft.In?.Keys, language)).Select(f => new Untold("form", f.Key, f.Draft.Title ?? f.Key))
            .Concat(forms.Fields.Where(f => Lacks(f.Draft.In?.Keys, language)).Select(f => new Untold("field", f.Key, f.Draft.Label ?? f.Key)))
            .Concat(TermsBook.Of(policy).All.Where(t => Lacks(t.Newest.In?.Keys, language)).Select(t => new Untold("terms", t.Key, t.Newest.Title)));
    }

    /// <summary>Whether it is the site's own language, with or without its region.</summary>
    public static bool IsOf(Policy policy, string language) =>
        string.Equals(language, policy.Settings.Language, StringComparison.OrdinalIgnoreCase)
        || string.Equals(language, policy.Settings.Language.Split('-')[0], StringComparison.OrdinalIgnoreCase);

    private static bool Lacks(IEnumerable<string>? there, string language) => !(there ?? []).Any(t => Spelling.Covers(t, language));
}
