using WarySentinel.Core.Access;
using WarySentinel.Core.Catalogue;
using WarySentinel.Core.Pages;

namespace WarySentinel.Core.Hosted;

/// <summary>A section of pages that the service serves itself. Its title, its address and what stands above it are those of the item
/// <c>section:key</c>.</summary>
/// <param name="Key">Its name.</param>
public sealed record HostedSection(string Key)
{
    /// <summary>What it is about, in a sentence.</summary>
    public string? Description { get; init; }

    /// <summary>How its pages are laid out: <c>plain</c>, <c>side</c> (a column with the section's pages), or <c>own</c> by a template.</summary>
    public string Layout { get; init; } = "side";

    /// <summary>The template of the layout <c>own</c> (Liquid).</summary>
    public string? Template { get; init; }

    /// <summary>Whether its pages stand in the site's own frame, where the site has named one, and not in ours.</summary>
    public bool InSite { get; init; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;

    /// <summary>The item.</summary>
    public ItemId Id => new(ItemKind.Section, Key);

    /// <summary>The key under which its description is said in other languages.</summary>
    public string DescriptionKey => TextCatalogue.DescriptionKey(Id);
}

/// <summary>A version of a page as it is served, and since when.</summary>
/// <param name="Number">Which version.</param>
/// <param name="From">Since when, or from when on.</param>
/// <param name="Title">Its title.</param>
/// <param name="Description">What it is about, in a sentence.</param>
/// <param name="Asks">The audiences that its text asks for, in their order.</param>
public sealed record PageEdition(int Number, DateTimeOffset From, string Title, string? Description, IReadOnlyList<Audience> Asks);

/// <summary>A page that the service serves itself, by its item <c>page:key</c>, which has the address. Its texts are stored by version.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Section">The section that it belongs to.</param>
public sealed record HostedPage(string Key, string Section)
{
    /// <summary>The title as the owner edits it.</summary>
    public string Title { get; init; } = "";

    /// <summary>Where it stands among the pages of its section, lowest first.</summary>
    public int Position { get; init; }

    /// <summary>What is served; null where nothing is yet, or no longer.</summary>
    public PageEdition? Now { get; init; }

    /// <summary>What is served from its time on.</summary>
    public PageEdition? Next { get; init; }

    /// <summary>The highest number that a version of it got.</summary>
    public int Last { get; init; }

    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;

    /// <summary>The item.</summary>
    public ItemId Id => new(ItemKind.Page, Key);

    /// <summary>The key under which its title is said in other languages.</summary>
    public string TitleKey => TextCatalogue.TitleKey(Id);

    /// <summary>The key under which what it is about is said in other languages.</summary>
    public string DescriptionKey => TextCatalogue.DescriptionKey(Id);

    /// <summary>What is served at a time; null where nothing is.</summary>
    public PageEdition? At(DateTimeOffset now) => Next is { } next && next.From <= now ? next : Now is { } served && served.From <= now ? served : null;
}

/// <summary>The pages that the service serves itself, and their sections. Immutable.</summary>
public sealed record HostedBook : IPolicyPart
{
    private readonly Dictionary<string, HostedPage> byKey = new(StringComparer.Ordinal);
    private readonly Dictionary<string, HostedSection> sections = new(StringComparer.Ordinal);

    /// <summary>None.</summary>
    public HostedBook()
    {
    }

    /// <summary>Some.</summary>
    public HostedBook(IEnumerable<HostedSection> sections, IEnumerable<HostedPage> pages)
    {
        Sections = [.. sections.OrderBy(s => s.Key, StringComparer.Ordinal)];
        Pages = [.. pages.OrderBy(p => p.Position).ThenBy(p => p.Key, StringComparer.Ordinal)];
        (byKey, this.sections) = (Pages.ToDictionary(p => p.Key, StringComparer.Ordinal), Sections.ToDictionary(s => s.Key, StringComparer.Ordinal));
    }

    /// <summary>The sections, by key.</summary>
    public IReadOnlyList<HostedSection> Sections { get; } = [];

