using WarySentinel.Core.Access;
using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People.Forms;

/// <summary>A field where it stands in a form.</summary>
/// <param name="Field">The field.</param>
/// <param name="Section">The place of its section, from 0.</param>
/// <param name="Required">Whether it has to be answered, where it is shown.</param>
/// <param name="ShownIf">Shows it only where this holds.</param>
public sealed record PlacedField(Field Field, int Section, bool Required, Condition? ShownIf);

/// <summary>What a form gives.</summary>
/// <param name="Kind">Role, group or plan.</param>
/// <param name="Key">Its key.</param>
/// <param name="When">Only where this holds.</param>
/// <param name="Days">For so many days; null without end.</param>
/// <param name="AfterApproval">Whether staff say yes to it first.</param>
public sealed record FormGrant(FactKind Kind, string Key, Condition? When, int? Days, bool AfterApproval)
{
    /// <summary>The fact, such as <c>group:dealers</c>.</summary>
    public string Fact => $"{FactNames.NameOf(Kind)}:{Key}";
}

/// <summary>A form by which people join, bound to its fields. Immutable.</summary>
public sealed class JoinForm
{
    internal JoinForm(
        FormDraft draft, JoinWay? way, IReadOnlyList<Condition?> sections, IReadOnlyList<PlacedField> placed, IReadOnlyList<FormGrant> grants,
            Condition? approves)
    {
        (Draft, Way, SectionConditions, Placed, Grants, ApprovesWhen) = (draft, way, sections, placed, grants, approves);
    }

    /// <summary>The form of a site that has made none: name, address and password, as the site's way of joining says.</summary>
    public static JoinForm Plain { get; } = new(new FormDraft { Key = "register" }, null, [], [], [], null);

    /// <summary>What is written of it.</summary>
    public FormDraft Draft { get; }

    /// <summary>Its name.</summary>
    public string Key => Draft.Key!;

    /// <summary>Who may join by it; null for the site's way.</summary>
    public JoinWay? Way { get; }

    /// <summary>What shows each section, in their order; null for always.</summary>
    public IReadOnlyList<Condition?> SectionConditions { get; }

    /// <summary>The fields, such that whatever one depends on stands before it.</summary>
    public IReadOnlyList<PlacedField> Placed { get; }

    /// <summary>What it gives.</summary>
    public IReadOnlyList<FormGrant> Grants { get; }

    /// <summary>What answers let somebody in without staff.</summary>
    public Condition? ApprovesWhen { get; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; internal init; } = 1;

    /// <summary>How people join by it on a site with these settings.</summary>
    public JoinSettings JoiningOn(SiteSettings settings) => new(Way ?? settings.Joining.Way, Draft.Confirm ?? settings.Joining.Confirm);

    /// <summary>Where a field stands in it; null where it doesn't.</summary>
    public PlacedField? Find(string field) => Placed.FirstOrDefault(p => p.Field.Key == field);

    /// <summary>The fields of a section in their order.</summary>
    public IEnumerable<PlacedField> FieldsOf(int section) => (Draft.Sections![section].Fields ?? []).Select(p => Find(p.Field!)!);

    /// <summary>The words in a language, those that are missing in the site's own.</summary>
    public FormWords WordsIn(string? language)
    {
        var own = new FormWords(
            Draft.Title, Draft.Lead, Draft.Button, Draft.Done, [.. (Draft.Sections ?? []).Select(s => new SectionWords(s.Title, s.Lead))]);
        return Language.Find(Draft.In, language) is not { } other ? own : new FormWords(
            other.Title ?? own.Title, other.Lead ?? own.Lead, other.Button ?? own.Button, other.Done ?? own.Done,
            [.. own.Sections!.Select((s, i) => new SectionWords(other.Sections?.ElementAtOrDefault(i)?.Title ?? s.Title,
                other.Sections?.ElementAtOrDefault(i)?.Lead ?? s.Lead))]);
    }

    /// <summary>
    /// Whether somebody comes in by it without staff: their address is of a domain, or one of those, that the form names, or their answers say so. Only an
    /// address that is proved says anything.
    /// </summary>
    public bool Approves(string email, bool isProved, FilledForm filled)
    {
        var named = Draft.Approves;
        var domain = email[(email.LastIndexOf('@') + 1)..];
        return (isProved && (named?.Domains?.Contains(domain, StringComparer.OrdinalIgnoreCase) == true
                || named?.Addresses?.Contains(email, StringComparer.OrdinalIgnoreCase) == true))
            || ApprovesWhen?.Holds(filled.AnswerOf) == true;
    }
}
