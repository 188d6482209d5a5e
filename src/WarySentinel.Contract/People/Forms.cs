using System.Text.Json.Serialization;

namespace WarySentinel.Contract.People;

/// <summary>An option of a field.</summary>
/// <param name="Key">What is stored.</param>
/// <param name="Label">What is read.</param>
public sealed record OptionDraft(string? Key, string? Label);

/// <summary>The words of a field in another language; what is left out stays in the site's own.</summary>
/// <param name="Label">The name of the field.</param>
/// <param name="Help">A line beneath it.</param>
/// <param name="Placeholder">An example inside it.</param>
/// <param name="Message">What is said where an answer is not taken.</param>
/// <param name="Options">The labels of options, by their keys.</param>
public sealed record FieldWords(
    string? Label = null, string? Help = null, string? Placeholder = null, string? Message = null, IReadOnlyDictionary<string, string>? Options = null);

/// <summary>A field that answers can be given to.</summary>
public sealed record FieldDraft
{
    /// <summary>Its name, in answers, conditions, files and letters.</summary>
    public string? Key { get; init; }

    /// <summary>
    /// <c>text</c>, <c>long-text</c>, <c>one-of</c>, <c>several-of</c>, <c>yes-no</c>, <c>number</c>, <c>date</c>, <c>country</c>, <c>phone</c>,
    /// <c>address</c>, <c>url</c>, <c>file</c> or <c>consent</c>; text where nothing is said.
    /// </summary>
    public string? Kind { get; init; }

    /// <summary>What people read beside it.</summary>
    public string? Label { get; init; }

    /// <summary>A line beneath it.</summary>
    public string? Help { get; init; }

    /// <summary>An example inside it.</summary>
    public string? Placeholder { get; init; }

    /// <summary>What is said where an answer is not taken, in place of our words.</summary>
    public string? Message { get; init; }

    /// <summary>What can be chosen.</summary>
    public IReadOnlyList<OptionDraft>? Options { get; init; }

    /// <summary>Fewest characters of a text.</summary>
    public int? Shortest { get; init; }

    /// <summary>Most characters of a text.</summary>
    public int? Longest { get; init; }

    /// <summary>A regular expression that the whole text has to match.</summary>
    public string? Pattern { get; init; }

    /// <summary>What a line of text has to be: <c>any</c>, <c>vat</c>, <c>iban</c>, <c>postal-code</c> or <c>email</c>.</summary>
    public string? Format { get; init; }

    /// <summary>The least number or first day; the fewest options.</summary>
    public string? Least { get; init; }

    /// <summary>The greatest number or last day; the most options.</summary>
    public string? Most { get; init; }

    /// <summary>The country (ISO 3166-1) that a telephone number, VAT number or postal code without one is of.</summary>
    public string? Country { get; init; }

    /// <summary>Endings of the files that are taken, such as <c>pdf</c>.</summary>
    public IReadOnlyList<string>? Types { get; init; }

    /// <summary>The largest file in kilobytes.</summary>
    public int? Kilobytes { get; init; }

    /// <summary>What a member does with it on the page of their profile: <c>hidden</c>, <c>shown</c> or <c>editable</c>.</summary>
    public string? Profile { get; init; }

    /// <summary>The order among fields, lowest first.</summary>
    public int? Position { get; init; }

    /// <summary>Words in other languages, by their tags (RFC 5646).</summary>
    public IReadOnlyDictionary<string, FieldWords>? In { get; init; }
}

/// <summary>A field, and what uses it.</summary>
/// <param name="Field">What is written of it.</param>
/// <param name="Forms">The keys of the forms that it stands in.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record FieldView(FieldDraft Field, IReadOnlyList<string> Forms, int Version);

/// <summary>Answers that were erased.</summary>
/// <param name="Answers">How many.</param>
public sealed record ErasedView(int Answers);

/// <summary>A condition on answers: one of <c>all</c>, <c>any</c>, <c>not</c>, or a field with what is asked of it.</summary>
public sealed record ConditionDraft
{
    /// <summary>All of these hold.</summary>
    public IReadOnlyList<ConditionDraft>? All { get; init; }

