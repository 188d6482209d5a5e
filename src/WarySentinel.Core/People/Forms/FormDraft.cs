using WarySentinel.Core.Facts;

namespace WarySentinel.Core.People.Forms;

/// <summary>A field in a form.</summary>
/// <param name="Field">The key of the field.</param>
/// <param name="Required">Whether it has to be answered, where it is shown.</param>
/// <param name="ShownIf">Shows it only where this holds.</param>
public sealed record PlacedDraft(string? Field, bool Required = false, ConditionDraft? ShownIf = null);

/// <summary>Fields of a form that stand together.</summary>
public sealed record SectionDraft
{
    /// <summary>Its heading; none where nothing is written.</summary>
    public string? Title { get; init; }

    /// <summary>A line beneath it.</summary>
    public string? Lead { get; init; }

    /// <summary>Shows it only where this holds.</summary>
    public ConditionDraft? ShownIf { get; init; }

    /// <summary>The fields in their order.</summary>
    public IReadOnlyList<PlacedDraft>? Fields { get; init; }
}

/// <summary>What a form gives by its answers.</summary>
/// <param name="Grant">A fact such as <c>group:dealers</c>.</param>
/// <param name="When">Only where this holds.</param>
/// <param name="Days">For so many days; null without end.</param>
/// <param name="AfterApproval">Whether staff say yes to it first, also where the account itself needs no yes.</param>
public sealed record FormGrantDraft(string? Grant, ConditionDraft? When = null, int? Days = null, bool AfterApproval = false);

/// <summary>What lets somebody in without staff: any of these.</summary>
/// <param name="Domains">The address lies in one of these mail domains.</param>
/// <param name="Addresses">The address is one of these.</param>
/// <param name="When">The answers say so, such as a code that was handed out.</param>
public sealed record FormApprovalDraft(IReadOnlyList<string>? Domains = null, IReadOnlyList<string>? Addresses = null, ConditionDraft? When = null);

/// <summary>The words of a form in another language.</summary>
/// <param name="Title">The heading.</param>
/// <param name="Lead">What stands beneath it.</param>
/// <param name="Button">The words on its button.</param>
/// <param name="Done">What is said when it was sent.</param>
/// <param name="Sections">Headings and lines of the sections in their order.</param>
public sealed record FormWords(
    string? Title = null, string? Lead = null, string? Button = null, string? Done = null, IReadOnlyList<SectionWords>? Sections = null);

/// <summary>The words of a section in another language.</summary>
public sealed record SectionWords(string? Title = null, string? Lead = null);

/// <summary>A form by which people join, as it is written.</summary>
public sealed record FormDraft
{
    /// <summary>Its name, and the end of its address.</summary>
    public string? Key { get; init; }

    /// <summary>The heading.</summary>
    public string? Title { get; init; }

    /// <summary>What stands beneath it.</summary>
    public string? Lead { get; init; }

    /// <summary>The words on its button.</summary>
    public string? Button { get; init; }

    /// <summary>What is said when it was sent.</summary>
    public string? Done { get; init; }

    /// <summary>Who may join by it: a name of <see cref="Access.JoinSettings.Ways"/>; the site's way where nothing is said.</summary>
    public string? Way { get; init; }

    /// <summary>Whether the address has to be proved; the site's rule where nothing is said.</summary>
    public bool? Confirm { get; init; }

    /// <summary>The page of the site where whoever has joined lands.</summary>
    public string? LeadsTo { get; init; }

    /// <summary>Whether sections are shown one after the other.</summary>
    public bool? Steps { get; init; }

    /// <summary>Whether the other forms name it.</summary>
    public bool? Unlisted { get; init; }

    /// <summary>The order among forms, lowest first; the first is the one at the plain address.</summary>
    public int? Position { get; init; }

    /// <summary>The fields.</summary>
    public IReadOnlyList<SectionDraft>? Sections { get; init; }

    /// <summary>What it gives.</summary>
    public IReadOnlyList<FormGrantDraft>? Grants { get; init; }

    /// <summary>What lets somebody in without staff.</summary>
    public FormApprovalDraft? Approves { get; init; }

    /// <summary>The terms that it asks to agree to; those that are for every member where nothing is said.</summary>
    public IReadOnlyList<string>? Terms { get; init; }

    /// <summary>Words in other languages, by their tags (RFC 5646).</summary>
    public IReadOnlyDictionary<string, FormWords>? In { get; init; }

    /// <summary>The same with another fact in place of one that it gives; the very same where it does not.</summary>
    public FormDraft Giving(string fact, string instead) => Grants?.Any(g => g.Grant == fact) != true ? this
        : this with { Grants = [.. Grants.Select(g => g.Grant == fact ? g with { Grant = instead } : g)] };
}
