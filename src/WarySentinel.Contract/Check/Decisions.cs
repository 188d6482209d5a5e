using WarySentinel.Contract.Access;

namespace WarySentinel.Contract.Check;

/// <summary>A question: may this visitor do this act on this item or path, at this time?</summary>
/// <param name="Visitor"><c>guest</c>, <c>signed-in</c>, an e-mail address, <c>password:GATE</c>, or facts joined by commas:
/// <c>role:dealer,group:schools</c>.</param>
/// <param name="Act">The act; <c>open</c> unless said.</param>
/// <param name="Item">The item, or</param>
/// <param name="Path">the address on the site: <c>/shop</c>, or whole, with the site's own host.</param>
/// <param name="At">The time: a moment, or the beginning of a day in the site's time zone; now unless said.</param>
public sealed record Question(string? Visitor, string? Act, string? Item, string? Path, string? At);

/// <summary>The outcome of a question.</summary>
public sealed record DecisionView(bool Allowed, IReadOnlyList<string> Items, string? Answer, string? Gate);

/// <summary>The outcome of a question, told as a person would.</summary>
public sealed record WhyView(
    bool Allowed, string Who, string What, string Act, string Headline, IReadOnlyList<ExplanationStep> Steps, IReadOnlyList<string> Opens, string Meets,
    string? Answer, string? Gate);

/// <summary>A line of the answer to many questions: the question as it was read, and what came of it.</summary>
/// <param name="Line">The line of the file, from 1.</param>
/// <param name="Visitor">The visitor.</param>
/// <param name="Act">The act.</param>
/// <param name="What">The item or address.</param>
/// <param name="At">The time, where one was said.</param>
/// <param name="Allowed">The answer; null where the question was not understood.</param>
/// <param name="Answer">What the refused meet.</param>
/// <param name="Gate">The gate that refuses.</param>
/// <param name="Code">What is wrong with the question.</param>
/// <param name="Detail">The same in a sentence.</param>
public sealed record BulkLine(
    int Line, string? Visitor, string? Act, string? What, string? At, bool? Allowed, string? Answer, string? Gate, string? Code, string? Detail);

/// <summary>An item as a viewpoint sees it.</summary>
public sealed record SeenItem(string Item, string Title, string Kind, string Sight, IReadOnlyList<string> Parents, string? Address);

/// <summary>The catalogue as a viewpoint sees it; hidden items are only counted.</summary>
public sealed record SeenView(string Who, int Open, int Listed, int Hidden, IReadOnlyList<SeenItem> Items, string? Next);

/// <summary>A viewpoint to be opened on the live site.</summary>
/// <param name="As">The viewpoint; a guest unless said.</param>
/// <param name="Path">The page to begin at.</param>
/// <param name="At">The time to look at; now unless said.</param>
public sealed record OpenViewDraft(string? As, string? Path, string? At);

/// <summary>The address at which the live site is seen so; good for one use within two minutes.</summary>
public sealed record OpenViewView(string Url);