    /// <summary>At least one of these holds.</summary>
    public IReadOnlyList<ConditionDraft>? Any { get; init; }

    /// <summary>This does not hold.</summary>
    public ConditionDraft? Not { get; init; }

    /// <summary>The key of a field.</summary>
    public string? Field { get; init; }

    /// <summary>Its answer is one of these, or has one of these among it.</summary>
    public IReadOnlyList<string>? Is { get; init; }

    /// <summary>Whether it has an answer.</summary>
    public bool? Given { get; init; }

    /// <summary>Its number or day is this or greater.</summary>
    public string? AtLeast { get; init; }

    /// <summary>Its number or day is this or less.</summary>
    public string? AtMost { get; init; }
}

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
/// <param name="Domains">The proved address lies in one of these mail domains.</param>
/// <param name="Addresses">The proved address is one of these.</param>
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
/// <param name="Title">The heading.</param>
/// <param name="Lead">What stands beneath it.</param>
public sealed record SectionWords(string? Title = null, string? Lead = null);

/// <summary>A form by which people join.</summary>
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

    /// <summary>Who may join by it: <c>closed</c>, <c>approval</c> or <c>open</c>; the site's way where nothing is said.</summary>
    public string? Way { get; init; }

    /// <summary>Whether the address has to be proved; the site's rule where nothing is said.</summary>
    public bool? Confirm { get; init; }

    /// <summary>The page of the site where whoever has joined lands.</summary>
    public string? LeadsTo { get; init; }

    /// <summary>Whether sections are shown one after the other.</summary>
    public bool? Steps { get; init; }

    /// <summary>Whether the other forms name it not.</summary>
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
}

/// <summary>A form, and where it stands.</summary>
/// <param name="Form">What is written of it.</param>
/// <param name="Address">The address of its page.</param>
/// <param name="Gives">What it gives, in sentences.</param>
/// <param name="Broken">Why it cannot be read, and is closed; null where it can.</param>
/// <param name="Version">Counts up with each change.</param>
public sealed record FormView(FormDraft Form, string Address, IReadOnlyList<string> Gives, string? Broken, int Version);

/// <summary>A question: what becomes of a form with these answers.</summary>
/// <param name="Answers">What is typed or chosen, by the keys of fields.</param>
/// <param name="Form">A form that is not stored yet; the stored one where nothing is said.</param>
/// <param name="Fields">Fields that are not stored yet, in place of those of the same key.</param>
/// <param name="Email">Who sends it, for what the address decides.</param>
public sealed record FormTryDraft(
    [property: JsonRequired] IReadOnlyDictionary<string, IReadOnlyList<string>> Answers, FormDraft? Form = null, IReadOnlyList<FieldDraft>? Fields = null,
    string? Email = null);

/// <summary>Where something can be looked at that is not stored yet.</summary>
/// <param name="Address">The address of the page, for half an hour.</param>
public sealed record PreviewView(string Address);

/// <summary>What is wrong with an answer.</summary>
/// <param name="Field">The key of the field.</param>
/// <param name="Message">What is wrong, in words.</param>
public sealed record AnswerFaultView(string Field, string Message);

/// <summary>What would become of a form with these answers.</summary>
/// <param name="Shown">The keys of the fields that are shown.</param>
/// <param name="Sections">The places of the sections that are shown, from 0.</param>
/// <param name="Answers">The answers in their one spelling.</param>
/// <param name="Faults">What is wrong.</param>
/// <param name="Grants">What it would give.</param>
/// <param name="NeedsApproval">Whether staff would have to say yes.</param>
public sealed record FormTryView(
    IReadOnlyList<string> Shown, IReadOnlyList<int> Sections, IReadOnlyList<AnswerView> Answers, IReadOnlyList<AnswerFaultView> Faults,
    IReadOnlyList<string> Grants, bool NeedsApproval);