    /// <summary>The pages, in the order in which they stand.</summary>
    public IReadOnlyList<HostedPage> Pages { get; } = [];

    /// <inheritdoc/>
    public IEnumerable<NamedAudience> Audiences => Pages.SelectMany(p => new[] { p.Now, p.Next }.OfType<PageEdition>().SelectMany(e => e.Asks)
        .Select(a => new NamedAudience("page", p.Key, a)));

    /// <inheritdoc/>
    public IEnumerable<PartText> Texts =>
        Sections.Where(s => s.Description is not null).Select(s => new PartText(s.DescriptionKey, s.Description!, HostedCommands.LongestDescription))
        .Concat(Pages.SelectMany(TextsOf));

    /// <summary>Those of a policy.</summary>
    public static HostedBook Of(Policy policy) => policy.Parts.Of<HostedBook>();

    /// <inheritdoc/>
    public string? Holding(ItemId id) => id.Kind switch
    {
        ItemKind.Page when Page(id.Key) is { } page => "page " + page.Key,
        ItemKind.Section when Section(id.Key) is { } section => "section " + section.Key,
        _ => null,
    };

    /// <summary>The page of that name, or null.</summary>
    public HostedPage? Page(string key) => byKey.GetValueOrDefault(key);

    /// <summary>The section of that name, or null.</summary>
    public HostedSection? Section(string key) => sections.GetValueOrDefault(key);

    /// <inheritdoc/>
    public IPolicyPart Mapped(Func<Audience, Audience> map)
    {
        var bound = Pages.Select(p => Mapped(p, map)).ToList();
        return bound.Zip(Pages, ReferenceEquals).All(same => same) ? this : new HostedBook(Sections, bound);
    }

    /// <summary>The pages that say something else than in another book.</summary>
    public IEnumerable<HostedPage> Changed(HostedBook before) => Pages.Where(p => !ReferenceEquals(before.Page(p.Key), p));

    private static IEnumerable<PartText> TextsOf(HostedPage page)
    {
        var (title, description) = (page.Now ?? page.Next) is { } served ? (served.Title, served.Description) : (page.Title, null);
        yield return new PartText(page.TitleKey, title, HostedCommands.LongestTitle);
        if (description is not null)
        {
            yield return new PartText(page.DescriptionKey, description, HostedCommands.LongestDescription);
        }
    }

    private static HostedPage Mapped(HostedPage page, Func<Audience, Audience> map)
    {
        var (now, next) = (Mapped(page.Now, map), Mapped(page.Next, map));
        return ReferenceEquals(now, page.Now) && ReferenceEquals(next, page.Next) ? page : page with { Now = now, Next = next };
    }

    private static PageEdition? Mapped(PageEdition? edition, Func<Audience, Audience> map)
    {
        var bound = edition?.Asks.Select(map).ToList();
        return bound is null || bound.Zip(edition!.Asks, ReferenceEquals).All(same => same) ? edition : edition with { Asks = bound };
    }
}

/// <summary>Stores a section.</summary>
public sealed record SectionPut(HostedSection Section) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        var book = draft.Part<HostedBook>();
        draft.Set(new HostedBook(book.Sections.Where(s => s.Key != Section.Key).Append(Section), book.Pages));
    }
}

/// <summary>Drops a section.</summary>
public sealed record SectionDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        var book = draft.Part<HostedBook>();
        draft.Set(new HostedBook(book.Sections.Where(s => s.Key != Key), book.Pages));
    }
}

/// <summary>Stores what is served of a page.</summary>
public sealed record HostedPagePut(HostedPage Page) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        var book = draft.Part<HostedBook>();
        draft.Set(new HostedBook(book.Sections, book.Pages.Where(p => p.Key != Page.Key).Append(Page)));
    }
}

/// <summary>Drops a page with all its versions, its draft, its files and what is found of it.</summary>
public sealed record HostedPageDropped(string Key) : Change.OfPolicy
{
    /// <inheritdoc/>
    public override void ApplyTo(PolicyDraft draft)
    {
        var book = draft.Part<HostedBook>();
        draft.Set(new HostedBook(book.Sections, book.Pages.Where(p => p.Key != Key)));
    }
}

