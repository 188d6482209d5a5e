namespace WarySentinel.Contract.Letters;

/// <summary>A name that a template knows.</summary>
/// <param name="Name">As it is written between double braces.</param>
/// <param name="About">What it is.</param>
/// <param name="Sample">What stands there when a template is tried.</param>
/// <param name="Needed">Whether the letter has to say it.</param>
public sealed record LetterVariableView(string Name, string About, string Sample, bool Needed);

/// <summary>A kind of letter.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Title">What it is called.</param>
/// <param name="About">When it is written.</param>
/// <param name="Necessary">Whether it has to be sent.</param>
/// <param name="Own">The languages in which the owner's words count.</param>
/// <param name="Ours">The languages in which it comes with the service.</param>
/// <param name="Variables">The names that its template knows.</param>
public sealed record LetterKindView(
    string Key, string Title, string About, bool Necessary, IReadOnlyList<string> Own, IReadOnlyList<string> Ours, IReadOnlyList<LetterVariableView> Variables);

/// <summary>The template of a letter in one language.</summary>
/// <param name="Kind">The kind.</param>
/// <param name="Language">The language that was asked for.</param>
/// <param name="From">The language that it is taken from, where there is none in that one.</param>
/// <param name="Own">Whether it is the owner's.</param>
/// <param name="Subject">The subject line.</param>
/// <param name="Html">What stands in the letter's frame; null for plain text alone.</param>
/// <param name="Text">The plain text; null where it is made from the HTML.</param>
/// <param name="Version">Counts its changes; 0 for one that comes with the service.</param>
public sealed record LetterTemplateView(string Kind, string Language, string From, bool Own, string Subject, string? Html, string? Text, int Version);

/// <summary>A template to be stored, or tried.</summary>
/// <param name="Subject">The subject line.</param>
/// <param name="Html">What stands in the letter's frame.</param>
/// <param name="Text">The plain text; empty where it is to be made from the HTML.</param>
/// <param name="Member">Whose letter is shown or sent as a test: an id or address; made-up values where nobody is named.</param>
public sealed record LetterTemplateDraft(string? Subject, string? Html, string? Text, string? Member = null);

/// <summary>What becomes of a template.</summary>
/// <param name="Subject">The subject line.</param>
/// <param name="Html">The whole document; null for plain text alone.</param>
/// <param name="Text">The plain text.</param>
public sealed record LetterPreview(string Subject, string? Html, string Text);

/// <summary>Where a test letter went.</summary>
/// <param name="To">The address.</param>
public sealed record TestLetterView(string To);
