namespace WarySentinel.Core.Hosted;

/// <summary>A section of hosted pages, as people write it.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Title">Its title.</param>
/// <param name="Address">Where its pages stand, such as <c>/handbook</c>.</param>
/// <param name="Description">What it is about, in a sentence.</param>
/// <param name="Layout"><c>plain</c>, <c>side</c> (usual) or <c>own</c>.</param>
/// <param name="Template">The template of the layout <c>own</c> (Liquid).</param>
/// <param name="InSite">Whether its pages stand in the site's own frame.</param>
/// <param name="Parent">The item that it stands beneath; none for the site.</param>
public sealed record HostedSectionDraft(
    string? Key, string? Title, string? Address, string? Description = null, string? Layout = null, string? Template = null, bool? InSite = null,
    string? Parent = null);

/// <summary>A hosted page, as people write it.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Section">The section that it belongs to.</param>
/// <param name="Title">Its title.</param>
/// <param name="Address">Where it stands; beneath its section by its key where none is said.</param>
/// <param name="Position">Where it stands among the pages of its section; behind them where nothing is said.</param>
public sealed record HostedPageDraft(string? Key, string? Section, string? Title, string? Address = null, int? Position = null);

/// <summary>What is written on a page, as people write it.</summary>
/// <param name="Title">The title.</param>
/// <param name="Description">What it is about, in a sentence.</param>
/// <param name="Text">The Markdown.</param>
public sealed record PageWriting(string? Title, string? Description, string? Text);