/// <summary>What somebody answered.</summary>
/// <param name="Field">The key of the field.</param>
/// <param name="Label">The name of the field; its key where it is there no more.</param>
/// <param name="Values">The answer in its one spelling.</param>
/// <param name="Words">The answer as people read it.</param>
/// <param name="File">The file, where the field asks for one.</param>
public sealed record AnswerView(string Field, string Label, IReadOnlyList<string> Values, string Words, AnswerFileView? File = null);

/// <summary>A file that was sent.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="Name">What it was called.</param>
/// <param name="Bytes">How large it is.</param>
public sealed record AnswerFileView(Guid Id, string Name, int Bytes);

/// <summary>Other answers for a member, by the keys of fields; an empty list takes one back. Fields that are not named stay.</summary>
public sealed record AnswersDraft([property: JsonRequired] IReadOnlyDictionary<string, IReadOnlyList<string>> Answers);

/// <summary>Why a request looks like a sham.</summary>
/// <param name="Kind">What was seen.</param>
/// <param name="Words">The same, in words.</param>
public sealed record SignView(string Kind, string Words);

/// <summary>Somebody's asking to join.</summary>
/// <param name="Id">Its own name.</param>
/// <param name="Member">Their id.</param>
/// <param name="Email">Their address.</param>
/// <param name="Name">Their name.</param>
/// <param name="Form">The key of the form.</param>
/// <param name="Title">The heading of the form.</param>
/// <param name="At">When they asked.</param>
/// <param name="State"><c>unproved</c>, <c>waiting</c>, <c>asked</c>, <c>held</c>, <c>approved</c> or <c>declined</c>.</param>
/// <param name="Answers">What they answered.</param>
/// <param name="Signs">Why it looks like a sham.</param>
/// <param name="Grants">What a yes gives.</param>
/// <param name="Words">What staff said last.</param>
/// <param name="DecidedAt">When it was decided, or asked back.</param>
/// <param name="By">Who did.</param>
/// <param name="Nearby">How many others asked from the same network within a day.</param>
public sealed record RequestView(
    Guid Id, Guid Member, string Email, string Name, string Form, string Title, DateTimeOffset At, string State, IReadOnlyList<AnswerView> Answers,
    IReadOnlyList<SignView> Signs, IReadOnlyList<string> Grants, string? Words, DateTimeOffset? DecidedAt, string? By, int Nearby)
{
    /// <summary>What the same person asked before, as far as it can be told, the newest first.</summary>
    public IReadOnlyList<EarlierRequestView> Earlier { get; init; } = [];
}

/// <summary>A request of the same person, or of one who may be.</summary>
/// <param name="Email">Their address.</param>
/// <param name="At">When they asked.</param>
/// <param name="State">Where it stands.</param>
/// <param name="Words">What staff said.</param>
/// <param name="Same">What is the same: <c>member</c> (the account), <c>name</c>, or the label of a field such as a telephone or VAT number.</param>
public sealed record EarlierRequestView(string Email, DateTimeOffset At, string State, string? Words, string Same);

/// <summary>How many requests wait.</summary>
/// <param name="Waiting">Those that staff decide.</param>
/// <param name="Asked">Those that were asked back.</param>
/// <param name="Held">Those that look like shams.</param>
public sealed record RequestCounts(int Waiting, int Asked, int Held);

/// <summary>Many requests, decided at once.</summary>
/// <param name="Members">Their ids or addresses.</param>
/// <param name="Decision"><c>approve</c>, <c>decline</c> or <c>sham</c>, which removes the accounts without a letter.</param>
/// <param name="Words">Words of one's own; the letters bring them.</param>
public sealed record RequestsDecision([property: JsonRequired] IReadOnlyList<string> Members, string? Decision, string? Words = null);

/// <summary>What became of many.</summary>
/// <param name="Done">How many it was done for.</param>
/// <param name="Failed">Whom it was not done for, and why.</param>
public sealed record RequestsDecided(int Done, IReadOnlyList<RequestFailed> Failed);

/// <summary>One it was not done for.</summary>
/// <param name="Member">Who.</param>
/// <param name="Why">Why, in words.</param>
public sealed record RequestFailed(string Member, string Why);
