using WarySentinel.Core.Access;
using WarySentinel.Core.Hosted;
using WarySentinel.Core.Pages;
using WarySentinel.Service.Web;

namespace WarySentinel.Service.Hosted;

/// <summary>A page that is to be made.</summary>
/// <param name="Policy">What is in force.</param>
/// <param name="Section">The section that it belongs to.</param>
/// <param name="Page">The page; null for the contents of the section.</param>
/// <param name="Title">Its title.</param>
/// <param name="Description">What it is about.</param>
/// <param name="Address">Where it stands.</param>
/// <param name="Pieces">What it says to whoever it is made for.</param>
/// <param name="Now">When.</param>
internal sealed record HostedSheet(
    Policy Policy, HostedSection Section, HostedPage? Page, string Title, string? Description, string Address, IReadOnlyList<PagePiece> Pieces,
        DateTimeOffset Now)
{
    /// <summary>How large the page's own pictures are, by their names.</summary>
    public IReadOnlyDictionary<string, (int Width, int Height)> Pictures { get; init; } = NoPictures;

    /// <summary>None.</summary>
    public static IReadOnlyDictionary<string, (int Width, int Height)> NoPictures { get; } = new Dictionary<string, (int, int)>();

    /// <summary>The title of the section.</summary>
    public string SectionTitle => TitleOf(Policy, Section);

    /// <summary>The title of a section in the language that is spoken.</summary>
    public static string TitleOf(Policy policy, HostedSection section) =>
        PageWords.Own(TextCatalogue.TitleKey(section.Id), policy.Graph.Find(section.Id)?.Title ?? section.Key);

    /// <summary>What a section is about, in the language that is spoken; null where nothing is said.</summary>
    public static string? AboutOf(HostedSection section) => section.Description is { } about ? PageWords.Own(section.DescriptionKey, about) : null;

    /// <summary>The title of a page in the language that is spoken.</summary>
    public static string TitleOf(HostedPage page, PageEdition edition) => PageWords.Own(page.TitleKey, edition.Title);

    /// <summary>What a page is about, in the language that is spoken; null where nothing is said.</summary>
    public static string? AboutOf(HostedPage page, PageEdition edition) =>
        edition.Description is { } about ? PageWords.Own(page.DescriptionKey, about) : null;

    /// <summary>Where the section stands.</summary>
    public string SectionAddress => HostedCommands.AddressOf(Policy, Section.Id) ?? "/";

    /// <summary>The pages of the section that are served, in their order.</summary>
    public IEnumerable<(HostedPage Page, PageEdition Edition, string Address)> Pages() => HostedBook.Of(Policy).Pages.Where(p => p.Section == Section.Key)
        .Select(p => (p, p.At(Now), HostedCommands.AddressOf(Policy, p.Id))).Where(p => p.Item2 is not null && p.Item3 is not null)
        .Select(p => (p.p, p.Item2!, p.Item3!));
}

/// <summary>A page as it was made, before it is filtered for one visitor.</summary>
/// <param name="Html">All of it.</param>
/// <param name="Files">The names of the files that it shows or leads to.</param>
/// <param name="HasFacts">Whether a visitor's own facts are still to be put in.</param>
internal sealed record MadePage(byte[] Html, IReadOnlySet<string> Files, bool HasFacts);
