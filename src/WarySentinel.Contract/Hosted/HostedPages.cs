namespace WarySentinel.Contract.Hosted;

/// <summary>A gate that counts for a page, and where it comes from.</summary>
/// <param name="Gate">The gate's name.</param>
/// <param name="Title">What it is called.</param>
/// <param name="From">The item that it stands on.</param>
/// <param name="Admits">Whom it admits.</param>
public sealed record GuardedBy(string Gate, string Title, string From, string Admits);

/// <summary>What guards a page or a section.</summary>
/// <param name="Kind"><c>inherits</c> (as what stands above it says), <c>own</c> (a gate of its own in place of those) or <c>open</c> (lifted from
/// all).</param>
/// <param name="Own">Whom its own gate admits; null where it has none.</param>
/// <param name="By">The gates that count for it.</param>
public sealed record GuardingView(string Kind, string? Own, IReadOnlyList<GuardedBy> By);

/// <summary>Whom a page admits by a gate of its own.</summary>
/// <param name="Audience">The audience; null to have it open to everybody.</param>
public sealed record GuardingDraft(string? Audience);

/// <summary>A section of pages that are written here.</summary>
/// <param name="Key">Its name; its item is <c>section:key</c>.</param>
/// <param name="Title">Its title.</param>
/// <param name="Address">Where its pages stand; null where its item is gone.</param>
/// <param name="Description">What it is about, in a sentence.</param>
/// <param name="Layout"><c>plain</c>, <c>side</c> or <c>own</c>.</param>
/// <param name="Template">The template of the layout <c>own</c> (Liquid).</param>
/// <param name="InSite">Whether its pages stand in the site's own frame.</param>
/// <param name="Parent">The item that it stands beneath; null for the site.</param>
/// <param name="Pages">How many pages it has.</param>
/// <param name="Guarding">What guards it.</param>
/// <param name="Version">Counts its changes.</param>
public sealed record SectionView(
    string Key, string Title, string? Address, string? Description, string Layout, string? Template, bool InSite, string? Parent, int Pages,
    GuardingView Guarding, int Version);

/// <summary>What is to be set of a section.</summary>
/// <param name="Title">Its title.</param>
/// <param name="Address">Where its pages stand, such as <c>/handbook</c>.</param>
/// <param name="Description">What it is about, in a sentence.</param>
/// <param name="Layout"><c>plain</c>, <c>side</c> (usual) or <c>own</c>.</param>
/// <param name="Template">The template of the layout <c>own</c> (Liquid).</param>
/// <param name="InSite">Whether its pages stand in the site's own frame.</param>
/// <param name="Parent">The item that it stands beneath; none for the site.</param>
public sealed record HostedSectionDraft(
    string Title, string Address, string? Description = null, string? Layout = null, string? Template = null, bool? InSite = null, string? Parent = null);

/// <summary>A page that is written here.</summary>
/// <param name="Key">Its name; its item is <c>page:key</c>.</param>
/// <param name="Section">The section that it belongs to.</param>
/// <param name="Title">Its title.</param>
/// <param name="Address">Where it stands; null where its item is gone.</param>
/// <param name="Position">Where it stands among the pages of its section.</param>
/// <param name="State"><c>draft</c> (never published, or no longer), <c>published</c> or <c>scheduled</c>.</param>
/// <param name="Published">The version that is served; null where none is.</param>
/// <param name="PublishedAt">Since when (RFC 3339).</param>
/// <param name="Next">The version that is served later.</param>
/// <param name="NextAt">From when on (RFC 3339).</param>
/// <param name="Draft">The version of what is being written; 0 where nothing is.</param>
/// <param name="Guarding">What guards it.</param>
/// <param name="Look">Where it is seen.</param>
/// <param name="Version">Counts its changes.</param>
public sealed record HostedPageView(
    string Key, string Section, string Title, string? Address, int Position, string State, int? Published, string? PublishedAt, int? Next, string? NextAt,
        int Draft,
    GuardingView Guarding, string? Look, int Version);

/// <summary>A new page.</summary>
/// <param name="Section">The section that it belongs to.</param>
/// <param name="Title">Its title.</param>
/// <param name="Key">Its name; made from the title where none is said.</param>
/// <param name="Address">Where it stands; beneath its section by its name where none is said.</param>
/// <param name="Description">What it is about, in a sentence.</param>
/// <param name="Text">What it says, in Markdown.</param>
/// <param name="CopyOf">The page whose text and files it begins with.</param>
public sealed record HostedPageNew(
    string Section, string Title, string? Key = null, string? Address = null, string? Description = null, string? Text = null, string? CopyOf = null);