/// <summary>A version of a page's text. It never changes.</summary>
/// <param name="Page">The page.</param>
/// <param name="Number">Counts the versions of a page, from 1.</param>
/// <param name="Title">The title.</param>
/// <param name="Description">What it is about, in a sentence.</param>
/// <param name="Text">The Markdown.</param>
/// <param name="By">Who published it.</param>
/// <param name="At">When.</param>
public sealed record PageVersion(string Page, int Number, string Title, string? Description, string Text, string By, DateTimeOffset At);

/// <summary>What is being written and is not published.</summary>
/// <param name="Page">The page.</param>
/// <param name="Title">The title.</param>
/// <param name="Description">What it is about, in a sentence.</param>
/// <param name="Text">The Markdown.</param>
/// <param name="Version">Counts its changes, from 1.</param>
/// <param name="By">Who wrote last.</param>
/// <param name="At">When.</param>
public sealed record PageDraftText(string Page, string Title, string? Description, string Text, int Version, string By, DateTimeOffset At);

/// <summary>Words by which a piece of a page is found.</summary>
/// <param name="Piece">Its place among <see cref="PageText.Conditions"/>; −1 for title and description.</param>
/// <param name="Words">The words, folded.</param>
/// <param name="If">What has to be answered, and how, for somebody to get the piece: <see cref="PageWordsOf.Write"/>.</param>
public sealed record PageWordsOf(int Piece, IReadOnlyList<string> Words, string If = "")
{
    /// <summary>Conditions as they are stored: <c>3+ 5- de/fr+</c> for the third question answered with yes and the fifth with no, both from 0, in
    /// German or French.</summary>
    public static string Write(IReadOnlyList<(BlockAsk Ask, bool Answer)> conditions) =>
        string.Join(' ', conditions.Select(c => $"{c.Ask}{(c.Answer ? '+' : '-')}"));

    /// <summary>Whether stored conditions hold; never where they cannot be read.</summary>
    /// <param name="stored">The conditions.</param>
    /// <param name="answers">The answers, the first in the lowest bit.</param>
    /// <param name="asks">How many questions there are.</param>
    /// <param name="language">The language that is read.</param>
    public static bool Holds(string stored, ulong answers, int asks, string language) => stored.Split(' ', StringSplitOptions.RemoveEmptyEntries).All(c =>
        BlockAsk.Parse(c.AsSpan(0, c.Length - 1), asks) is { } ask && c[^1] is '+' or '-' && ask.IsMet(answers, language) == (c[^1] == '+'));
}

/// <summary>Stores a version, with what is found of it; what is found of versions that are served no more goes.</summary>
public sealed record PageVersionAdded(PageVersion Version, IReadOnlyList<PageWordsOf> Words, IReadOnlyList<int> Served) : Change.OfPeople;

/// <summary>Stores a draft, unless somebody else changed it since version <paramref name="Was"/> (0 where there was none).</summary>
public sealed record PageDraftSet(PageDraftText Draft, int Was) : Change.OfPeople;

/// <summary>Drops a draft.</summary>
public sealed record PageDraftDropped(string Page) : Change.OfPeople;

/// <summary>A file of a page.</summary>
/// <param name="Page">The page.</param>
/// <param name="Name">Its name, such as <c>chart.png</c>.</param>
/// <param name="Type">Its media type.</param>
/// <param name="Content">All of it.</param>
/// <param name="By">Who put it there.</param>
/// <param name="At">When.</param>
public sealed record PageFile(string Page, string Name, string Type, byte[] Content, string By, DateTimeOffset At);

/// <summary>Stores a file of a page, in place of one of that name.</summary>
public sealed record PageFilePut(PageFile File) : Change.OfPeople;

/// <summary>Drops a file of a page.</summary>
public sealed record PageFileDropped(string Page, string Name) : Change.OfPeople;