/// <summary>Where a page is to stand; what is null stays.</summary>
/// <param name="Section">The section that it belongs to.</param>
/// <param name="Title">Its title.</param>
/// <param name="Address">Where it stands.</param>
/// <param name="Position">Where it stands among the pages of its section.</param>
public sealed record HostedPageDraft(string? Section = null, string? Title = null, string? Address = null, int? Position = null);

/// <summary>What a page says.</summary>
/// <param name="Title">The title.</param>
/// <param name="Description">What it is about, in a sentence.</param>
/// <param name="Text">The Markdown.</param>
/// <param name="Source"><c>draft</c>, <c>published</c> or <c>version</c>.</param>
/// <param name="Number">The version; null for a draft.</param>
/// <param name="Version">The version of the draft, for <c>If-Match</c>; 0 where there is none.</param>
/// <param name="By">Who wrote it.</param>
/// <param name="At">When (RFC 3339).</param>
public sealed record HostedTextView(string Title, string? Description, string Text, string Source, int? Number, int Version, string By, string At);

/// <summary>What is written on a page.</summary>
/// <param name="Title">The title.</param>
/// <param name="Text">The Markdown.</param>
/// <param name="Description">What it is about, in a sentence.</param>
public sealed record HostedTextDraft(string Title, string Text, string? Description = null);

/// <summary>What is to be published: what is written, or what is said here.</summary>
/// <param name="At">From when on: a moment, or a day; null for at once.</param>
/// <param name="Writing">What is to be published in place of the draft.</param>
/// <param name="Was">The version that was served when it was written; null not to look. Refused where another is served by now.</param>
public sealed record PublishDraft(string? At = null, HostedTextDraft? Writing = null, int? Was = null);

/// <summary>A version of a page.</summary>
/// <param name="Number">Its number.</param>
/// <param name="Title">The title.</param>
/// <param name="By">Who published it.</param>
/// <param name="At">When (RFC 3339).</param>
/// <param name="Served">Whether it is served now.</param>
public sealed record PageVersionView(int Number, string Title, string By, string At, bool Served);

/// <summary>Which version is to be written on anew.</summary>
/// <param name="Number">Its number.</param>
public sealed record RestoreDraft(int Number);

/// <summary>A line of two texts.</summary>
/// <param name="Mark"><c> </c> for one that both have, <c>-</c> for one that only the first has, <c>+</c> for one that only the second has.</param>
/// <param name="Text">The line.</param>
public sealed record DifferenceLine(string Mark, string Text);

/// <summary>What two versions of a page differ in.</summary>
/// <param name="From">The first: a number, or <c>draft</c>.</param>
/// <param name="To">The second.</param>
/// <param name="Lines">All lines of both.</param>
public sealed record PageDifference(string From, string To, IReadOnlyList<DifferenceLine> Lines);

/// <summary>What somebody wants to see of a page before it is published.</summary>
/// <param name="Title">The title.</param>
/// <param name="Text">The Markdown.</param>
/// <param name="Description">What it is about, in a sentence.</param>
/// <param name="As">Through whose eyes: <c>guest</c> (usual), <c>signed-in</c>, <c>role:dealer</c>, …</param>
public sealed record PagePreviewDraft(string Title, string Text, string? Description = null, string? As = null);

/// <summary>Where a page is looked at before it is published.</summary>
/// <param name="Address">The address; good for half an hour.</param>
public sealed record PagePreviewView(string Address);

/// <summary>A file of a page.</summary>
/// <param name="Name">Its name, by which the page shows it or leads to it.</param>
/// <param name="Type">Its media type.</param>
/// <param name="Size">Its size, in bytes.</param>
/// <param name="Digest">SHA-256 of its content, in hexadecimal.</param>
/// <param name="By">Who put it there.</param>
/// <param name="At">When (RFC 3339).</param>
public sealed record PageFileView(string Name, string Type, int Size, string Digest, string By, string At);

/// <summary>A page that was found.</summary>
/// <param name="Page">Its name.</param>
/// <param name="Title">Its title.</param>
/// <param name="Address">Where it stands.</param>
/// <param name="Before">What stands before the word.</param>
/// <param name="Word">The word; empty where it stands in the title alone.</param>
/// <param name="After">What stands behind it.</param>
public sealed record PageHit(string Page, string Title, string Address, string Before, string Word, string After);
